"""Corrections that know where in the frame they work: sharpness, haze, vignette, grain, border."""

from __future__ import annotations

from typing import ClassVar, Literal, Self

from pydantic import Field
from typing_extensions import override

from waxseal.core.job.corrections.correction import Corrects, Moment
from waxseal.core.job.corrections.fields import ColourField, FieldOf, Number, SourceField
from waxseal.core.job.passes import PassKind
from waxseal.core.job.reading_settings import HexColour

__all__ = ["Border", "Grain", "Haze", "Sharpen", "Soften", "Vignette"]

FARTHEST = 1e6  # of a depth, as a scrub offers it


class Haze(Corrects):
    """Light between the camera and what is far, by a pass of depth.

    At `start` there is none, at `end` the colour has `density` of the picture;
    in between it grows evenly with the depth.
    """

    label = "haze"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        SourceField("depth", "depth", part="part", prefers=PassKind.DEPTH),
        Number("start", "from", 0.1, least=-FARTHEST, most=FARTHEST),
        Number("end", "to", 0.1, least=-FARTHEST, most=FARTHEST),
        Number("density", "density", 0.01),
        ColourField("colour", "colour"),
    )
    neutral: ClassVar[dict[str, object]] = {"density": 0.0}
    kind: Literal["haze"] = "haze"
    depth: str  # the source whose values are the depth
    part: str = ""
    start: float = 0.0
    end: float = 10.0
    density: float = Field(default=0.5, ge=0, le=1)
    colour: HexColour = "#9aa4b0"


class Soften(Corrects):
    """A Gaussian blur; radius is its standard deviation, in thousandths of the frame's height."""

    label = "soften"
    fields: ClassVar[tuple[FieldOf, ...]] = (Number("radius", "radius ‰", 0.1),)
    neutral: ClassVar[dict[str, object]] = {"radius": 0.0}
    kind: Literal["soften"] = "soften"
    radius: float = Field(default=0.0, ge=0, le=100)


class Sharpen(Corrects):
    """The difference from a softened picture, added again; radius as in Soften."""

    label = "sharpen"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        Number("amount", "amount", 0.02),
        Number("radius", "radius ‰", 0.1),
    )
    neutral: ClassVar[dict[str, object]] = {"amount": 0.0}
    kind: Literal["sharpen"] = "sharpen"
    amount: float = Field(default=0.0, ge=0, le=5)
    radius: float = Field(default=1.0, gt=0, le=100)


class Vignette(Corrects):
    """A soft ellipse outside which it grows dark.

    x, y: its centre, and size: its half axes, as parts of the frame's sides.
    softness: how far it fades, as a part of its size. strength: 1 goes to black.
    """

    label = "vignette"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        Number("strength", "strength", 0.01),
        Number("size", "size", 0.01),
        Number("softness", "softness", 0.01),
        Number("x", "centre x", 0.01),
        Number("y", "y", 0.01),
    )
    neutral: ClassVar[dict[str, object]] = {"strength": 0.0}
    kind: Literal["vignette"] = "vignette"
    strength: float = Field(default=0.5, ge=0, le=1)
    size: float = Field(default=0.5, gt=0, le=4)
    softness: float = Field(default=0.6, ge=0, le=1)
    x: float = Field(default=0.5, ge=-1, le=2)
    y: float = Field(default=0.5, ge=-1, le=2)


class Grain(Corrects):
    """Noise that is another at each frame, and the same each time it is made.

    amount: its standard deviation at middle grey, in per cent of the light.
    size: of a grain, in thousandths of the frame's height; 0 is a pixel.
    """

    label = "grain"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        Number("amount", "amount %", 0.2),
        Number("size", "size ‰", 0.1),
    )
    neutral: ClassVar[dict[str, object]] = {"amount": 0.0}
    varies = True
    kind: Literal["grain"] = "grain"
    amount: float = Field(default=4.0, ge=0, le=100)
    size: float = Field(default=0.0, ge=0, le=20)
    seed: int = Field(default=1, ge=0, le=2**31)

    @override
    def at(self, moment: Moment) -> Self:
        """Another grain at each reel frame, and the same whenever it is made."""
        seed = (self.seed * 1_000_003 + moment.reel_frame) % (2**31)
        return self.model_copy(update={"seed": seed})


class Border(Corrects):
    """A frame of one colour around the picture, in thousandths of the frame's height."""

    label = "border"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        Number("width", "width ‰", 1),
        ColourField("colour", "colour"),
    )
    neutral: ClassVar[dict[str, object]] = {"width": 0.0}
    is_typed = True
    kind: Literal["border"] = "border"
    width: float = Field(default=10.0, ge=0, le=500)
    colour: HexColour = "#000000"
