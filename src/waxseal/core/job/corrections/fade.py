"""How much of a picture is there, over time: fades and opacity."""

from __future__ import annotations

from bisect import bisect_right
from enum import StrEnum
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator
from typing_extensions import override

from waxseal.core.job.corrections.correction import WHOLE, Corrects, Cover, Moment, Values
from waxseal.core.job.corrections.fields import Choices, FieldOf, Number, Points
from waxseal.core.job.values import FrameNumber

__all__ = ["Curve", "Fade", "FadeTo", "Opacity"]


class FadeTo(StrEnum):
    BLACK = "black"
    WHITE = "white"
    CLEAR = "clear"


VEILS = {FadeTo.BLACK: "#000000", FadeTo.WHITE: "#ffffff"}


class Curve(StrEnum):
    """How a value goes from one point to the next."""

    EVEN = "even"
    EASED = "eased"  # slow at both ends

    def at(self, part: float) -> float:
        """How far the value is at `part` of the way, 0..1; the smooth one is 3t² − 2t³."""
        part = min(max(part, 0.0), 1.0)
        return part * part * (3 - 2 * part) if self is Curve.EASED else part


class Fade(Corrects):
    """In at the head and out at the tail, in reel frames.

    The first frame of a fade-in is nothing, and the first after it is whole;
    a fade-out is the same backwards. values: in display values a fade is even to the
    eye; in linear light it is as fast at its dark end as light is.
    """

    label = "fade"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        Number("frames_in", "in", 1),
        Number("frames_out", "out", 1),
        Choices("to", "to", FadeTo),
        Choices("curve", "curve", Curve),
        Choices("values", "on", Values),
    )
    neutral: ClassVar[dict[str, object]] = {"frames_in": 0, "frames_out": 0}
    varies = True
    kind: Literal["fade"] = "fade"
    frames_in: int = Field(default=0, ge=0, le=100_000)
    frames_out: int = Field(default=0, ge=0, le=100_000)
    to: FadeTo = FadeTo.BLACK
    curve: Curve = Curve.EVEN
    values: Values = Values.DISPLAY

    @override
    def at(self, _moment: Moment) -> None:
        return None

    @override
    def cover_at(self, moment: Moment) -> Cover:
        there = self.share_at(moment)
        if there == 1:
            return WHOLE
        if self.to is FadeTo.CLEAR:
            return Cover(opacity=there, values=self.values)
        return Cover(veil=VEILS[self.to], veiled=1 - there, values=self.values)

    def share_at(self, moment: Moment) -> float:
        """How much of the picture is there, 0..1."""
        there = 1.0
        if self.frames_in:
            there = self.curve.at(moment.at / self.frames_in)
        if self.frames_out:
            left = moment.length - 1 - moment.at
            there = min(there, self.curve.at(left / self.frames_out))
        return there


class Opacity(Corrects):
    """How much of the picture is there, over time.

    points: (reel frame from 0 at the head, 0..1), in order.
    """

    label = "opacity"
    fields: ClassVar[tuple[FieldOf, ...]] = (
        Points("points", "frame value"),
        Choices("curve", "curve", Curve),
        Choices("values", "on", Values),
    )
    begins: ClassVar[dict[str, object]] = {"points": ((0, 1.0), (24, 0.5))}
    varies = True
    kind: Literal["opacity"] = "opacity"
    points: tuple[tuple[FrameNumber, float], ...] = ((0, 1.0),)
    curve: Curve = Curve.EVEN
    values: Values = Values.LINEAR

    @model_validator(mode="after")
    def points_are_in_order(self) -> Self:
        frames = [frame for frame, _ in self.points]
        if not frames or frames != sorted(set(frames)):
            raise ValueError("the points of an opacity are in order, each at a frame of its own.")
        if not all(0 <= value <= 1 for _, value in self.points):
            raise ValueError("an opacity goes from 0 to 1.")
        return self

    @property
    @override
    def does_nothing(self) -> bool:
        return all(value == 1 for _, value in self.points)

    @override
    def at(self, _moment: Moment) -> None:
        return None

    @override
    def cover_at(self, moment: Moment) -> Cover:
        value = self.value_at(moment.at)
        return Cover(opacity=value, values=self.values) if value < 1 else WHOLE

    def value_at(self, at: int) -> float:
        """The value at a frame, between the points around it; the ends go on as they are."""
        points = self.points
        after = bisect_right([frame for frame, _ in points], at)
        if after == 0:
            return points[0][1]
        if after == len(points):
            return points[-1][1]
        (start, low), (stop, high) = points[after - 1], points[after]
        return low + (high - low) * self.curve.at((at - start) / (stop - start))
