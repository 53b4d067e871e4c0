"""What a close look measured, kept by file: only new and changed files are decoded again."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from zipfile import BadZipFile

import numpy as np
from numpy.typing import NDArray

from waxseal.core.arrive.frame_measures import FrameMeasure, Point
from waxseal.core.atomic_write import partial_name, partials_in
from waxseal.core.job.model import Sequence
from waxseal.core.private_folder import is_private, private_folder
from waxseal.core.safe_open import open_regular

__all__ = ["CachedMeasure", "MeasureCache"]

Kept = NDArray[Any]
FORM = 2  # another number for each change of what is kept
MOST_FILES = 400


@dataclass(frozen=True, slots=True, eq=False)
class CachedMeasure:
    """identity: of the file that was measured. trouble: a sentence instead of a measure."""

    identity: str
    measure: FrameMeasure | None
    trouble: str = ""


class MeasureCache:
    """A folder of measures, a file for each sequence. Losing it costs time and nothing else."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def recall(self, sequence: Sequence) -> dict[int, CachedMeasure]:
        """By frame; empty where nothing is known or the file does not make sense."""
        if not is_private(self._folder):
            return {}
        try:
            path = self._path_of(sequence)
            with open_regular(path) as file, np.load(file, allow_pickle=False) as kept:
                parts = {name: kept[name] for name in kept.files}
            return unpack(parts)
        except (OSError, ValueError, KeyError, IndexError, EOFError, BadZipFile):
            return {}

    def keep(self, sequence: Sequence, known: dict[int, CachedMeasure]) -> None:
        """Best effort: a full disk is no reason to stop looking."""
        path = self._path_of(sequence)
        partial = partial_name(path)
        try:
            private_folder(self._folder)
            with partial.open("xb") as file:
                np.savez(file, allow_pickle=False, **pack(known))
            partial.replace(path)
            self._forget_oldest()
        except OSError:
            partial.unlink(missing_ok=True)

    def _path_of(self, sequence: Sequence) -> Path:
        files, part = sequence.files, sequence.reading.part.value
        text = "\0".join((str(FORM), files.folder, files.pattern, part))
        name = hashlib.blake2b(text.encode("utf-8", "backslashreplace"), digest_size=12).hexdigest()
        return self._folder / f"{name}.npz"

    def _forget_oldest(self) -> None:
        for left in partials_in(self._folder):
            left.unlink(missing_ok=True)
        kept = sorted(self._folder.glob("*.npz"), key=lambda path: path.stat().st_mtime)
        for path in kept[:-MOST_FILES]:
            path.unlink(missing_ok=True)


def pack(known: dict[int, CachedMeasure]) -> dict[str, Kept]:
    """As plain arrays: nothing is ever unpickled."""
    first = next((one.measure for one in known.values() if one.measure is not None), None)
    measured = [
        (frame, one)
        for frame, one in known.items()
        # A frame of quite another size has another grid: it is measured again each time.
        if first and one.measure is not None and one.measure.grid.shape == first.grid.shape
    ]
    broken = [(frame, one) for frame, one in known.items() if one.measure is None]
    measures = [one.measure for _, one in measured if one.measure is not None]
    points = [
        (frame, point.x, point.y, point.times)
        for measure, (frame, _) in zip(measures, measured, strict=True)
        for point in measure.points
    ]
    shape = measures[0].grid.shape if measures else (0, 0)
    return {
        "frames": np.array([frame for frame, _ in measured], np.int64),
        "identities": np.array([one.identity for _, one in measured], np.str_),
        "digests": np.array([measure.digest for measure in measures], np.uint64),
        "grids": np.array([measure.grid for measure in measures], np.float32).reshape(
            len(measures), *shape
        ),
        "not_numbers": np.array([measure.not_numbers for measure in measures], np.int64),
        "borders": np.array([measure.border for measure in measures], np.int64).reshape(-1, 4),
        "opaque": np.array([measure.is_opaque for measure in measures], np.bool_),
        "points": np.array(points, np.float64).reshape(-1, 4),
        "broken": np.array([frame for frame, _ in broken], np.int64),
        "broken_identities": np.array([one.identity for _, one in broken], np.str_),
        "troubles": np.array([one.trouble for _, one in broken], np.str_),
    }


def unpack(parts: dict[str, Kept]) -> dict[int, CachedMeasure]:
    points: dict[int, list[Point]] = {}
    for frame, x, y, times in parts["points"]:
        points.setdefault(int(frame), []).append(Point(int(x), int(y), float(times)))
    known = {}
    for at, frame in enumerate(parts["frames"].tolist()):
        top, right, bottom, left = parts["borders"][at].tolist()
        known[frame] = CachedMeasure(
            str(parts["identities"][at]),
            FrameMeasure(
                frame=frame,
                digest=int(parts["digests"][at]),
                grid=parts["grids"][at],
                not_numbers=int(parts["not_numbers"][at]),
                points=tuple(points.get(frame, ())),
                border=(top, right, bottom, left),
                is_opaque=bool(parts["opaque"][at]),
            ),
        )
    for frame, identity, trouble in zip(
        parts["broken"].tolist(), parts["broken_identities"], parts["troubles"], strict=True
    ):
        known[frame] = CachedMeasure(str(identity), None, str(trouble))
    return known


def still_known(
    known: dict[int, CachedMeasure], identities: Iterable[tuple[int, str]]
) -> dict[int, CachedMeasure]:
    """What is remembered of files that are as they were."""
    return {
        frame: known[frame]
        for frame, identity in identities
        if identity and frame in known and known[frame].identity == identity
    }
