"""What a folder of delivered frames is, measured: every file decoded."""

from __future__ import annotations

import hashlib
import os
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from fractions import Fraction
from itertools import islice
from pathlib import Path

from waxseal.core.arrive.listing import list_paths
from waxseal.core.errors import FrameError, UnreadableInput
from waxseal.core.frames.frame_reader import Pixels, read_pixels
from waxseal.core.frames.headers import Format, Header
from waxseal.core.frames.headers.colour_metadata import code_points_of
from waxseal.core.picture.arrays import Planes
from waxseal.core.progress import CancelToken, Progress, Report, silent
from waxseal.core.seal.measure.file_facts import Look, Measured, checksum
from waxseal.core.seal.measure.measure_sound import measure_wave
from waxseal.core.text_format import plain

__all__ = ["checksum_of_all", "checksum_of_folder", "measure_frames"]

MOST_READERS = 4
MOST_BYTES = 400_000_000  # of pictures that are read ahead


def measure_frames(
    folder: Path,
    *,
    look: Look | None = None,
    expected_frames: int = 0,
    report: Report = silent,
    token: CancelToken | None = None,
) -> Measured:
    """Decode every frame of the one sequence in a folder, and the sound beside it, if any.

    look: called with each frame's place (from 0) and its pixels, see planes_of.
    expected_frames: asked for of every measure; the files are counted here.
    Raises UnreadableInput where there is not exactly one sequence, Cancelled.
    """
    del expected_frames
    token = token or CancelToken()
    found = list_paths([folder], token).sequences
    if len(found) != 1 or found[0][0] != folder.absolute():
        raise UnreadableInput(f"{plain(folder)} holds no single sequence of frames.", path=folder)
    files = found[0][1].files_in(folder)
    header: Header | None = None
    sums, size_bytes, damaged, rates = [], 0, 0, set[Fraction | None]()
    numbers = found[0][1].numbers
    paths = [(number, files.path_of(number)) for number in numbers]
    for place, one in enumerate(read_all(paths, token)):
        token.check()
        if one.pixels is None:
            damaged += 1
        else:
            header = header or one.pixels.header
            rates.add(one.pixels.header.rate)
            damaged += frame_kind(one.pixels.header) != frame_kind(header)
            if look is not None:
                look(place, planes_of(one.pixels))
        sums.append((paths[place][1].name, one.sha256))
        size_bytes += one.size_bytes
        report(Progress("checking", place + 1, len(numbers)))
    sound, loudness = None, None
    for wave in sorted(folder.glob("*.wav")):
        sound, loudness = measure_wave(wave, token)
        sums.append((wave.name, checksum(wave, token)))
        size_bytes += wave.stat().st_size
    known = {name for name, _ in sums}
    entries = sorted(folder.iterdir())
    strangers = [one.name for one in entries if one.name not in known or one.is_symlink()]
    if header is None:
        raise UnreadableInput(f"No frame in {plain(folder)} can be read.", path=folder)
    rate = rates.pop() if len(rates) == 1 else None
    count = len(numbers)
    points = code_points_of(header.stated) if header.format in (Format.PNG, Format.DPX) else (0, 0)
    return Measured(
        width=header.width,
        height=header.height,
        frames=count,
        rate=rate,
        seconds=float(count / rate) if rate else 0.0,
        codec=header.format.lower(),
        profile=f"{header.bits}" if header.bits else PROFILES.get(header.depth, header.depth),
        pixel_format="".join(header.channels),
        colour=(*points, 0, True),
        sound=sound,
        loudness=loudness,
        boxes=None,
        size_bytes=size_bytes,
        sha256=checksum_of_all(sums),
        damaged_frames=damaged + len(files.missing),
        is_uneven=len(rates) > 1,
        pixel_shape=header.pixel_shape or Fraction(1),
        strangers=tuple(strangers),
    )


@dataclass(frozen=True, slots=True, eq=False)
class File:
    """pixels: None where they cannot be read."""

    pixels: Pixels | None
    sha256: str
    size_bytes: int


def read_all(paths: list[tuple[int, Path]], token: CancelToken) -> Iterator[File]:
    """Every file in its order, each with the number of its frame; a few ahead, by all cores."""
    first = read_one(*paths[0], token)
    yield first
    held = first.pixels.values.nbytes if first.pixels is not None else 1
    cores = len(os.sched_getaffinity(0))
    workers = max(1, min(MOST_READERS, cores, MOST_BYTES // held - 1))
    reading: deque[Future[File]] = deque()
    left = iter(paths[1:])
    pool = ThreadPoolExecutor(workers, "check")
    try:
        for number, path in islice(left, workers):
            reading.append(pool.submit(read_one, number, path, token))
        while reading:
            file = reading.popleft().result()
            for number, path in islice(left, 1):
                reading.append(pool.submit(read_one, number, path, token))
            yield file
    finally:
        pool.shutdown(cancel_futures=True)


def read_one(number: int, path: Path, token: CancelToken) -> File:
    pixels = None
    with suppress(FrameError):
        pixels = read_pixels(path, frame=number)
    return File(pixels, checksum(path, token), path.stat().st_size)


PROFILES = {"uint8": "8", "uint16": "16"}  # bits


def planes_of(pixels: Pixels) -> Planes:
    """Codes as a plane for each channel; light as one for all."""
    values = pixels.values
    if values.dtype.kind != "u":
        return (values,)
    return tuple(values[..., at] for at in range(values.shape[2]))


def frame_kind(header: Header) -> tuple[object, ...]:
    return (
        *(header.width, header.height, header.pixel_shape),
        *(header.channels, header.depth, header.stated),
    )


def checksum_of_folder(folder: Path, token: CancelToken | None = None) -> str:
    """The same sum as `measure_frames` has of a folder that holds delivered frames only.

    Raises OSError, Cancelled.
    """
    return checksum_of_all([(one.name, checksum(one, token)) for one in folder.iterdir()])


def checksum_of_all(sums: list[tuple[str, str]]) -> str:
    """One sum over the sums of all files, as `sha256sum` lists them: names count too."""
    ordered = sorted(sums, key=lambda one: (len(one[0]), one[0]))
    text = "".join(f"{each}  {name}\n" for name, each in ordered)
    return hashlib.sha256(text.encode("utf-8", "surrogateescape")).hexdigest()
