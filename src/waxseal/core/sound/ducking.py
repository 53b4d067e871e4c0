"""One sound quieter while another is heard."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from waxseal.core.sound.sample_types import Samples

__all__ = ["Ducking"]

STEP = 100  # cells a second, in each of which the other sound is heard or not
HEARD = 10 ** (-45 / 20)  # the least peak of a cell that counts as heard
AHEAD, HOLD, BACK = 25, 40, 50  # cells: it goes down before, stays down, and comes up after
# How far it is down for another that is heard in a cell from BACK + HOLD before to AHEAD after.
SHARES = np.interp(
    np.arange(-HOLD - BACK, AHEAD + 1), (-HOLD - BACK, -HOLD, 0, AHEAD), (0.0, 1.0, 1.0, 0.0)
)


class Readable(Protocol):
    def read(self, at: int, count: int) -> Samples: ...
    def close(self) -> None: ...


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
        heard = [self._is_heard(cell) for cell in range(first - HOLD - BACK, last + AHEAD + 1)]
        near = np.lib.stride_tricks.sliding_window_view(np.array(heard), len(SHARES))
        down = (near * SHARES).max(axis=1)
        middles = (np.arange(first, last + 1) + 0.5) * self._rate / STEP
        through = np.interp(np.arange(at, at + count) + 0.5, middles, down)
        factors: NDArray[np.float32] = np.power(10, -by * through / 20).astype(np.float32)
        return factors

    def close(self) -> None:
        self._other.close()

    def _is_heard(self, cell: int) -> bool:
        if cell not in self._heard:
            first, stop = (n * self._rate // STEP for n in (cell, cell + 1))
            samples = self._other.read(first, stop - first)
            self._heard[cell] = bool(np.abs(samples).max(initial=0) >= HEARD)
        return self._heard[cell]
