"""How long work tells how far it is, and how it is stopped."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass

from waxseal.core.errors import Cancelled

__all__ = ["CancelToken", "Progress", "Report", "Stage", "silent"]

Stage = str


@dataclass(frozen=True, slots=True)
class Progress:
    """How far a piece of long work is.

    done, total: frames, or files where files are looked through.
    per_second: frames a second over the last few seconds, 0 while unknown.
    seconds_left: an estimate, None while unknown.
    """

    stage: Stage
    done: int
    total: int
    per_second: float = 0.0
    seconds_left: float | None = None


Report = Callable[[Progress], None]


def silent(_progress: Progress) -> None:
    """A Report for work that nobody watches."""


class CancelToken:
    """Asked by long work once a frame; cancelled from any thread."""

    def __init__(self) -> None:
        self._event = threading.Event()

    def cancel(self) -> None:
        self._event.set()

    @property
    def is_cancelled(self) -> bool:
        return self._event.is_set()

    def check(self) -> None:
        """Raise Cancelled if the work is no longer wanted."""
        if self._event.is_set():
            raise Cancelled
