"""Decoding where it does no harm: in a helper process, where this process has them."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable, Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path

from waxseal.core.frames.frame_reader import Pixels, read_pixels
from waxseal.core.frames.isolated import run_isolated

__all__ = ["SharedFrames", "decode"]


class SharedFrames:
    """Frames that several pictures need, by several threads: each is decoded once.

    It is kept as long as a picture that was announced still needs it.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._needed: dict[Hashable, Needed] = {}

    def announce(self, keys: Iterable[Hashable]) -> None:
        """Say that one more picture will need these frames: each is kept until that one is made."""
        with self._lock:
            for key in keys:
                self._needed.setdefault(key, Needed()).pictures += 1

    @contextmanager
    def used_for(self, keys: Iterable[Hashable]) -> Iterator[None]:
        """Share what this thread decodes for a picture. Afterwards one fewer needs these frames."""
        before = _shared.set(self)
        try:
            yield
        finally:
            _shared.reset(before)
            with self._lock:
                for key in keys:
                    self._needed[key].pictures -= 1
                    if not self._needed[key].pictures:
                        del self._needed[key]

    def get(self, key: Hashable, make: Callable[[], Pixels]) -> Pixels:
        """A frame that is kept, or that `make` decodes now. What nobody announced is not kept."""
        with self._lock:
            needed = self._needed.get(key)
        if needed is None:
            return make()
        with needed.lock:  # the second thread waits for what the first one decodes
            if needed.pixels is None:
                needed.pixels = make()
            return needed.pixels


class Needed:
    """A frame, and how many pictures still need it."""

    def __init__(self) -> None:
        self.pictures = 0
        self.lock = threading.Lock()
        self.pixels: Pixels | None = None


_shared: ContextVar[SharedFrames | None] = ContextVar("shared", default=None)


def decode(path: Path, *, frame: int | None = None, part: str = "", key: Hashable = None) -> Pixels:
    """`read_pixels`, where it does no harm. Nobody may change what it gives. Raises FrameError.

    key: what it is shared under; None where it is not.
    """

    def make() -> Pixels:
        return run_isolated(read_pixels, path, frame=frame, part=part)

    shared = _shared.get()
    return make() if shared is None or key is None else shared.get(key, make)
