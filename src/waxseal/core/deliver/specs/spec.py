"""What one destination takes: its file's kind, and the limits that it sets."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from enum import StrEnum
from fractions import Fraction
from functools import partial
from typing import Self, TypeVar

from pydantic import Field, field_validator, model_validator

from waxseal.core.deliver.codecs import codec_named
from waxseal.core.deliver.containers import container_for
from waxseal.core.deliver.format.quality import parse_bitrate, parse_bytes, parse_quality
from waxseal.core.deliver.specs.name_pattern import FIELDS, fill
from waxseal.core.errors import WaxSealError
from waxseal.core.job.mastering import MasteringText
from waxseal.core.job.model import (
    Alpha,
    Bitrate,
    Framing,
    Graded,
    PixelShape,
    Quality,
    Size,
    Space,
    shape_words,
)
from waxseal.core.job.sizes import is_of_shape, parse_frame_shape, parse_size
from waxseal.core.job.values import Value
from waxseal.core.text_format import bytes_words, numbered
from waxseal.core.timing.rates import parse_rate, rate_words
from waxseal.core.timing.timecode import StartTimecode

__all__ = ["Purpose", "SoundWish", "Spec"]

T = TypeVar("T")


class Purpose(StrEnum):
    """What a destination is for."""

    LOOKED_AT = "to be looked at"
    UNDER_A_SIZE = "under a size"
    EDITED = "to be edited on"
    FRAMES = "frames"
    KEPT = "to be kept"

    @property
    def label(self) -> str:
        """As it is shown; the value is what spec files hold."""
        return PURPOSE_LABELS[self]


PURPOSE_LABELS = {
    Purpose.LOOKED_AT: "Viewing",
    Purpose.UNDER_A_SIZE: "Size-limited",
    Purpose.EDITED: "Editing",
    Purpose.FRAMES: "Frames",
    Purpose.KEPT: "Archive",
}


class SoundWish(StrEnum):
    ALLOWED = "allowed"
    NEEDED = "needed"
    NONE = "none"


class Spec(Value):
    """One destination. Empty lists and 0 stand for any.

    quality: a grade, the codec's own figure, or a bitrate; empty for `high`.
    sizes, shapes, rates: the first is the usual one. pixel_shape: width to height; sizes are
    of such pixels, shapes are as the frame is seen. shortest, longest, key_seconds: in seconds.
    sound_codec: by its name; empty for the container's usual. loudness, true_peak: of the whole
    sound, in LUFS and dBTP. timecode: of the first frame. no_flashes: whether those that may
    harm are refused. mastering: the display that it is said to be judged on.
    channels: of the sound. naming: of its files, see `name_pattern.fill`.
    """

    name: str = Field(min_length=1, max_length=100)
    purpose: Purpose
    about: str = Field(default="", max_length=500)
    codec: str
    container: str = ""
    quality: str = ""
    alpha: Alpha = Alpha.NONE
    space: Space | None = None
    dither: bool = False
    sizes: tuple[str, ...] = ()
    shapes: tuple[str, ...] = ()
    framing: Framing = Framing.FIT
    pixel_shape: PixelShape = Fraction(1)
    rates: tuple[str, ...] = ()
    shortest: float = Field(default=0.0, ge=0)
    longest: float = Field(default=0.0, ge=0)
    key_seconds: float = Field(default=0.0, ge=0, le=600)
    max_size: str = ""
    sound: SoundWish = SoundWish.ALLOWED
    channels: tuple[int, ...] = ()
    sound_codec: str = ""
    loudness: float | None = Field(default=None, ge=-40, le=-5)
    true_peak: float | None = Field(default=None, ge=-20, le=0)
    timecode: StartTimecode = ""
    no_flashes: bool = False
    mastering: MasteringText = ""
    naming: str = Field(default="{job}_{spec}", min_length=1, max_length=150)

    @field_validator("codec")
    @classmethod
    def codec_is_known(cls, text: str) -> str:
        return as_value_error(lambda: codec_named(text).name)

    @field_validator("quality")
    @classmethod
    def quality_is_one(cls, text: str) -> str:
        as_value_error(lambda: quality_of(text))
        return text

    @field_validator("sizes")
    @classmethod
    def sizes_are_sizes(cls, texts: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(write_size(as_value_error(partial(parse_size, one))) for one in texts)

    @field_validator("shapes")
    @classmethod
    def shapes_are_shapes(cls, texts: tuple[str, ...]) -> tuple[str, ...]:
        for one in texts:
            as_value_error(partial(parse_frame_shape, one))
        return texts

    @field_validator("rates")
    @classmethod
    def rates_are_rates(cls, texts: tuple[str, ...]) -> tuple[str, ...]:
        for one in texts:
            as_value_error(partial(parse_rate, one))
        return texts

    @field_validator("naming")
    @classmethod
    def naming_makes_a_name(cls, text: str) -> str:
        as_value_error(partial(fill, text, **dict.fromkeys(FIELDS, "x")))
        return text

    @field_validator("max_size")
    @classmethod
    def max_size_is_a_size(cls, text: str) -> str:
        if text:
            as_value_error(lambda: parse_bytes(text))
        return text

    @model_validator(mode="after")
    def goes_together(self) -> Self:
        codec = codec_named(self.codec)
        container = as_value_error(lambda: container_for(codec, self.container))
        as_value_error(lambda: container.sound_codec(self.sound_codec))
        carries = container.has_timecode or not self.timecode
        troubles = (
            "" if carries else f"{container.name} carries no timecode.",
            codec.quality_trouble(self.chosen_quality),
            codec.alpha_trouble(self.alpha, container.name),
            container.colour_trouble(self.chosen_space, codec),
            container.mastering_trouble(self.mastering, self.chosen_space),
            container.pixel_shape_trouble(self.pixel_shape, codec),
            *(container.rate_trouble(rate) for rate in self.chosen_rates),
        )
        for trouble in troubles:
            if trouble:
                raise ValueError(trouble)
        return self

    # ---- what its texts mean -----------------------------------------------------------------

    @property
    def chosen_quality(self) -> Quality:
        return quality_of(self.quality)

    @property
    def chosen_space(self) -> Space:
        return self.space or codec_named(self.codec).usual_space

    @property
    def chosen_sizes(self) -> tuple[Size, ...]:
        return tuple(parse_size(one) for one in self.sizes)

    @property
    def chosen_shapes(self) -> tuple[Fraction, ...]:
        return tuple(parse_frame_shape(one) for one in self.shapes)

    def size_trouble(self, size: Size) -> str:
        """Why it does not take a frame; empty where it does."""
        if self.sizes and size not in self.chosen_sizes:
            names = " or ".join(str(one) for one in self.chosen_sizes)
            return f"{self.name} takes {names}, not {size}"
        seen = size.seen_in(self.pixel_shape)
        if self.shapes and not any(is_of_shape(seen, one) for one in self.chosen_shapes):
            return f"{self.name} takes the shape {' or '.join(self.shapes)}, not {size}"
        return ""

    @property
    def chosen_rates(self) -> tuple[Fraction, ...]:
        return tuple(parse_rate(one) for one in self.rates)

    @property
    def most_bytes(self) -> int:
        return parse_bytes(self.max_size) if self.max_size else 0

    @property
    def container_name(self) -> str:
        return container_for(codec_named(self.codec), self.container).name

    def gives(self) -> Iterator[str]:
        """What it gives, in a few words each."""
        yield f"{self.codec} · {self.container_name}"
        if self.sizes:
            yield " or ".join(str(one) for one in self.chosen_sizes)
        elif self.shapes:
            yield " or ".join(self.shapes)
        if self.pixel_shape != 1:
            yield f"pixels {shape_words(self.pixel_shape)}"
        if self.rates:
            yield f"{', '.join(rate_words(one) for one in self.chosen_rates)} fps"
        if self.alpha is not Alpha.NONE:
            yield f"alpha {self.alpha}"
        if self.loudness is not None:
            yield f"{numbered(self.loudness, 1)} LUFS"
        if self.longest:
            yield f"at most {self.longest:g} s"
        if self.max_size:
            yield f"at most {bytes_words(self.most_bytes)}"


def quality_of(text: str) -> Quality:
    """A grade, a figure, or a bitrate with its unit. Raises WrongUse."""
    if not text:
        return Graded()
    made: Bitrate | Quality
    made = parse_bitrate(text) if text.strip()[-1:] in "kKmM" else parse_quality(text)
    return made


def write_size(size: Size) -> str:
    return f"{size.width}x{size.height}"


def as_value_error(work: Callable[[], T]) -> T:
    """What work gives; what it raises as what the model knows."""
    try:
        return work()
    except WaxSealError as error:
        raise ValueError(str(error)) from None
