"""The finish: corrections of a shot, an overlay or the whole reel, in one fixed order.

Each correction is a value that can be switched off, copied and undone. The
order in which they stand here is the order in which they work, whatever order
they were added in.
"""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, ClassVar, Literal, Self

from pydantic import AfterValidator, Field, model_validator
from typing_extensions import override

from waxseal.core.job.reading import HexColour
from waxseal.core.job.values import Value

__all__ = [
    "ORDER",
    "Balance",
    "Border",
    "Cdl",
    "Correction",
    "Curve",
    "Exposure",
    "Fade",
    "FadeTo",
    "Finish",
    "Gamma",
    "Grain",
    "Haze",
    "Inside",
    "Lut",
    "Opacity",
    "Saturation",
    "Sharpen",
    "Soften",
    "Text",
    "TextPlace",
    "Values",
    "Vignette",
]

Triple = tuple[float, float, float]


def in_reach(triple: Triple) -> Triple:
    if not all(-1000 <= one <= 1000 for one in triple):
        raise ValueError("a number of a CDL is beyond 1000.")
    return triple


def above_zero(triple: Triple) -> Triple:
    if not all(0.01 <= one <= 100 for one in triple):
        raise ValueError("a power lies between 0.01 and 100.")
    return triple


def not_negative(triple: Triple) -> Triple:
    if min(triple) < 0:
        raise ValueError("a slope is not negative.")
    return in_reach(triple)


class Values(StrEnum):
    """What the numbers are while a correction works on them."""

    LINEAR = "scene-linear"
    DISPLAY = "display-encoded"  # behind the sRGB curve, 0..1 and beyond


class Corrects(Value):
    """What all corrections have in common."""

    label: ClassVar[str]
    neutral: ClassVar[dict[str, object]] = {}  # values that leave every pixel as it is
    on: bool = True

    @property
    def does_nothing(self) -> bool:
        return all(getattr(self, name) == value for name, value in self.neutral.items())


class Exposure(Corrects):
    """Gain in stops, in scene-linear light."""

    label = "exposure"
    neutral: ClassVar[dict[str, object]] = {"stops": 0.0}
    kind: Literal["exposure"] = "exposure"
    stops: float = Field(default=0.0, ge=-20, le=20)


class Balance(Corrects):
    """White balance, in stops: warmer is red over blue, greener is green over both.

    A grey keeps its luminance (see `picture.grading`).
    """

    label = "balance"
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
    neutral: ClassVar[dict[str, object]] = {
        "slope": (1.0, 1.0, 1.0),
        "offset": (0.0, 0.0, 0.0),
        "power": (1.0, 1.0, 1.0),
        "saturation": 1.0,
    }
    kind: Literal["cdl"] = "cdl"
    slope: Annotated[Triple, AfterValidator(not_negative)] = (1.0, 1.0, 1.0)
    offset: Annotated[Triple, AfterValidator(in_reach)] = (0.0, 0.0, 0.0)
    power: Annotated[Triple, AfterValidator(above_zero)] = (1.0, 1.0, 1.0)
    saturation: float = Field(default=1.0, ge=0, le=10)
    values: Values = Values.LINEAR


class Gamma(Corrects):
    """Out is in to the power of one over gamma, around black and one; above one is lighter."""

    label = "gamma"
    neutral: ClassVar[dict[str, object]] = {"gamma": 1.0}
    kind: Literal["gamma"] = "gamma"
    gamma: float = Field(default=1.0, ge=0.1, le=10)


class Saturation(Corrects):
    """Distance from the grey of the same luminance; 0 is grey, 1 as it is."""

    label = "saturation"
    neutral: ClassVar[dict[str, object]] = {"saturation": 1.0}
    kind: Literal["saturation"] = "saturation"
    saturation: float = Field(default=1.0, ge=0, le=10)


class Lut(Corrects):
    """A look from a LUT's file; strength mixes it with what was there."""

    label = "LUT"
    neutral: ClassVar[dict[str, object]] = {"strength": 0.0}
    kind: Literal["lut"] = "lut"
    path: str = Field(min_length=1)
    values: Values = Values.DISPLAY
    strength: float = Field(default=1.0, ge=0, le=1)


class Haze(Corrects):
    """Light between the camera and what is far, by a pass of depth.

    At `start` there is none, at `end` the colour has `density` of the picture;
    in between it grows evenly with the depth.
    """

    label = "haze"
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
    neutral: ClassVar[dict[str, object]] = {"radius": 0.0}
    kind: Literal["soften"] = "soften"
    radius: float = Field(default=0.0, ge=0, le=100)


class Sharpen(Corrects):
    """The difference from a softened picture, added again; radius as in Soften."""

    label = "sharpen"
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
    neutral: ClassVar[dict[str, object]] = {"amount": 0.0}
    kind: Literal["grain"] = "grain"
    amount: float = Field(default=4.0, ge=0, le=100)
    size: float = Field(default=0.0, ge=0, le=20)
    seed: int = Field(default=1, ge=0, le=2**31)


class Border(Corrects):
    """A frame of one colour around the picture, in thousandths of the frame's height."""

    label = "border"
    neutral: ClassVar[dict[str, object]] = {"width": 0.0}
    kind: Literal["border"] = "border"
    width: float = Field(default=10.0, ge=0, le=500)
    colour: HexColour = "#000000"


