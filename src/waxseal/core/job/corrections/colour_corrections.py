"""Corrections of colour: each pixel by itself."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import AfterValidator, Field

from waxseal.core.job.corrections.correction import Corrects, Values
from waxseal.core.job.corrections.fields import Choices, FieldOf, FileField, Number, Triple, within
from waxseal.core.job.paths import PathText

__all__ = ["LUTS", "Balance", "Cdl", "Exposure", "Gamma", "Lut", "Saturation"]

LUTS = "LUT (*.cube *.clf *.ctf *.spi1d *.spi3d *.spimtx *.csp *.3dl *.lut *.vf *.mga *.m3d)"


def triple(name: str) -> tuple[Number, ...]:
    """The fields of a value that is one for each of red, green and blue."""
    return tuple(Number(name, (f"{name} R", "G", "B")[place], 0.01, place) for place in range(3))


class Exposure(Corrects):
    """Gain in stops, in scene-linear light."""

    label = "exposure"
    fields: ClassVar[tuple[FieldOf, ...]] = (Number("stops", "stops", 0.05),)
    neutral: ClassVar[dict[str, object]] = {"stops": 0.0}
    kind: Literal["exposure"] = "exposure"
    stops: float = Field(default=0.0, ge=-20, le=20)


class Balance(Corrects):
    """White balance, in stops: warmer is red over blue, greener is green over both.

    A grey keeps its luminance (see `picture.colour.grading`).
    """

    label = "balance"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        Number("warmer", "warmer", 0.02),
        Number("greener", "greener", 0.02),
    )
    neutral: ClassVar[dict[str, object]] = {"warmer": 0.0, "greener": 0.0}
    kind: Literal["balance"] = "balance"
    warmer: float = Field(default=0.0, ge=-4, le=4)
    greener: float = Field(default=0.0, ge=-4, le=4)


class Cdl(Corrects):
    """Slope, offset and power for red, green and blue, then saturation.

    Source: ASC Color Decision List, version 1.2; what is negative or above one
    is not clipped.
    """

    label = "CDL"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        *triple("slope"),
        *triple("offset"),
        *triple("power"),
        Number("saturation", "saturation", 0.02),
        Choices("values", "on", Values),
    )
    neutral: ClassVar[dict[str, object]] = {
        "slope": (1.0, 1.0, 1.0),
        "offset": (0.0, 0.0, 0.0),
        "power": (1.0, 1.0, 1.0),
        "saturation": 1.0,
    }
    kind: Literal["cdl"] = "cdl"
    slope: Annotated[Triple, AfterValidator(within(0, 1000, "A slope"))] = (1.0, 1.0, 1.0)
    offset: Annotated[Triple, AfterValidator(within(-1000, 1000, "An offset"))] = (0.0, 0.0, 0.0)
    power: Annotated[Triple, AfterValidator(within(0.01, 100, "A power"))] = (1.0, 1.0, 1.0)
    saturation: float = Field(default=1.0, ge=0, le=10)
    values: Values = Values.LINEAR


class Gamma(Corrects):
    """Out is in to the power of one over gamma, around black and one; above one is lighter."""

    label = "gamma"
    fields: ClassVar[tuple[FieldOf, ...]] = (Number("gamma", "gamma", 0.01),)
    neutral: ClassVar[dict[str, object]] = {"gamma": 1.0}
    kind: Literal["gamma"] = "gamma"
    gamma: float = Field(default=1.0, ge=0.1, le=10)


class Saturation(Corrects):
    """Distance from the grey of the same luminance; 0 is grey, 1 as it is."""

    label = "saturation"
    fields: ClassVar[tuple[FieldOf, ...]] = (Number("saturation", "amount", 0.02),)
    neutral: ClassVar[dict[str, object]] = {"saturation": 1.0}
    kind: Literal["saturation"] = "saturation"
    saturation: float = Field(default=1.0, ge=0, le=10)


class Lut(Corrects):
    """A look from a LUT's file; strength mixes it with what was there."""

    label = "LUT"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        FileField("path", "file", LUTS),
        Choices("values", "on", Values),
        Number("strength", "strength", 0.01),
    )
    neutral: ClassVar[dict[str, object]] = {"strength": 0.0}
    kind: Literal["lut"] = "lut"
    path: PathText = Field(min_length=1)
    values: Values = Values.DISPLAY
    strength: float = Field(default=1.0, ge=0, le=1)
