"""What one destination takes: the table of all keys of a spec, and what its texts mean.

A new key is a field here, with its `Key`; the forms, the deliveries, the checks and the spec files
follow.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from enum import StrEnum
from fractions import Fraction
from functools import partial
from typing import Annotated, Any, Self, TypeVar

from pydantic import Field, field_validator, model_validator

from waxseal.core.deliver.codecs import CODECS, codec_named
from waxseal.core.deliver.containers import CONTAINERS, container_for
from waxseal.core.deliver.format.quality import parse_bitrate, parse_bytes, parse_quality
from waxseal.core.deliver.specs import spec_rules as rules
from waxseal.core.deliver.specs.name_pattern import FIELDS, fill
from waxseal.core.deliver.specs.spec_key import Key, exactly
from waxseal.core.deliver.specs.spec_values import Purpose, SoundWish
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
)
from waxseal.core.job.sizes import is_of_shape, parse_frame_shape, parse_size
from waxseal.core.job.values import Value
from waxseal.core.plan.timeline import Timeline
from waxseal.core.timing.rates import parse_rate
from waxseal.core.timing.timecode import StartTimecode

__all__ = ["KEYS", "Spec"]

T = TypeVar("T")


def all_of(kind: type[StrEnum]) -> tuple[str, ...]:
    return tuple(one.value for one in kind)


SWITCH = ("no", "yes")
SOUND_CODECS = {one.name: None for container in CONTAINERS.values() for one in container.sounds}
FRAMINGS = (Framing.FIT.value, Framing.FILL.value, Framing.STRETCH.value)


class Spec(Value):
    """One destination: a key a line, with all that belongs to it (see `spec_key.Key`).

    In the order in which somebody thinks of a place: what for, which file, which frame, which
    time, which sound. Empty lists and 0 stand for any. Sizes, shapes and rates: the first is the
    usual one. Lengths are in seconds, loudness in LUFS, peaks in dBTP; sizes are of pixels of
    `pixel_shape`, shapes are as the frame is seen.
    """

    name: Annotated[str, Field(min_length=1, max_length=100), Key(label="Name")]
    purpose: Annotated[
        Purpose, Key(label="For", choices=all_of(Purpose), taken=rules.purpose_taken)
    ]
    about: Annotated[
        str,
        Field(max_length=500),
        Key(label="About", usual="nothing", example="a sentence"),
    ] = ""
    codec: Annotated[
        str,
        Key(
            label="Codec",
            choices=tuple(CODECS),
            sets="codec",
            gives=rules.file_given,
            order=exactly("codec", "the codec"),
            file=rules.codec_written,
        ),
    ]
    container: Annotated[
        str,
        Key(
            label="Container",
            usual="the codec's usual one",
            choices=("", *CONTAINERS),
            sets="container",
            setting=rules.container_set,
            taken=rules.container_taken,
            order=rules.container_ordered,
            file=rules.container_written,
        ),
    ] = ""
    quality: Annotated[
        str,
        Key(
            label="Quality",
            usual="high",
            example="18, or 12M",
            sets="quality",
            setting=rules.quality_set,
            taken=rules.quality_taken,
        ),
    ] = ""
    alpha: Annotated[
        Alpha,
        Key(
            label="Alpha",
            choices=all_of(Alpha),
            sets="alpha",
            gives=rules.alpha_given,
            order=exactly("alpha", "alpha"),
            file=rules.alpha_written,
        ),
    ] = Alpha.NONE
    space: Annotated[
        Space | None,
        Key(
            label="Colour",
            usual="the codec's usual one",
            choices=("", *all_of(Space)),
            sets="space",
            setting=rules.space_set,
            order=exactly("space", "the colour"),
            file=rules.space_written,
        ),
    ] = None
    mastering: Annotated[
        MasteringText,
        Key(
            label="Mastering display",
            usual="not written",
            example="P3 1000 0.005",
            sets="mastering",
            order=rules.mastering_ordered,
            file=rules.mastering_written,
        ),
    ] = ""
    dither: Annotated[bool, Key(label="Dither", choices=SWITCH, sets="dither")] = False
    sizes: Annotated[
        tuple[str, ...],
        Key(
            label="Sizes",
            usual="any",
            example="1920x1080, 1280x720",
            sets="size",
            setting=rules.size_set,
            taken=rules.sizes_taken,
            gives=rules.sizes_given,
            order=rules.sizes_ordered,
            file=rules.sizes_written,
        ),
    ] = ()
    shapes: Annotated[tuple[str, ...], Key(label="Shapes", usual="any", example="9:16, 4:5")] = ()
    pixel_shape: Annotated[
        PixelShape,
        Key(
            label="Pixel shape",
            usual="square",
            example="64:45",
            sets="pixel_shape",
            gives=rules.pixels_given,
            order=exactly("pixel_shape", "the pixel shape", rules.pixel_words),
            file=rules.pixels_written,
        ),
    ] = Fraction(1)
    framing: Annotated[Framing, Key(label="Framing", choices=FRAMINGS, sets="framing")] = (
        Framing.FIT
    )
    rates: Annotated[
        tuple[str, ...],
        Key(
            label="Rates",
            usual="any",
            example="24, 30000/1001",
            sets="rate",
            setting=rules.rate_set,
            taken=rules.rates_taken,
            gives=rules.rates_given,
            order=rules.rates_ordered,
            file=rules.rates_written,
        ),
    ] = ()
    shortest: Annotated[
        float,
        Field(ge=0),
        Key(
            label="Shortest",
            usual="any length",
            example="3 (seconds)",
            order=rules.shortest_ordered,
            file=rules.shortest_written,
        ),
    ] = 0.0
    longest: Annotated[
        float,
        Field(ge=0),
        Key(
            label="Longest",
            usual="any length",
            example="60 (seconds)",
            gives=rules.longest_given,
            order=rules.longest_ordered,
            file=rules.longest_written,
        ),
    ] = 0.0
    key_seconds: Annotated[
        float,
        Field(ge=0, le=600),
        Key(
            label="Key frames",
            usual="as the codec likes",
            example="2 (seconds)",
            sets="key_seconds",
            order=rules.keys_ordered,
            file=rules.keys_written,
        ),
    ] = 0.0
    max_size: Annotated[
        str,
        Key(
            label="At most",
            usual="any size",
            example="8 MB",
            sets="most_bytes",
            setting=rules.bytes_set,
            taken=rules.bytes_taken,
            gives=rules.bytes_given,
            order=rules.bytes_ordered,
            file=rules.bytes_written,
        ),
    ] = ""
    sound: Annotated[
        SoundWish,
        Key(
            label="Sound",
            choices=all_of(SoundWish),
            order=rules.sound_ordered,
            file=rules.sound_written,
        ),
    ] = SoundWish.ALLOWED
    channels: Annotated[
        tuple[int, ...],
        Key(
            label="Channels",
            usual="any",
            example="1, 2",
            sets="sound_channels",
            setting=rules.channels_set,
            taken=rules.channels_taken,
            order=rules.channels_ordered,
            file=rules.channels_written,
        ),
    ] = ()
    sound_codec: Annotated[
        str,
        Key(
            label="Sound codec",
            usual="the container's usual one",
            choices=("", *SOUND_CODECS),
            sets="sound_codec",
            setting=rules.sound_codec_set,
            order=rules.sound_codec_ordered,
            file=rules.sound_codec_written,
        ),
    ] = ""
    loudness: Annotated[
        float | None,
        Field(ge=-40, le=-5),
        Key(
            label="Loudness",
            usual="unchanged",
            example="-14 (LUFS)",
            sets="loudness",
            gives=rules.loudness_given,
            order=rules.loudness_ordered,
            file=rules.loudness_written,
        ),
    ] = None
    true_peak: Annotated[
        float | None,
        Field(ge=-20, le=0),
        Key(
            label="True peak",
            usual="unchanged",
            example="-1 (dBTP)",
            sets="true_peak",
            order=rules.peak_ordered,
            file=rules.peak_written,
        ),
    ] = None
    timecode: Annotated[
        StartTimecode,
        Key(
            label="Timecode",
            usual="none",
            example="01:00:00:00",
            sets="timecode",
            order=rules.timecode_ordered,
            file=rules.timecode_written,
        ),
    ] = ""
    no_flashes: Annotated[
        bool,
        Key(
            label="Refuse flashes",
            choices=SWITCH,
            sets="no_flashes",
            order=rules.flashes_ordered,
            file=rules.flashes_written,
        ),
    ] = False
    naming: Annotated[
        str, Field(min_length=1, max_length=150), Key(label="Naming", usual="{job}_{spec}")
    ] = "{job}_{spec}"

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
        for key in KEYS.values():
            words = key.gives(self) if key.gives is not None else ""
            if words:
                yield words

    def settings(self, timeline: Timeline | None) -> dict[str, Any]:
        """Of a delivery; size and rate None where the reel's own will do."""
        return {"spec": self.name} | {
            key.sets: key.setting(self, timeline) if key.setting else getattr(self, name)
            for name, key in KEYS.items()
            if key.sets
        }


KEYS: dict[str, Key] = {
    name: next(one for one in field.metadata if isinstance(one, Key))
    for name, field in Spec.model_fields.items()
}


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
