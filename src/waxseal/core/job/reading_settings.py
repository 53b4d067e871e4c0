"""How a source is read, and where each value comes from."""

from __future__ import annotations

import re
from enum import StrEnum
from fractions import Fraction
from typing import Annotated, Any, Generic, Self, TypeVar

from pydantic import AfterValidator, BeforeValidator, Field, PlainSerializer, model_validator
from typing_extensions import override

from waxseal.core.errors import WrongUse
from waxseal.core.job.paths import PathText
from waxseal.core.job.primaries import BT709, PRIMARIES, Chromaticities, primaries_name
from waxseal.core.job.values import FrameNumber, Value
from waxseal.core.timing.exact_rates import read_exact
from waxseal.core.timing.ranges import FrameRange
from waxseal.core.timing.rates import Rate, in_bounds

__all__ = [
    "BT709",
    "DISPLAY_ENCODED",
    "Alpha",
    "Chromaticities",
    "Colour",
    "ColourReference",
    "HexColour",
    "Order",
    "Origin",
    "PixelShape",
    "Reading",
    "StandIn",
    "WithOrigin",
    "colour_choices",
    "colour_words",
    "parse_colour",
    "parse_pixel_shape",
    "shape_words",
]


T = TypeVar("T")


class Origin(StrEnum):
    """Where a value of a reading comes from."""

    WRITTEN = "written"  # in the file
    HABIT = "habit"  # this job's
    GUESS = "guess"  # to be confirmed
    SAID = "said"  # by the user


class WithOrigin(Value, Generic[T]):
    """A value, where it comes from, and perhaps the evidence for it."""

    value: T
    origin: Origin
    why: str = ""

    @classmethod
    @override
    def model_rebuild(cls, **words: Any) -> bool | None:
        """Pydantic calls this at the first `Told[…]`, with `_types_namespace`.

        No validator is made then: that takes 50 ms, and the window starts without one.
        """
        return None if "_types_namespace" in words else super().model_rebuild(**words)


class Alpha(StrEnum):
    NONE = "none"
    STRAIGHT = "straight"
    PREMULTIPLIED = "premultiplied"


class Colour(StrEnum):
    """What the numbers in a file mean."""

    LINEAR = "scene-linear"
    SRGB = "sRGB"
    BT709 = "BT.709 display"
    FILM_LOG = "film log"  # densities of a scanned negative, as in Cineon and DPX files
    PQ = "PQ"  # of a high-range display: ITU-R BT.2100
    HLG = "HLG"
    RAW = "raw"  # no colour at all: shown as it is
    OWN = "of the config"  # a space of the OCIO config, by its name there


# What a display is driven with, as it is.
DISPLAY_ENCODED = (Colour.SRGB, Colour.BT709, Colour.RAW)
# The same of a display of high range: the white of graphics is 1, and what is brighter above it.
HIGH_RANGE = (Colour.PQ, Colour.HLG)


class ColourReference(StrEnum):
    """What the colour of a source stands for."""

    SCENE = "scene"  # light in front of a camera: it goes through the reel's view
    GRAPHICS = "graphics"  # what a display shows: laid over after the view, as it is


class Order(StrEnum):
    FORWARD = "forward"
    REVERSED = "reversed"


class StandIn(StrEnum):
    """What is shown for a frame that is not there."""

    STOP = "stop"  # nothing: the delivery is refused
    HOLD = "hold"  # the one before
    NEAREST = "nearest"
    BLACK = "black"


def read_shape(shape: object) -> object:
    if not isinstance(shape, str):
        return shape
    try:
        return read_exact(shape)
    except ValueError:
        raise ValueError(f"“{shape}” is not a pixel shape: write it as 1, 2 or 16:15.") from None


def parse_pixel_shape(text: str) -> Fraction:
    """A pixel's width to its height: `1`, `16:15`, `16/15`, `2`. Raises ValueError."""
    return shape_in_bounds(Fraction(str(read_shape(text))))


def shape_words(shape: Fraction) -> str:
    """`64:45`; 1 for square ones."""
    return f"{shape.numerator}:{shape.denominator}" if shape.denominator > 1 else str(shape)


def parse_colour(text: str) -> str:
    """`#rrggbb`, also without its mark. Raises ValueError."""
    found = re.fullmatch(r"\s*#?([0-9a-fA-F]{6})\s*", text)
    if not found:
        raise ValueError(f"“{text}” is not a colour: write it as #rrggbb, #ffffff is white.")
    return f"#{found[1].lower()}"


