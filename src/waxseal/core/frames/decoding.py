"""Decoding where it does no harm: in a helper process, where this process has them."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path

from waxseal.core.frames.careful import carefully
from waxseal.core.frames.reading import Pixels, read_pixels

__all__ = ["decode", "decoding_once"]

Decoded = dict[tuple[Path, int | None, str], Pixels]

_decoded: ContextVar[Decoded | None] = ContextVar("decoded", default=None)


@contextmanager
def decoding_once() -> Iterator[None]:
    """Until it ends, this thread decodes each frame once, however often it is asked for."""
    before = _decoded.set({})
    try:
        yield
    finally:
        _decoded.reset(before)


def decode(path: Path, *, frame: int | None = None, part: str = "") -> Pixels:
    """`read_pixels`, where it does no harm. Nobody may change what it gives. Raises FrameError."""
    decoded = _decoded.get()
    if decoded is None:
        return carefully(read_pixels, path, frame=frame, part=part)
    key = (path, frame, part)
    if key not in decoded:
        decoded[key] = carefully(read_pixels, path, frame=frame, part=part)
    return decoded[key]
