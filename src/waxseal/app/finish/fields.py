"""Which fields each correction shows, in which words, and how finely a number is scrubbed."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from waxseal.core.job.finish import (
    Balance,
    Border,
    Cdl,
    Corrects,
    Curve,
    Exposure,
    Fade,
    FadeTo,
    Gamma,
    Grain,
    Haze,
    Lut,
    Opacity,
    Saturation,
    Sharpen,
    Soften,
    Text,
    TextPlace,
    Values,
    Vignette,
)

__all__ = [
    "FIELDS",
    "Choices",
    "ColourField",
    "FieldOf",
    "FileField",
    "Lines",
    "Number",
    "Points",
    "SourceField",
    "Words",
]


@dataclass(frozen=True, slots=True)
class FieldOf:
    """name: of the correction's value. words: what stands beside it."""

    name: str
    words: str


@dataclass(frozen=True, slots=True)
class Number(FieldOf):
    """place: which of three, for red, green and blue."""

    least: float
    most: float
    step: float
    usual: float
    place: int | None = None
    is_whole: bool = False


@dataclass(frozen=True, slots=True)
class Choices(FieldOf):
    values: type[StrEnum]


@dataclass(frozen=True, slots=True)
class ColourField(FieldOf):
    pass


@dataclass(frozen=True, slots=True)
class FileField(FieldOf):
    """kinds: what the file dialog offers."""

    kinds: str


@dataclass(frozen=True, slots=True)
class SourceField(FieldOf):
    pass


@dataclass(frozen=True, slots=True)
class Lines(FieldOf):
    """Several lines of text."""


@dataclass(frozen=True, slots=True)
class Words(FieldOf):
    """One line of text."""


@dataclass(frozen=True, slots=True)
class Points(FieldOf):
    """Frames with values: `0 1, 24 0.5`."""


def triple(name: str, words: str, most: float, usual: float, least: float) -> tuple[Number, ...]:
    return tuple(
        Number(name, (f"{words} R", "G", "B")[place], least, most, 0.01, usual, place)
        for place in range(3)
    )


LUTS = "LUT (*.cube *.clf *.ctf *.spi1d *.spi3d *.spimtx *.csp *.3dl *.lut *.vf *.mga *.m3d)"

FIELDS: dict[type[Corrects], tuple[FieldOf, ...]] = {
    Exposure: (Number("stops", "stops", -20, 20, 0.05, 0),),
    Balance: (
        Number("warmer", "warmer", -4, 4, 0.02, 0),
        Number("greener", "greener", -4, 4, 0.02, 0),
    ),
    Cdl: (
        *triple("slope", "slope", 1000, 1, 0),
        *triple("offset", "offset", 1000, 0, -1000),
        *triple("power", "power", 100, 1, 0.01),
        Number("saturation", "saturation", 0, 10, 0.02, 1),
        Choices("values", "on", Values),
    ),
    Gamma: (Number("gamma", "gamma", 0.1, 10, 0.01, 1),),
    Saturation: (Number("saturation", "amount", 0, 10, 0.02, 1),),
    Lut: (
        FileField("path", "file", LUTS),
        Choices("values", "on", Values),
        Number("strength", "strength", 0, 1, 0.01, 1),
    ),
    Haze: (
        SourceField("depth", "depth"),
        Number("start", "from", -1e6, 1e6, 0.1, 0),
        Number("end", "to", -1e6, 1e6, 0.1, 10),
        Number("density", "density", 0, 1, 0.01, 0.5),
        ColourField("colour", "colour"),
    ),
    Soften: (Number("radius", "radius ‰", 0, 100, 0.1, 0),),
    Sharpen: (
        Number("amount", "amount", 0, 5, 0.02, 0),
        Number("radius", "radius ‰", 0.1, 100, 0.1, 1),
    ),
    Vignette: (
        Number("strength", "strength", 0, 1, 0.01, 0.5),
        Number("size", "size", 0.01, 4, 0.01, 0.5),
        Number("softness", "softness", 0, 1, 0.01, 0.6),
        Number("x", "centre x", -1, 2, 0.01, 0.5),
        Number("y", "y", -1, 2, 0.01, 0.5),
    ),
    Grain: (
        Number("amount", "amount %", 0, 100, 0.2, 4),
        Number("size", "size ‰", 0, 20, 0.1, 0),
    ),
    Border: (
        Number("width", "width ‰", 0, 500, 1, 10),
        ColourField("colour", "colour"),
    ),
    Text: (
        Lines("words", "words"),
        Choices("place", "place", TextPlace),
        Number("size", "size ‰", 2, 500, 1, 50),
        ColourField("colour", "colour"),
        Number("shade", "shade", 0, 1, 0.02, 0),
        FileField("font", "font", "Font (*.ttf *.otf *.ttc)"),
        Words("date", "date"),
    ),
    Fade: (
        Number("frames_in", "in", 0, 100_000, 1, 0, is_whole=True),
        Number("frames_out", "out", 0, 100_000, 1, 0, is_whole=True),
        Choices("to", "to", FadeTo),
        Choices("curve", "curve", Curve),
    ),
    Opacity: (
        Points("points", "frame value"),
        Choices("curve", "curve", Curve),
    ),
}
