"""The programme: shots in order, overlays, a sound, at one frame size and one rate."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum
from fractions import Fraction
from itertools import count
from typing import Any, Self

from pydantic import (
    Field,
    SerializerFunctionWrapHandler,
    field_validator,
    model_serializer,
    model_validator,
)

from waxseal.core.errors import WrongUse
from waxseal.core.job.colour_settings import Colourway
from waxseal.core.job.corrections import Values
from waxseal.core.job.finish_settings import Finish
from waxseal.core.job.joins import CUT, Join
from waxseal.core.job.reading_settings import HexColour
from waxseal.core.job.sounds import LaidSound
from waxseal.core.job.sources import Size
from waxseal.core.job.speeds import Speed
from waxseal.core.job.values import FARTHEST, Count, FrameNumber, Value, change
from waxseal.core.timing.frame_order import frames_in_order
from waxseal.core.timing.ranges import FrameRange
from waxseal.core.timing.rates import Rate
from waxseal.core.timing.timecode import Counting

__all__ = [
    "Blend",
    "Conversion",
    "Framing",
    "Overlay",
    "Placing",
    "Reel",
    "Scaling",
    "Shot",
    "Subject",
    "Timing",
    "Turn",
]


class Framing(StrEnum):
    """How a picture sits in a frame of another size."""

    FIT = "fit"
    FILL = "fill"
    STRETCH = "stretch"
    ACTUAL = "actual"


class Turn(StrEnum):
    """A picture turned, clockwise."""

    NONE = "as it is"
    RIGHT = "a quarter right"
    HALF = "half"
    LEFT = "a quarter left"

    @property
    def quarters(self) -> int:
        return list(Turn).index(self)


class Scaling(StrEnum):
    """How a picture's pixels become fewer or more."""

    SHARP = "sharp"  # Lanczos: for pictures
    SOFT = "soft"  # never beyond the values that are there: for mattes and lettering


class Placing(Value):
    """What is done to a picture on top of its framing.

    x, y: moved right and down, in pixels of the reel's frame. scale: of what
    the framing gives, around the frame's centre. mirrored: left for right, before
    it is turned.
    """

    x: int = Field(default=0, ge=-100_000, le=100_000)
    y: int = Field(default=0, ge=-100_000, le=100_000)
    scale: float = Field(default=1.0, ge=0.01, le=100)
    turn: Turn = Turn.NONE
    mirrored: bool = False
    scaling: Scaling = Scaling.SHARP


class Conversion(StrEnum):
    """What is shown between two frames of a source when the reel asks for it."""

    NEAREST = "nearest"  # the one that is due: frames repeat or are dropped
    BLEND = "blend"  # both, mixed in linear light
    MOTION = "motion"  # both, moved to where things should be


class Timing(Value):
    """In which order and how fast a source's frames are shown. Exact.

    Worked out in this order: pieces left out, frames held, backwards, to and
    fro, again; then the speed, then the reel's rate.

    without: source frames, first and last of each piece that is left out.
    holds: (source frame, how often it is shown in all).
    """

    speed: Speed = Fraction(1)
    conversion: Conversion = Conversion.NEAREST
    without: tuple[tuple[FrameNumber, FrameNumber], ...] = ()
    holds: tuple[tuple[FrameNumber, Count], ...] = ()
    backwards: bool = False
    to_and_fro: bool = False
    times: int = Field(default=1, ge=1, le=10_000)

    @model_validator(mode="after")
    def pieces_make_sense(self) -> Self:
        if any(last < first for first, last in self.without):
            raise ValueError("a piece that is left out runs from its first to its last frame.")
        if any(not 1 <= times <= 100_000 for _, times in self.holds):
            raise ValueError("a frame is held at least once, at most 100 000 times.")
        return self


