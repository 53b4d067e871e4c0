"""A clap in the sound and a flash in the picture: where they are, and how far apart.

The figures are common practice and have no source: a clap comes out of much less within a few
thousandths of a second; a flash changes the light of the whole picture from one frame to the next.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np

from waxseal.core.sound.sample_types import Samples

__all__ = ["ClapsAndFlashes", "claps_in", "flashes_in", "lined_up"]

STEP = 0.001  # seconds of a cell in which the loudest sample is taken
BEFORE = 100  # cells that are looked at before a clap
TIMES, LOUD = 8.0, 0.03  # of what was before; and the least swing
APART = 250  # cells between two claps
RISES = 0.25  # of its own swing: where it begins
JUMP = 0.15  # of the light of a whole frame, 0..1
FARTHEST = 1.0  # seconds between a clap and its flash
MOST = 200  # of either: where there are more, they are no marks


@dataclass(frozen=True, slots=True)
class ClapsAndFlashes:
    """Seconds of the claps and of the flashes.

    late: seconds by which the sound is behind the picture, less than 0 where it is ahead; None
    where no clap belongs to a flash.
    """

    claps: tuple[float, ...]
    flashes: tuple[float, ...]
    late: float | None


def claps_in(blocks: Iterable[Samples], sample_rate: int) -> tuple[float, ...]:
    """The seconds at which a clap begins, to the sample. Raises SoundError."""
    size = max(1, round(sample_rate * STEP))
    whole = [np.abs(block).max(axis=1, initial=0) for block in blocks]
    if not whole:
        return ()
    swings = np.concatenate(whole)
    swings = np.concatenate([swings, np.zeros(-len(swings) % size, np.float32)])
    cells = swings.reshape(-1, size).max(axis=1)
    found: list[float] = []
    last = -APART
    padded = np.concatenate([np.zeros(BEFORE, np.float32), cells])
    before = np.lib.stride_tricks.sliding_window_view(padded, BEFORE)[:-1].max(axis=1)
    for cell in np.flatnonzero((cells >= LOUD) & (cells > TIMES * before)):
        if cell - last >= APART:
            near = swings[cell * size : (cell + 5) * size]
            begins = int(np.argmax(near >= RISES * near.max()))
            found.append((int(cell) * size + begins) / sample_rate)
        last = int(cell)
    return tuple(found)


def flashes_in(lights: Sequence[float]) -> tuple[int, ...]:
    """The frames, from 0, that are much brighter than the one before. lights: means, 0..1."""
    rises = np.diff(np.asarray(lights, np.float64), prepend=lights[:1])
    return tuple(int(frame) for frame in np.flatnonzero(rises >= JUMP))


def lined_up(claps: Sequence[float], flashes: Sequence[float]) -> ClapsAndFlashes:
    """How far the claps are behind the flashes that are nearest to them, in the middle of all."""
    late = None
    if flashes and claps and max(len(flashes), len(claps)) <= MOST:
        there = np.asarray(flashes)
        away = [clap - float(there[np.argmin(np.abs(there - clap))]) for clap in claps]
        near = [one for one in away if abs(one) <= FARTHEST]
        if 2 * len(near) >= len(away):
            late = float(median(near))
    return ClapsAndFlashes(tuple(claps), tuple(flashes), late)
