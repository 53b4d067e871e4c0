"""What every format's header is turned into."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

from waxseal.core.errors import FrameError
from waxseal.core.frames.headers.colour_metadata import StatedColour
from waxseal.core.job.model import Alpha, Chromaticities, Part

__all__ = ["Broken", "Format", "Header", "Incomplete", "NotRead"]


class Format(StrEnum):
    EXR = "EXR"
    PNG = "PNG"
    TIFF = "TIFF"
    JPEG = "JPEG"
    DPX = "DPX"
    TGA = "TGA"
    IFF = "IFF"
    BMP = "BMP"
    WEBP = "WebP"
    PSD = "PSD"
    MOVIE = "movie"


class Broken(Exception):
    """A file that cannot be used; the message is the rest of a sentence."""


class NotRead(Broken):
    """One that may be whole, and is of a kind that is not read: it has to be converted."""


class Incomplete(Broken):
    """One that ends too early: cut, or still being written."""


@dataclass(frozen=True, slots=True)
class Header:
    """A frame as its file describes it.

    width, height: of the display window as it is looked at, in pixels.
    channels: all that the file has, in all its parts.
    depth: half, float, uint8, uint16. bits: of a code, where they are fewer; else 0.
    rate, chromaticities, pixel_shape (width : height): where the file says so.
    is_log: whether its values are film densities.
    stated: what it states of its colour, where its format has words for it.
    parts: the pictures in it, the first one first; empty where there is one only.
    orientation: how it has to be turned to be looked at, 1 to 8, as in Exif and TIFF.
    is_ordinary: whether the quick decoder of its format takes it.
    size_bytes: of the file. oddity: what is unusual in it and harms nothing, in a few words.
    """

    format: Format
    width: int
    height: int
    channels: tuple[str, ...]
    depth: str
    alpha: Alpha
    rate: Fraction | None = None
    chromaticities: Chromaticities | None = None
    pixel_shape: Fraction | None = None
    is_log: bool = False
    stated: StatedColour | None = None
    parts: tuple[Part, ...] = ()
    orientation: int = 1
    is_ordinary: bool = False
    size_bytes: int = 0  # of the file
    bits: int = 0
    oddity: str = ""

    def part(self, name: str) -> Part:
        """One of the pictures in the file; without a name the first. Raises FrameError."""
        if not self.parts:
            first = Part(name="", channels=self.channels)
            if not name:
                return first
        for part in self.parts:
            if not name or part.name == name:
                return part
        raise FrameError(f"it has no part “{name}”")
