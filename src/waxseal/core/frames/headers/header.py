"""What every format's header is turned into."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

from waxseal.core.job.model import Alpha, Chromaticities

__all__ = ["Broken", "Format", "Header"]


class Format(StrEnum):
    EXR = "EXR"
    PNG = "PNG"
    TIFF = "TIFF"
    JPEG = "JPEG"


class Broken(Exception):
    """A file that is not whole; the message is the rest of a sentence."""


@dataclass(frozen=True, slots=True)
class Header:
    """A frame as its file describes it.

    width, height: of the display window, in pixels.
    depth: half, float, uint8, uint16.
    rate, chromaticities: where the file says so.
    is_ordinary: whether the quick decoder of its format takes it.
    """

    format: Format
    width: int
    height: int
    channels: tuple[str, ...]
    depth: str
    alpha: Alpha
    rate: Fraction | None = None
    chromaticities: Chromaticities | None = None
    is_ordinary: bool = False
