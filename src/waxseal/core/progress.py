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
    """Asked by long work once a frame; cancelled, or held for a while, from any thread."""

    def __init__(self) -> None:
        self._event = threading.Event()
        self._goes_on = threading.Event()
        self._goes_on.set()

    def cancel(self) -> None:
        self._event.set()
        self._goes_on.set()

    def hold(self) -> None:
        """Let the work wait at its next check."""
        if not self._event.is_set():
            self._goes_on.clear()

    def go_on(self) -> None:
        self._goes_on.set()

    @property
    def is_held(self) -> bool:
        return not self._goes_on.is_set()

    @property
    def is_cancelled(self) -> bool:
        return self._event.is_set()

    def check(self) -> None:
        """Wait while the work is held; raise Cancelled if it is no longer wanted."""
        self._goes_on.wait()
        if self._event.is_set():
            raise Cancelled
