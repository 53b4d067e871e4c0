"""What a codec is to a delivery: a value that says all that the others ask of it.

No encoder is opened here and no pixels are touched: the window asks too.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from waxseal.core.job.model import (
    Alpha,
    Bitrate,
    ConstantQuality,
    Grade,
    Graded,
    Quality,
    Size,
    Space,
)
from waxseal.core.picture.target import Layout
from waxseal.core.sound.layouts import LAYOUTS

if TYPE_CHECKING:  # no NumPy for those who only ask for names
    from waxseal.core.deliver.format.resolved_format import ResolvedFormat
    from waxseal.core.picture.arrays import Plane, Planes

__all__ = [
    "HIGH_RANGE",
    "LARGE",
    "LARGEST_PIXELS",
    "LAYOUTS",
    "STANDARD_RANGE",
    "Codec",
    "Facts",
    "FrameFile",
    "SoundCodec",
    "StreamEncoder",
    "Tags",
    "always",
    "of_rgb",
]

Tags = tuple[int, int, int, bool]  # ITU-T H.273: primaries, transfer, matrix; whether full range

# What is sRGB is tagged as BT.709, as players take it for: the codes are shown as they are.
STANDARD_RANGE: dict[Space, Tags] = {
    Space.SRGB: (1, 1, 1, False),
    Space.BT709: (1, 1, 1, False),
    Space.P3: (12, 13, 1, False),
}
HIGH_RANGE: dict[Space, Tags] = {Space.PQ: (9, 16, 9, False), Space.HLG: (9, 18, 9, False)}


def of_rgb(*, is_full: bool) -> dict[Space, Tags]:
    """The tags of what holds R'G'B' and no Y'CbCr: the matrix is none, by its number 0.

    is_full: whether its files say that they have the whole range, which all of them have.
    """
    return {space: (*tags[:2], 0, is_full) for space, tags in STANDARD_RANGE.items()}


# How far apart neighbours have to be for their order to be judged, in codes of 8 bits: of the
# finest figure, so much more of the coarsest, and where there is no figure. Measured on slow
# fades, pans and drifts.
FINEST_STEP, MORE_STEP, USUAL_STEP = 0.8, 1.5, 1.8

SHORT = 2  # frames: no picture can be reordered
LARGE = 6_000_000  # pixels
# The library has no larger frame: 8 bytes for each pixel and a margin are counted in 31 bits.
# Source: av_image_check_size in imgutils.c of FFmpeg.
LARGEST_PIXELS = 16_384 * 15_900


def always(bits: float) -> Callable[[float], float]:
    """As many bits a pixel, whatever the figure."""
    return partial(same_bits, bits)


def nameless(_path: Path) -> None:
    """A file that does not say what it is called."""


def as_it_is(packet: bytes, _tags: Tags) -> bytes:
    return packet


def same_bits(bits: float, _figure: float) -> float:
    return bits


@dataclass(frozen=True, slots=True)
class Facts:
    """How a finished file of a codec measures. clear_format: the pixels' where it has alpha."""

    codec: str
    profile: str
    pixel_format: str
    clear_format: str = ""


@dataclass(frozen=True, slots=True)
class StreamEncoder:
    """How the codecs' library encodes a stream of pictures.

    library: the encoder's name there. threads: fixed, because the bytes depend on it.
    options: for every quality. figures: the options that take the codec's own figure;
    finest the least that it is given: below it the library leaves the profile; is_whole:
    whether it takes whole figures only.
    clear_format: the pixels that it is given where alpha is kept; clear_options: besides.
    other: another encoder with the same options, for odd widths.
    mend: a packet with what the encoder leaves out; gets the colour's tags, too.
    weave: a packet with an alpha that its encoder was not given; None where that is given it.
    tag: what the container calls the stream; empty for the usual name.
    has_key_frames: whether not every frame stands by itself.
    stretch: how many times the usual length its segments have: what a key frame costs it.
    least_gap: from one key frame to the next, as it is told: with less the library leaves the
    profile, so each picture is asked to be a key frame instead.
    delay: frames that it is ahead of what is shown, where pictures lean on later ones.
    if_short: options in place of those where there are fewer frames than are reordered.
    if_large: the same of frames with more pixels than that, the most last: where it holds each it
    cannot look ahead as far.
    """

    library: str
    pixel_format: str
    options: Mapping[str, str]
    figures: tuple[str, ...] = ("crf",)
    threads: int = 4
    tag: str = ""
    finest: float = 0.0
    is_whole: bool = False
    has_key_frames: bool = False
    least_gap: int = 1
    delay: int = 0
    stretch: int = 1
    clear_format: str = ""
    clear_options: Mapping[str, str] = field(default_factory=dict)
    other: str = ""
    mend: Callable[[bytes, Tags], bytes] = as_it_is
    weave: Callable[[bytes, Plane], bytes] | None = None
    if_short: Mapping[str, str] = field(default_factory=dict)
    if_large: tuple[tuple[int, Mapping[str, str]], ...] = ()

    def library_for(self, width: int) -> str:
        return self.other if self.other and width % 2 else self.library

    def options_for(
        self, figure: float | None, frames: int, *, pixels: int = 0, has_alpha: bool = False
    ) -> dict[str, str]:
        """What the library is told; figure: None where a bitrate is said instead.

        frames: of the film. pixels: of one.
        """
        options = dict(self.options)
        for least_pixels, others in self.if_large:
            if pixels > least_pixels:
                options |= others
        if frames <= SHORT:
            options |= self.if_short
        if has_alpha:
            options |= self.clear_options
        if figure is not None:
            least = max(figure, self.finest)
            for name in self.figures:
                options[name] = f"{round(least) if self.is_whole else least:g}"
        return options


