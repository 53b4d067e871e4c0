"""What all corrections have in common."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from typing import ClassVar, Self

from waxseal.core.job.corrections.fields import FieldOf, FileField, SourceField
from waxseal.core.job.values import Value, change
from waxseal.core.timing.timecode import Counting

__all__ = ["WHOLE", "Corrects", "Cover", "Helper", "Moment", "Values"]


class Values(StrEnum):
    """What the numbers are while a correction works on them."""

    LINEAR = "scene-linear"
    DISPLAY = "display-encoded"  # behind the sRGB curve, 0..1 and beyond


@dataclass(frozen=True, slots=True)
class Moment:
    """Where in time a correction works.

    at, length: reel frames, from 0 at the head of what is corrected.
    reel_frame: from 1. number, count, name: of the source's frame that is shown.
    counting: of timecode.
    """

    at: int
    length: int
    reel_frame: int
    rate: Fraction
    number: int = 0
    count: int = 0
    name: str = ""
    counting: Counting = Counting.NON_DROP


@dataclass(frozen=True, slots=True)
class Cover:
    """How much of a picture is there: opacity, 0..1, and a veil of one colour over part of it.

    values: what both are mixed in.
    """

    opacity: float = 1.0
    veil: str = "#000000"
    veiled: float = 0.0
    values: Values = Values.LINEAR

    def under(self, other: Cover) -> Cover:
        """Both at once; of two veils the other."""
        veil = other if other.veiled else self
        values = other.values if other.values is Values.DISPLAY else self.values
        return Cover(self.opacity * other.opacity, veil.veil, veil.veiled, values)


WHOLE = Cover()


@dataclass(frozen=True, slots=True)
class Helper:
    """A source whose frames a correction reads besides, and which part of its files."""

    source: str
    part: str


class Corrects(Value):
    """A correction that can be switched off, copied and undone.

    label: what it is called. fields: what can be set. neutral: the values that leave
    every pixel as it is. begins: values that it is added with, where they are not the
    usual ones. varies: whether it is another thing at another frame. is_typed: whether
    it draws in a colour that was typed, which is graphics: no view touches it.
    """

    label: ClassVar[str]
    fields: ClassVar[tuple[FieldOf, ...]]
    neutral: ClassVar[dict[str, object]] = {}
    begins: ClassVar[dict[str, object]] = {}
    varies: ClassVar[bool] = False
    is_typed: ClassVar[bool] = False
    on: bool = True

    @property
    def does_nothing(self) -> bool:
        return all(getattr(self, name) == value for name, value in self.neutral.items())

    def at(self, _moment: Moment) -> Self | None:
        """The correction as it works at one moment; None where all it does is to cover."""
        return self

    def cover_at(self, _moment: Moment) -> Cover:
        return WHOLE

    @property
    def files(self) -> Iterator[str]:
        """The paths of the files that it reads."""
        for one in self.fields:
            if isinstance(one, FileField) and getattr(self, one.name):
                yield getattr(self, one.name)

    def with_files(self, turn: Callable[[str], str]) -> Self:
        """The same correction with each of its paths turned."""
        paths = {
            one.name: turn(getattr(self, one.name))
            for one in self.fields
            if isinstance(one, FileField)
        }
        return change(self, **paths) if paths else self

    @property
    def helpers(self) -> Iterator[Helper]:
        """The sources whose frames it reads besides the picture."""
        for one in self.fields:
            if isinstance(one, SourceField):
                yield Helper(getattr(self, one.name), getattr(self, one.part))
