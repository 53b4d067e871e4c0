"""One sound quieter while another is heard."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from waxseal.core.sound.samples import Samples

__all__ = ["Ducking"]

STEP = 100  # cells a second, in each of which the other sound is heard or not
HEARD = 10 ** (-45 / 20)  # the least peak of a cell that counts as heard
AHEAD, HOLD, BACK = 25, 40, 50  # cells: it goes down before, stays down, and comes up after


class Readable(Protocol):
    def read(self, at: int, count: int) -> Samples: ...


class Ducking:
    """How far a sound goes down for another; the same wherever reading begins.

    It goes down in a quarter of a second before the other is heard, stays down for 0.4 s
    after it, and comes up in half a second, evenly in dB.
    """

    def __init__(self, other: Readable, sample_rate: int) -> None:
        self._other, self._rate = other, sample_rate
        self._heard: dict[int, bool] = {}

    def gains(self, at: int, count: int, by: float) -> NDArray[np.float32]:
        """The factors of samples at..at+count of the reel; by: in dB."""
        first = at * STEP // self._rate - 1
        last = (at + count) * STEP // self._rate + 1
        cells = np.arange(first, last + 1)
        down = np.array([self._down(int(cell)) for cell in cells])
        middles = (cells + 0.5) * self._rate / STEP
        through = np.interp(np.arange(at, at + count) + 0.5, middles, down)
        factors: NDArray[np.float32] = np.power(10, -by * through / 20).astype(np.float32)
        return factors

    def _down(self, cell: int) -> float:
        """How far it is down in the middle of a cell, 0..1."""
        most = 0.0
        for other in range(cell - HOLD - BACK, cell + AHEAD + 1):
            if other > cell:
                share = 1 - (other - cell) / AHEAD
            else:
                share = min(1.0, 1 - (cell - HOLD - other) / BACK)
            if share > most and self._is_heard(other):
                most = share
        return most

    def _is_heard(self, cell: int) -> bool:
        if cell not in self._heard:
            first, stop = (n * self._rate // STEP for n in (cell, cell + 1))
            samples = self._other.read(first, stop - first)
            self._heard[cell] = bool(np.abs(samples).max(initial=0) >= HEARD)
        return self._heard[cell]