def shape_in_bounds(shape: Fraction) -> Fraction:
    if not Fraction(1, 4) <= shape <= 4:
        raise ValueError(f"A pixel shape of {shape} is outside 1:4 to 4:1.")
    return shape


PixelShape = Annotated[
    Fraction, BeforeValidator(read_shape), AfterValidator(shape_in_bounds), PlainSerializer(str)
]
HexColour = Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")]


class Reading(Value):
    """How a sequence is read; every value says where it comes from.

    range: the frames that are wanted, where others are left out.
    matte: what premultiplied colour was laid over.
    part: which picture of a file that holds several.
    space: what the OCIO config calls the colour, where that is of the config.
    lut: a LUT's file that the numbers go through before anything else.
    referred: said by the user; None follows the colour.
    """

    rate: WithOrigin[Rate]  # frames a second
    order: WithOrigin[Order]
    alpha: WithOrigin[Alpha]
    colour: WithOrigin[Colour]
    chromaticities: WithOrigin[Chromaticities]
    stand_in: WithOrigin[StandIn]
    range: WithOrigin[tuple[FrameNumber, FrameNumber]] | None = None
    matte: WithOrigin[HexColour] = WithOrigin[HexColour](value="#000000", origin=Origin.HABIT)
    pixel_shape: WithOrigin[PixelShape] = WithOrigin[PixelShape](
        value=Fraction(1), origin=Origin.HABIT
    )
    part: WithOrigin[str] = WithOrigin[str](value="", origin=Origin.HABIT)
    space: WithOrigin[str] = WithOrigin[str](value="", origin=Origin.HABIT)
    lut: WithOrigin[PathText] = WithOrigin[PathText](value="", origin=Origin.HABIT)
    referred: WithOrigin[ColourReference] | None = None

    @property
    def taken_as(self) -> ColourReference:
        """What a display is driven with is graphics, unless it is said."""
        if self.referred is not None:
            return self.referred.value
        is_graphics = self.colour.value in (*DISPLAY_ENCODED, *HIGH_RANGE)
        return ColourReference.GRAPHICS if is_graphics else ColourReference.SCENE

    @property
    def is_graphics(self) -> bool:
        """Whether it is laid over after the view."""
        return self.taken_as is ColourReference.GRAPHICS

    @property
    def has_high_range(self) -> bool:
        """Whether its light goes on far above white."""
        return self.colour.value in HIGH_RANGE

    @property
    def is_wide(self) -> bool:
        """Whether it can hold colours that BT.709 has not."""
        is_other = primaries_name(self.chromaticities.value) != primaries_name(BT709)
        return is_other or self.colour.value is Colour.OWN

    @model_validator(mode="after")
    def range_runs_forward(self) -> Self:
        if self.range is not None:
            try:
                FrameRange(*self.range.value)
            except WrongUse as error:
                raise ValueError(str(error)) from None
        return self

    @model_validator(mode="after")
    def rate_is_possible(self) -> Self:
        try:
            in_bounds(self.rate.value)
        except WrongUse as error:
            raise ValueError(str(error)) from None
        return self


def colour_words(colour: Colour, chromaticities: Chromaticities) -> str:
    """`scene-linear ACEScg`, `sRGB`, `BT.2020 display`, `PQ`."""
    name = primaries_name(chromaticities)
    if colour is Colour.LINEAR:
        return f"{colour} {name}"
    if colour is Colour.BT709:
        return f"{name} display"
    return str(colour) if chromaticities == usual_primaries(colour) else f"{colour} {name}"


def usual_primaries(colour: Colour) -> Chromaticities:
    """Those that a colour has where nobody says others."""
    return PRIMARIES["BT.2020"] if colour in HIGH_RANGE else BT709


def colour_choices() -> tuple[tuple[Colour, Chromaticities], ...]:
    """All readings of colour, as pairs of values of a reading."""
    linear = tuple((Colour.LINEAR, primaries) for primaries in PRIMARIES.values())
    others = (one for one in Colour if one not in (Colour.LINEAR, Colour.OWN))
    return (
        *linear,
        *((colour, usual_primaries(colour)) for colour in others),
        (Colour.BT709, PRIMARIES["BT.2020"]),
        (Colour.PQ, PRIMARIES["P3"]),
    )
