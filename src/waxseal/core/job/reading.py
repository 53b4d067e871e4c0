"""How a source is read, and where each value comes from."""

from __future__ import annotations

from enum import StrEnum
from typing import Generic, Self, TypeVar

from pydantic import model_validator

from waxseal.core.errors import WrongUse
from waxseal.core.job.values import Value
from waxseal.core.timing.rates import Rate, in_bounds

__all__ = [
    "BT709",
    "Alpha",
    "Chromaticities",
    "Colour",
    "Order",
    "Origin",
    "Reading",
    "StandIn",
    "Told",
]


T = TypeVar("T")


class Origin(StrEnum):
    """Where a value of a reading comes from."""

    WRITTEN = "written"  # in the file
    HABIT = "habit"  # this job's
    GUESS = "guess"  # to be confirmed
    SAID = "said"  # by the user


class Told(Value, Generic[T]):
    """A value, and where it comes from."""

    value: T
    origin: Origin


class Alpha(StrEnum):
    NONE = "none"
    STRAIGHT = "straight"
    PREMULTIPLIED = "premultiplied"


class Colour(StrEnum):
    """What the numbers in a file mean."""

    LINEAR = "scene-linear"
    SRGB = "sRGB"


class Order(StrEnum):
    FORWARD = "forward"
    REVERSED = "reversed"


class StandIn(StrEnum):
    """What is shown for a frame that is not there."""

    STOP = "stop"  # nothing: the delivery is refused
    HOLD = "hold"  # the one before
    NEAREST = "nearest"
    BLACK = "black"


Chromaticities = tuple[float, float, float, float, float, float, float, float]

# ITU-R BT.709: red, green, blue, white as x, y.
BT709: Chromaticities = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)


class Reading(Value):
    """How a sequence is read; every value says where it comes from."""

    rate: Told[Rate]  # frames a second
    order: Told[Order]
    alpha: Told[Alpha]
    colour: Told[Colour]
    chromaticities: Told[Chromaticities]  # only looked at where colour is scene-linear
    stand_in: Told[StandIn]

    @model_validator(mode="after")
    def rate_is_possible(self) -> Self:
        try:
            in_bounds(self.rate.value)
        except WrongUse as error:
            raise ValueError(str(error)) from None
        return self
