"""A sound on the reel: what it goes with, from where, which of it, how loud."""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction
from typing import Annotated, Any, Self

from pydantic import (
    AfterValidator,
    BeforeValidator,
    Field,
    PlainSerializer,
    SerializerFunctionWrapHandler,
    model_serializer,
    model_validator,
)

from waxseal.core.job.values import FARTHEST, Value
from waxseal.core.timing.exact_rates import read_exact

__all__ = ["LaidSound", "Moment", "Retimed", "SoundCurve", "SoundFade"]

LONGEST = 1_000_000  # seconds


def as_exact(number: object) -> object:
    if not isinstance(number, str):
        return number
    sign, digits = (-1, number.strip()[1:]) if number.strip().startswith("-") else (1, number)
    try:
        return sign * read_exact(digits)
    except ValueError:
        raise ValueError(f"“{number}” is not a number: 25, 25.1 and 251/10 are.") from None


def near_enough(number: Fraction) -> Fraction:
    if abs(number) > FARTHEST:
        raise ValueError(f"a sound begins within {FARTHEST:,} frames of the reel's start.")
    return number


def no_longer(seconds: Fraction) -> Fraction:
    if not 0 <= seconds <= LONGEST:
        raise ValueError(f"a part of a sound lasts 0 to {LONGEST:,} seconds.")
    return seconds


Exact = Annotated[Fraction, BeforeValidator(as_exact), PlainSerializer(str)]
Moment = Annotated[Exact, AfterValidator(near_enough)]  # in frames, from 1, or between two
Length = Annotated[Exact, AfterValidator(no_longer)]  # in seconds


class SoundCurve(StrEnum):
    """How a fade goes from silence to the whole sound."""

    POWER = "equal power"  # the energy is even: for what fades into something else
    EVEN = "even"  # the amplitude is even
    SOFT = "soft"  # slow at both ends


class SoundFade(Value):
    """From silence, or into it. seconds: of the reel."""

    seconds: Length = Fraction(0)
    curve: SoundCurve = SoundCurve.POWER


class Retimed(StrEnum):
    """What a bound sound does where its frames are shown faster or slower."""

    PITCH = "pitch kept"
    SPEED = "pitch follows"
    OUT = "left out"


class LaidSound(Value):
    """A sound on the reel.

    shot: the shot or overlay that it goes with; empty for one that stays in time.
    bound: whether it belongs to its shot's frames, and follows them in every edit. One that is
        not, and has a shot, begins at the same distance from the shot's head.
    at: where it begins, in frames from 1: of the reel, of its shot, or, bound, of the frames
        of its source, whichever of them are shown.
    head, tail: what is left out of it, in seconds as it is heard. What is left of it begins at
        `at`.
    gain: in dB. pan: from -1, left, to 1.
    loops: whether it comes again and again, to the end of the reel or of its shot.
    under: the sound of the reel, by its id, under which it ducks, by `duck` dB.
    retimed, turned: of a bound one, what it does where its frames are shown at another speed,
        and whether it is heard backwards where they are; else it is left out there.
    placed: whether somebody has said where it lies, so that it is right apart from its picture.
    """

    id: str = ""
    source: str
    shot: str = ""
    bound: bool = False
    at: Moment = Fraction(1)
    head: Length = Fraction(0)
    tail: Length = Fraction(0)
    gain: float = Field(default=0.0, ge=-100, le=30)
    fade_in: SoundFade = SoundFade(seconds=Fraction(0), curve=SoundCurve.POWER)
    fade_out: SoundFade = SoundFade(seconds=Fraction(0), curve=SoundCurve.POWER)
    pan: float = Field(default=0.0, ge=-1, le=1)
    loops: bool = False
    under: str = ""
    duck: float = Field(default=12.0, ge=0, le=100)
    retimed: Retimed = Retimed.PITCH
    turned: bool = True
    placed: bool = False

    @model_validator(mode="after")
    def binds_to_something(self) -> Self:
        if self.bound and not self.shot:
            raise ValueError("a sound is bound to a shot, and none is named.")
        if self.under and self.under == self.id:
            raise ValueError("a sound cannot duck under itself.")
        return self

    @model_serializer(mode="wrap")
    def without_what_is_usual(self, write: SerializerFunctionWrapHandler) -> dict[str, Any]:
        """Most sounds are laid as they are, and a reel may have one for each of its shots."""
        written: dict[str, Any] = write(self)
        fields = type(self).model_fields
        return {
            name: value
            for name, value in written.items()
            if name in ("id", "source") or getattr(self, name) != fields[name].default
        }

    @property
    def is_free(self) -> bool:
        return not self.shot
