"""The fields of a correction: what a person may set, in which words, how finely, within what.

Bounds stand once, beside the value that they hold for: a number's field reads
them there.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from annotated_types import Ge, Gt, Le
from pydantic import BaseModel
from pydantic_core import PydanticCustomError

from waxseal.core.job.passes import PassKind

__all__ = [
    "Bounds",
    "Choices",
    "ColourField",
    "FieldOf",
    "FileField",
    "Lines",
    "Number",
    "Points",
    "SourceField",
    "Words",
    "within",
]

Triple = tuple[float, float, float]
LEAST_ABOVE = 0.01  # what a scrub offers where zero itself is not allowed


@dataclass(frozen=True, slots=True)
class Bounds:
    """The least and the most that a number may be, both allowed."""

    least: float
    most: float


@dataclass(frozen=True, slots=True)
class Within:
    """A validator of red, green and blue that knows its bounds."""

    bounds: Bounds
    what: str

    def __call__(self, triple: Triple) -> Triple:
        least, most = self.bounds.least, self.bounds.most
        if not all(least <= one <= most for one in triple):
            raise PydanticCustomError(
                "within",
                f"{self.what} goes from {least:g} to {most:g}.",
            )
        return triple


def within(least: float, most: float, what: str) -> Within:
    """A validator for three numbers; what: the value's name at the head of its complaint."""
    return Within(Bounds(least, most), what)


@dataclass(frozen=True, slots=True)
class FieldOf:
    """name: of the correction's value. words: its label."""

    name: str
    words: str


@dataclass(frozen=True, slots=True)
class Number(FieldOf):
    """step: of a scrub. place: which of three, for red, green and blue."""

    step: float
    place: int | None = None
    least: float | None = None  # what a scrub offers, where the value itself has no bounds
    most: float | None = None

    def bounds(self, model: type[BaseModel]) -> Bounds:
        """What the value may be, as its model has it."""
        least, most = self.least, self.most
        for rule in model.model_fields[self.name].metadata:
            if isinstance(rule, Ge):
                least = float(str(rule.ge))
            elif isinstance(rule, Gt):
                least = LEAST_ABOVE
            elif isinstance(rule, Le):
                most = float(str(rule.le))
            elif isinstance(getattr(rule, "func", None), Within):
                return rule.func.bounds  # type: ignore[no-any-return]
        if least is None or most is None:
            raise TypeError(f"{model.__name__}.{self.name} has no bounds.")
        return Bounds(least, most)

    def usual(self, model: type[BaseModel]) -> float:
        """What the value is where nobody said anything."""
        value = model.model_fields[self.name].default
        return float(value if self.place is None else value[self.place])

    def is_whole(self, model: type[BaseModel]) -> bool:
        return model.model_fields[self.name].annotation is int


@dataclass(frozen=True, slots=True)
class Choices(FieldOf):
    values: type[StrEnum]


@dataclass(frozen=True, slots=True)
class ColourField(FieldOf):
    pass


@dataclass(frozen=True, slots=True)
class FileField(FieldOf):
    """The path of a file; kinds: what a file dialog offers."""

    kinds: str


@dataclass(frozen=True, slots=True)
class SourceField(FieldOf):
    """The id of a source whose frames are read besides.

    part: the name of the value that says which picture of its files. prefers: the
    pass that is offered first.
    """

    part: str
    prefers: PassKind


@dataclass(frozen=True, slots=True)
class Lines(FieldOf):
    """Several lines of text."""


@dataclass(frozen=True, slots=True)
class Words(FieldOf):
    """One line of text."""


@dataclass(frozen=True, slots=True)
class Points(FieldOf):
    """Frames with values: `0 1, 24 0.5`."""
