"""Decoding where it does no harm: in a helper process, where this process has them."""

from __future__ import annotations

from pathlib import Path

from waxseal.core.frames.careful import carefully
from waxseal.core.frames.reading import Pixels, read_pixels

__all__ = ["decode"]


def decode(path: Path, *, frame: int | None = None, part: str = "") -> Pixels:
    """`read_pixels`, where it does no harm. Raises FrameError."""
    return carefully(read_pixels, path, frame=frame, part=part)
