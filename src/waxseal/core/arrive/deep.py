"""Does it look whole: every frame decoded, and held against its neighbours.

What cannot be decoded is damaged. What can is measured once, small, and
judged with the whole sequence in view, so that noise, flicker, holds and
animation on twos are told from mistakes. Thresholds stand beside their
rules; they are grounds for a second look, never for a re-render by
themselves.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from collections.abc import Sequence as Row
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.arrive.sources import identity
from waxseal.core.errors import FrameError
from waxseal.core.frames.reading import Pixels, read_pixels
from waxseal.core.job.model import Finding, FindingKind, Sequence, changed
from waxseal.core.progress import CancelToken, Report, silent
from waxseal.core.speed import Speedometer

__all__ = ["Measure", "judge_looks", "look_deep", "measure_pixels"]

ACROSS, DOWN = 32, 18
BATCH = 32

# A frame repeats its neighbour where things move: at most so many of all pairs may be alike,
# else it is a hold or drawn on twos.
MOST_ALIKE = 0.10
# Codes of 1.0 by which a frame's light has to leave its neighbours', at least, for a flash;
# and how many times what the sequence does usually.
FLASH_LEAST, FLASH_TIMES = 0.03, 8.0
LONGEST_BLACK = 2  # frames: longer black between pictures is meant


@dataclass(frozen=True, slots=True, eq=False)
class Measure:
    """What is kept of a frame that was decoded.

    digest: of all its values. grid: (DOWN, ACROSS) light, 0..1, sampled sparsely.
    not_numbers: how many values are NaN or infinite.
    """

    frame: int
    digest: int
    grid: NDArray[np.float32]
    not_numbers: int

    @property
    def light(self) -> float:
        return float(self.grid.mean())

    @property
    def is_black(self) -> bool:
        return not self.grid.any()


def measure_pixels(frame: int, pixels: Pixels) -> Measure:
    """Measure a decoded frame. Half and float light is taken as 0..1, what is brighter as 1."""
    values = pixels.values
    not_numbers = count_not_numbers(values)
    down, across = max(1, values.shape[0] // (DOWN * 4)), max(1, values.shape[1] // (ACROSS * 4))
    sparse = values[::down, ::across, :3]
    if sparse.dtype.kind == "u":
        light = sparse.astype(np.float32) / np.float32(np.iinfo(sparse.dtype).max)
    else:
        light = np.clip(np.nan_to_num(sparse.astype(np.float32), nan=0.0, posinf=1.0), 0.0, 1.0)
    grid = shrunk(light.mean(axis=2))
    digest = zlib.adler32(np.ascontiguousarray(values).data)
    return Measure(frame, digest, grid, not_numbers)


def count_not_numbers(values: NDArray[Any]) -> int:
    if values.dtype == np.float16:
        # On the bits, without the sign: an exponent of all ones, which no number has.
        bits = values.view(np.uint16) << 1
        return int(np.count_nonzero(bits >= 0xF800)) if bits.max() >= 0xF800 else 0
    if values.dtype == np.float32:
        return int(values.size - np.count_nonzero(np.isfinite(values)))
    return 0


def shrunk(light: NDArray[np.float32]) -> NDArray[np.float32]:
    """The means of at most DOWN × ACROSS blocks."""
    rows, columns = min(DOWN, light.shape[0]), min(ACROSS, light.shape[1])
    tall, wide = light.shape[0] // rows, light.shape[1] // columns
    cut = light[: tall * rows, : wide * columns]
    return np.asarray(cut.reshape(rows, tall, columns, wide).mean(axis=(1, 3)), np.float32)


def look_deep(
    sequence: Sequence, *, report: Report = silent, token: CancelToken | None = None
) -> Sequence:
    """Decode every frame; the source again, with what was found on top of the quick look.

    Raises Cancelled.
    """
    token = token or CancelToken()
    # What the quick look found damaged needs no decoder; everything else is decoded afresh.
    quick = [finding for finding in sequence.found.findings if not finding.seen]
    known = {one.frame for one in quick if one.kind is FindingKind.DAMAGED}
    frames = [
        frame
        for first, last in sequence.files.runs
        for frame in range(first, last + 1)
        if frame not in known
    ]
    speed = Speedometer("looking closely", len(frames))
    measures: list[Measure] = []
    findings = list(quick)
    wanted = sequence.reading.part.value

    def one(frame: int) -> Measure | FrameError:
        path = sequence.files.path_of(frame)
        try:
            return measure_pixels(frame, read_pixels(path, frame=frame, part=wanted))
        except FrameError as error:
            return error

    with ThreadPoolExecutor(2, "deep") as pool:
        for start in range(0, len(frames), BATCH):
            token.check()
            part = frames[start : start + BATCH]
            for frame, seen in zip(part, pool.map(one, part), strict=True):
                if isinstance(seen, Measure):
                    measures.append(seen)
                else:
                    findings.append(found(sequence, FindingKind.DAMAGED, frame, str(seen)))
            report(speed.at(start + len(part)))
    findings += [found(sequence, kind, frame, what) for kind, frame, what in judge_looks(measures)]
    findings.sort(key=lambda finding: (finding.frame, finding.kind))
    return changed(sequence, found=changed(sequence.found, findings=tuple(findings)))


def found(sequence: Sequence, kind: FindingKind, frame: int, what: str) -> Finding:
    seen = identity(sequence.files.path_of(frame))
    file = sequence.files.name_of(frame)
    return Finding(kind=kind, frame=frame, file=file, what=what, seen=seen)


Look = tuple[FindingKind, int, str]


def judge_looks(measures: Row[Measure]) -> list[Look]:
    """What deserves a second look, with its measure, over a whole sequence in order."""
    looks: list[Look] = []
    for one in measures:
        if one.not_numbers:
            what = f"{one.not_numbers} of its values are no numbers (NaN or infinite)"
            looks.append((FindingKind.NOT_NUMBERS, one.frame, what))
    black = list(lone_black(measures))
    looks += [
        (FindingKind.BLACK, frame, "all black, where its neighbours are not") for frame in black
    ]
    looks += repeats(measures)
    looks += [look for look in flashes(measures) if look[1] not in black]
    return looks


def lone_black(measures: Row[Measure]) -> Iterator[int]:
    """Black frames with pictures before and after, not more than a few in a row."""
    start = None
    for at, one in enumerate(measures):
        if one.is_black:
            start = at if start is None else start
            continue
        if start is not None and start > 0 and at - start <= LONGEST_BLACK:
            yield from (black.frame for black in measures[start:at])
        start = None


def repeats(measures: Row[Measure]) -> list[Look]:
    """Frames that hold exactly the values of the one before, while the pictures around move."""
    if len(measures) < 4:
        return []
    alike = [one.digest == other.digest for one, other in pairwise(measures)]
    if sum(alike) > max(1, int(MOST_ALIKE * len(alike))):
        return []  # drawn on twos, or held for long
    looks: list[Look] = []
    for at in range(1, len(alike) - 1):
        if alike[at] and not alike[at - 1] and not alike[at + 1]:
            frame = measures[at + 1].frame
            what = f"the same picture as {measures[at].frame}, where things move"
            looks.append((FindingKind.REPEATS, frame, what))
    return looks


def flashes(measures: Row[Measure]) -> list[Look]:
    """Single frames whose light leaves that of both neighbours, and comes back."""
    if len(measures) < 5:
        return []
    light = np.array([one.light for one in measures])
    away = light[1:-1] - (light[:-2] + light[2:]) / 2
    apart = np.abs(light[2:] - light[:-2])
    usual = float(np.median(np.abs(away)))
    looks: list[Look] = []
    for at, (by, between) in enumerate(zip(away, apart, strict=True), 1):
        if abs(by) > max(FLASH_LEAST, FLASH_TIMES * usual) and abs(by) > 2 * between:
            words = "brighter" if by > 0 else "darker"
            what = f"a flash: {abs(by):.3f} {words} than its neighbours, usually {usual:.3f}"
            looks.append((FindingKind.FLASH, measures[at].frame, what))
    return looks