@dataclass(frozen=True, slots=True)
class FrameFile:
    """How one frame becomes a file of its own. write: may raise OSError.

    says_rate: whether a file says at which rate it is one of many.
    says_pixel_shape: whether it says which shape its pixels have.
    name: writes its own name into a file that holds it.
    """

    suffix: str
    write: Callable[[Path, Planes, ResolvedFormat], None]
    says_rate: bool = True
    says_pixel_shape: bool = False
    name: Callable[[Path], None] = nameless


@dataclass(frozen=True, slots=True, kw_only=True)
class Codec:
    """A codec.

    name: in the job file, on the command line. title: for choosing. layout: the
    pixels that it takes. spaces: those that it carries, the usual one first, and how
    each is tagged. containers: by their names, the usual one first.
    coding: a stream in a movie, or a file a frame.
    grades: its own figure for each; empty where there is no quality to choose.
    best, coarsest: the ends of its own figures; of some codecs the higher is the better.
    alphas: how colour may be related to alpha, the usual one first; empty where it
    carries none. clear_containers: those that keep it.
    says_colour: whether its frames say it all themselves, where a container does not.
    untagged: how it measures in a container that says nothing of colour.
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
    alphas: tuple[Alpha, ...] = ()
    clear_containers: tuple[str, ...] = ()
    says_colour: bool = True
    untagged: Tags = (2, 2, 2, False)

    @property
    def usual_space(self) -> Space:
        return next(iter(self.spaces))

    @property
    def has_key_frames(self) -> bool:
        """Whether not every frame stands by itself."""
        return isinstance(self.coding, StreamEncoder) and self.coding.has_key_frames

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
        if 0 <= self.coarseness(quality.figure) <= 1:
            return ""
        return (
            f"{self.name} has no quality {quality.figure:g}: "
            f"choose from {self.best:g} (best) to {self.coarsest:g}."
        )

    def step_at(self, figure: float | None) -> float:
        """How far apart two neighbours have to be for their order to be judged, in codes of 8 bits.

        Of pictures that differ less, as in a slow fade, an encoder shows one for the other: the
        coarser it is, the more. figure: None for a bitrate, and where there is none to choose.
        """
        return USUAL_STEP if figure is None else FINEST_STEP + MORE_STEP * self.coarseness(figure)

    def coarseness(self, figure: float) -> float:
        """Where a figure is from the best, 0, to the coarsest, 1."""
        return (figure - self.best) / (self.coarsest - self.best)

    def alpha_trouble(self, alpha: Alpha, container: str) -> str:
        """Why a file cannot keep alpha so; empty where it can, or need not."""
        if alpha is Alpha.NONE:
            return ""
        if not self.alphas:
            return f"{self.name} carries no alpha: choose a codec that does, or leave alpha out."
        if alpha not in self.alphas:
            return f"{self.name} keeps alpha {self.alphas[0]}: choose that."
        if container not in self.clear_containers:
            names = " or ".join(self.clear_containers)
            return f"{self.name} loses its alpha in {container}: choose {names}."
        return ""

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

    library: the encoder's name there. codec: how a finished file measures.
    layouts: by the number of channels, as the library calls them. block: samples that
    are mixed at once. bits: of a sample, of what loses nothing else.
    rates: the sample rates that it takes; empty for any.
    bits_per_second: by the number of channels; empty for what is not told a bitrate.
    """

    name: str
    library: str
    codec: str
    sample_format: str
    layouts: Mapping[int, str]
    block: int = 1024
    bits: int = 0
    rates: tuple[int, ...] = ()
    bits_per_second: Mapping[int, int] = field(default_factory=dict)

    def at(self, bits: int) -> SoundCodec:
        """The same at so many bits a second, whatever the channels."""
        return replace(self, bits_per_second=dict.fromkeys(self.bits_per_second, bits))
