"""The programme: shots in order, a sound, at one frame size and one rate."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, model_validator

from waxseal.core.job.sources import Size
from waxseal.core.job.values import Value
from waxseal.core.timing.ranges import FrameRange
from waxseal.core.timing.rates import Rate

__all__ = ["Framing", "LaidSound", "Reel", "Shot"]


class Framing(StrEnum):
    """How a picture sits in a frame of another size."""

    FIT = "fit"
    FILL = "fill"
    STRETCH = "stretch"
    ACTUAL = "actual"


class Shot(Value):
    """A part of a sequence on the reel; first and last are the files' own numbers."""

    id: str
    source: str
    first: int
    last: int
    framing: Framing = Framing.FIT

    @model_validator(mode="after")
    def runs_forward(self) -> Self:
        if self.last < self.first:
            raise ValueError(f"the shot would run from {self.first} to {self.last}: swap its ends.")
        return self

    @property
    def range(self) -> FrameRange:
        return FrameRange(self.first, self.last)


class LaidSound(Value):
    """A sound on the reel, from the reel's start."""

    source: str


Ground = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]


class Reel(Value):
    """The programme. A size or rate that is not said is the first shot's."""

    size: Size | None = None
    rate: Rate | None = None
    ground: Ground = "#000000"  # sRGB
    shots: tuple[Shot, ...] = ()
    sounds: tuple[LaidSound, ...] = ()
    marked: tuple[int, int] | None = None  # reel frames from 1, both ends included