class ReelItem(Value):
    """A part of a source in the reel's frame; first and last are the files' own numbers."""

    id: str
    source: str
    first: FrameNumber
    last: FrameNumber
    framing: Framing = Framing.FIT
    placing: Placing = Placing()
    timing: Timing = Timing()
    finish: Finish = Finish()

    @model_validator(mode="after")
    def runs_forward(self) -> Self:
        if self.last < self.first:
            raise ValueError(f"it would run from {self.first} to {self.last}: swap its ends.")
        return self

    @model_validator(mode="after")
    def something_is_shown(self) -> Self:
        try:
            self.order(backwards=False)
        except WrongUse as error:
            raise ValueError(str(error)) from None
        return self

    @property
    def range(self) -> FrameRange:
        return FrameRange(self.first, self.last)

    def order(self, *, backwards: bool) -> Sequence[int]:
        """The frames in the order they are shown; backwards: as the source is read."""
        timing = self.timing
        return frames_in_order(
            self.first,
            self.last,
            without=timing.without,
            holds=timing.holds,
            backwards=timing.backwards != backwards,
            to_and_fro=timing.to_and_fro,
            times=timing.times,
        )


class Subject(Value):
    """The point of the reel's picture that is kept in the middle, as far as there is picture,
    where a delivery fills another shape: shares of width and height, from the upper left.
    """

    x: float = Field(default=0.5, ge=0, le=1)
    y: float = Field(default=0.5, ge=0, le=1)


class Shot(ReelItem):
    """A part of a sequence on the reel, one after the other. join: with the one before."""

    subject: Subject = Subject()
    join: Join = CUT

    @model_serializer(mode="wrap")
    def without_what_is_usual(self, write: SerializerFunctionWrapHandler) -> dict[str, Any]:
        """These came later: a reel without any is written, and has its key, as before."""
        written: dict[str, Any] = write(self)
        for name, usually in (("subject", Subject()), ("join", CUT)):
            if getattr(self, name) == usually:
                written.pop(name, None)
        return written


class Blend(StrEnum):
    """What an overlay does to what is under it."""

    OVER = "over"
    ADD = "add"
    MULTIPLY = "multiply"
    SCREEN = "screen"


class Overlay(ReelItem):
    """A source laid over the reel for a while.

    at: the reel frame, from 1, where it begins. length: in reel frames; 0 is as
        long as its source, and of a still as the reel. A source that is shorter stays
        on its last frame.
    values: what the numbers are while it is laid over.
    """

    at: int = Field(default=1, ge=1, le=FARTHEST)
    length: int = Field(default=0, ge=0, le=FARTHEST)
    blend: Blend = Blend.OVER
    values: Values = Values.LINEAR


class Reel(Value):
    """The programme. A size that is not said is the first shot's, a rate that of
    the first that moves and is no guess.

    behind: a source behind all pictures, over the ground, filling the frame.
    overlays: the first is the lowest.
    """

    size: Size | None = None
    rate: Rate | None = None
    ground: HexColour = "#000000"  # sRGB
    behind: str = ""
    shots: tuple[Shot, ...] = ()
    overlays: tuple[Overlay, ...] = ()
    sounds: tuple[LaidSound, ...] = ()
    finish: Finish = Finish()
    colour: Colourway = Colourway()
    marked: tuple[FrameNumber, FrameNumber] | None = None  # reel frames from 1, both ends included
    counting: Counting = Counting.NON_DROP  # only looked at where a rate has drop-frame

    @field_validator("sounds")
    @classmethod
    def every_sound_has_an_id(cls, sounds: tuple[LaidSound, ...]) -> tuple[LaidSound, ...]:
        """Jobs of earlier versions have one sound, without an id."""
        if all(one.id for one in sounds):
            return sounds
        taken = {one.id for one in sounds}
        free = (name for n in count(1) if (name := f"m{n}") not in taken)
        return tuple(one if one.id else change(one, id=next(free)) for one in sounds)

    @model_validator(mode="after")
    def marks_run_forward(self) -> Self:
        if self.marked is not None and not 1 <= self.marked[0] <= self.marked[1]:
            raise ValueError("the marked range runs from a frame, 1 or later, to a later one.")
        return self