class FadeTo(StrEnum):
    BLACK = "black"
    WHITE = "white"
    CLEAR = "clear"


class Curve(StrEnum):
    """How a value goes from one point to the next."""

    EVEN = "even"
    EASED = "eased"  # slow at both ends


class Fade(Corrects):
    """In at the head and out at the tail, in reel frames.

    The first frame of a fade-in is nothing, and the first after it is whole;
    a fade-out is the same backwards.
    """

    label = "fade"
    neutral: ClassVar[dict[str, object]] = {"frames_in": 0, "frames_out": 0}
    kind: Literal["fade"] = "fade"
    frames_in: int = Field(default=0, ge=0, le=100_000)
    frames_out: int = Field(default=0, ge=0, le=100_000)
    to: FadeTo = FadeTo.BLACK
    curve: Curve = Curve.EVEN


class Opacity(Corrects):
    """How much of the picture is there, over time.

    points: (reel frame from 0 at the head, 0..1), in order.
    """

    label = "opacity"
    kind: Literal["opacity"] = "opacity"
    points: tuple[tuple[int, float], ...] = ((0, 1.0),)
    curve: Curve = Curve.EVEN

    @model_validator(mode="after")
    def points_are_in_order(self) -> Self:
        frames = [frame for frame, _ in self.points]
        if not frames or frames != sorted(set(frames)):
            raise ValueError("the points of an opacity are in order, each at a frame of its own.")
        if not all(0 <= value <= 1 for _, value in self.points):
            raise ValueError("an opacity lies between 0 and 1.")
        return self

    @property
    @override
    def does_nothing(self) -> bool:
        return all(value == 1 for _, value in self.points)


class TextPlace(StrEnum):
    """Where in the safe area."""

    TOP_LEFT = "top left"
    TOP = "top"
    TOP_RIGHT = "top right"
    LEFT = "left"
    MIDDLE = "middle"
    RIGHT = "right"
    BOTTOM_LEFT = "bottom left"
    BOTTOM = "bottom"
    BOTTOM_RIGHT = "bottom right"


class Text(Corrects):
    """Lines of text inside the safe area.

    words: may hold the fields {frame}, {timecode}, {name}, {count}, {date}.
    size: the letters' height, in thousandths of the frame's height.
    font: a file; empty is our own. shade: how dark it is behind the text, 0..1.
    date: what {date} says; no clock is asked.
    """

    label = "text"
    kind: Literal["text"] = "text"
    words: str = Field(default="", max_length=2000)
    place: TextPlace = TextPlace.BOTTOM
    size: float = Field(default=50.0, ge=2, le=500)
    colour: HexColour = "#ffffff"
    font: str = ""
    shade: float = Field(default=0.0, ge=0, le=1)
    date: str = Field(default="", max_length=100)

    @property
    @override
    def does_nothing(self) -> bool:
        return not self.words.strip()


Correction = Annotated[
    Exposure
    | Balance
    | Cdl
    | Gamma
    | Saturation
    | Lut
    | Haze
    | Soften
    | Sharpen
    | Vignette
    | Grain
    | Border
    | Fade
    | Opacity
    | Text,
    Field(discriminator="kind"),
]

ORDER: tuple[type[Corrects], ...] = (
    Exposure,
    Balance,
    Cdl,
    Gamma,
    Saturation,
    Lut,
    Haze,
    Soften,
    Sharpen,
    Vignette,
    Grain,
    Border,
    Text,
    Fade,
    Opacity,
)
MOST_TEXTS = 20


class Inside(Value):
    """A matte that keeps the colour corrections to a part of the picture.

    source, part: whose first channel, or alpha where it has one, is the matte.
    soften: as the radius of Soften.
    """

    source: str
    part: str = ""
    inverted: bool = False
    soften: float = Field(default=0.0, ge=0, le=100)


class Finish(Value):
    """The corrections of one picture, each kind once; text as often as there are lines."""

    corrections: tuple[Correction, ...] = ()
    inside: Inside | None = None

    @model_validator(mode="before")
    @classmethod
    def in_order(cls, values: object) -> object:
        """The order they work in, whatever order they were given in."""
        if isinstance(values, dict) and isinstance(values.get("corrections"), list | tuple):
            rank = {one.model_fields["kind"].default: at for at, one in enumerate(ORDER)}

            def place(one: object) -> int:
                kind = one.get("kind") if isinstance(one, dict) else getattr(one, "kind", "")
                return rank.get(str(kind), -1)

            return {**values, "corrections": tuple(sorted(values["corrections"], key=place))}
        return values

    @model_validator(mode="after")
    def each_once(self) -> Self:
        kinds = [one.kind for one in self.corrections if one.kind != "text"]
        for kind in kinds:
            if kinds.count(kind) > 1:
                raise ValueError(f"there are two corrections of the kind “{kind}”.")
        if len(self.corrections) - len(kinds) > MOST_TEXTS:
            raise ValueError(f"there are more than {MOST_TEXTS} texts.")
        return self

    @property
    def working(self) -> tuple[Correction, ...]:
        """Those that are on and do something."""
        return tuple(one for one in self.corrections if one.on and not one.does_nothing)

    def of(self, kind: str) -> Correction | None:
        """The correction of a kind; of texts the first."""
        return next((one for one in self.corrections if one.kind == kind), None)
