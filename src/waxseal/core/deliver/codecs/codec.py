"""What a codec is to a delivery: a value that says all that the others ask of it.

No encoder is opened here and no pixels are touched: the window asks too.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from waxseal.core.job.model import (
    Bitrate,
    Chromaticities,
    ConstantQuality,
    Grade,
    Graded,
    Quality,
    Size,
    Space,
)
from waxseal.core.picture.target import Layout

if TYPE_CHECKING:  # no NumPy for those who only ask for names
    from waxseal.core.picture.arrays import Planes

__all__ = [
    "HIGH_RANGE",
    "STANDARD_RANGE",
    "Codec",
    "Facts",
    "FrameFile",
    "SoundCodec",
    "StreamEncoder",
    "Tags",
]

Tags = tuple[int, int, int, bool]  # ITU-T H.273: primaries, transfer, matrix; whether full range

# What is sRGB is tagged as BT.709, as players take it for: the codes are shown as they are.
STANDARD_RANGE: dict[Space, Tags] = {
    Space.SRGB: (1, 1, 1, False),
    Space.BT709: (1, 1, 1, False),
    Space.P3: (12, 13, 1, False),
}
HIGH_RANGE: dict[Space, Tags] = {Space.PQ: (9, 16, 9, False), Space.HLG: (9, 18, 9, False)}


SHORT = 2  # frames: no picture can be reordered


@dataclass(frozen=True, slots=True)
class Facts:
    """How a finished file of a codec measures."""

    codec: str
    profile: str
    pixel_format: str


@dataclass(frozen=True, slots=True)
class StreamEncoder:
    """How the codecs' library encodes a stream of pictures.

    library: the encoder's name there. threads: fixed, because the bytes depend on it.
    options: for every quality. figure: the option that takes the codec's own figure, and
    finest the least that it is given: below it the library leaves the profile.
    tag: what the container calls the stream; empty for the usual name.
    if_short: options in place of those where there are fewer frames than are reordered.
    """

    library: str
    pixel_format: str
    options: Mapping[str, str]
    figure: str = "crf"
    threads: int = 4
    tag: str = ""
    finest: float = 0.0
    if_short: Mapping[str, str] = field(default_factory=dict)

    def options_for(self, figure: float | None, frames: int) -> dict[str, str]:
        """What the library is told; figure: None where a bitrate is said instead."""
        options = {**self.options, **(self.if_short if frames <= SHORT else {})}
        if figure is not None:
            options[self.figure] = f"{max(figure, self.finest):g}"
        return options


@dataclass(frozen=True, slots=True)
class FrameFile:
    """How one frame becomes a file of its own. write: may raise OSError."""

    suffix: str
    write: Callable[[Path, Planes, Fraction, Chromaticities], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Codec:
    """A codec.

    name: in the job file, on the command line. title: for choosing. layout: the
    pixels that it takes. spaces: those that it carries, the usual one first, and how
    each is tagged. containers: by their names, the usual one first.
    coding: a stream in a movie, or a file a frame.
    grades: its own figure for each; empty where there is no quality to choose.
    best, coarsest: the ends of its own figures.
    bits_a_pixel: how much a grainy picture takes at a figure, about.
    most_pixels, longest, shortest: what a frame may measure.
    """

    name: str
    title: str
    layout: Layout
    spaces: Mapping[Space, Tags]
    facts: Facts
    containers: tuple[str, ...]
    coding: StreamEncoder | FrameFile
    bits_a_pixel: Callable[[float], float]
    most_pixels: int
    longest: int
    shortest: int = 1
    is_lossless: bool = False
    has_bitrate: bool = False
    grades: Mapping[Grade, float] = field(default_factory=dict)
    best: float = 0.0
    coarsest: float = 0.0

    @property
    def usual_space(self) -> Space:
        return next(iter(self.spaces))

    @property
    def takes_codes(self) -> bool:
        """Whether it holds codes of a display, which a LUT and dithering can work on."""
        return self.layout is not Layout.LIGHT

    def figure_for(self, quality: Quality) -> float | None:
        """Its own figure for a quality; None for a bitrate, and where there is none to choose."""
        if isinstance(quality, Graded):
            return self.grades.get(quality.grade)
        return quality.figure if isinstance(quality, ConstantQuality) else None

    def quality_trouble(self, quality: Quality) -> str:
        """Why it cannot be encoded at a quality; empty where it can."""
        if isinstance(quality, Graded):
            return ""
        if isinstance(quality, Bitrate):
            return "" if self.has_bitrate else f"{self.name} takes no bitrate: leave it out."
        if not self.grades:
            return f"{self.name} has no quality to choose: leave it out."
        if self.best <= quality.figure <= self.coarsest:
            return ""
        return (
            f"{self.name} has no quality {quality.figure:g}: "
            f"choose from {self.best:g} (best) to {self.coarsest:g}."
        )

    def size_trouble(self, size: Size) -> str:
        """Why a frame does not fit into it; empty where it does."""
        width, height = self.layout.stored_size(size.width, size.height)
        if min(width, height) < self.shortest:
            least = f"{self.shortest} × {self.shortest}"
            return f"A frame of {size} is too small for {self.name}: {least} is the least."
        blocks = -(-width // 16) * -(-height // 16) * 256
        if blocks > self.most_pixels or max(width, height) > self.longest:
            return f"A frame of {size} is larger than {self.name} allows: choose a smaller one."
        return ""


@dataclass(frozen=True, slots=True)
class SoundCodec:
    """A codec of sound.

    library: the encoder's name there. layouts: by the number of channels, as the
    library calls them. block: samples in one packet.
    bits_per_second: by the number of channels.
    """

    name: str
    library: str
    sample_format: str
    layouts: Mapping[int, str]
    block: int
    bits_per_second: Mapping[int, int]
