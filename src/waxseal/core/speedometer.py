"""How fast long work goes, and how long it will still take.

Beside the age of files (arrive.arrival) and the wait for room on a disk (deliver.work) the
only clock in the core.
"""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from typing import ParamSpec, TypeVar

from waxseal.core.progress import Progress

__all__ = ["Speedometer", "time_call"]

P = ParamSpec("P")
R = TypeVar("R")

# The speed is that of the last seconds, and of two segments at least: encoders keep pictures
# back and give them all at a segment's end.
SECONDS, FRAMES = 10.0, 200
SOONEST = 1.0  # seconds after which a speed can be said


class Speedometer:
    """Turns `n frames are done` into Progress. The first that is done takes no time."""

    def __init__(self, stage: str, total: int) -> None:
        self._stage, self._total = stage, total
        self._marks: deque[tuple[float, int]] = deque()

    def skip(self, done: int) -> None:
        """Count frames as done that took no time, so that the speed stays as it was."""
        self._marks = deque((when, count + done) for when, count in self._marks)

    def rest(self, seconds: float) -> None:
        """Leave a time out in which nothing was done."""
        self._marks = deque((when + seconds, count) for when, count in self._marks)

    def at(self, done: int) -> Progress:
        now = time.monotonic()
        self._marks.append((now, done))
        while len(self._marks) > 2 and self._is_enough_after(*self._marks[1]):
            self._marks.popleft()
        since, before = self._marks[0]
        speed = (done - before) / (now - since) if now - since >= SOONEST else 0.0
        left = (self._total - done) / speed if speed > 0 else None
        return Progress(self._stage, done, self._total, speed, left)

    def _is_enough_after(self, when: float, count: int) -> bool:
        now, done = self._marks[-1]
        return now - when >= SECONDS and done - count >= FRAMES


def time_call(function: Callable[P, R], *args: P.args, **kwargs: P.kwargs) -> tuple[R, float]:
    """What a function returns, and the seconds that it took."""
    begun = time.monotonic()
    return function(*args, **kwargs), time.monotonic() - begun
