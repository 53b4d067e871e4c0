"""A finish at one frame: which corrections work, how much is there, what covers it."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from waxseal.core.job.finish import (
    Correction,
    Curve,
    Fade,
    FadeTo,
    Finish,
    Grain,
    Lut,
    Opacity,
    Text,
)
from waxseal.core.plan.recipe import FileState, state_of
from waxseal.core.timing.timecode import to_timecode

__all__ = ["Finished", "Moment", "finished", "opacity_at"]


@dataclass(frozen=True, slots=True)
class Moment:
    """Where a finish is looked at.

    at, length: reel frames, from 0 at the head of what is finished.
    reel_frame: from 1. number, count, name: of the source's frame that is shown.
    """

    at: int
    length: int
    reel_frame: int
    rate: Fraction
    number: int = 0
    count: int = 0
    name: str = ""


@dataclass(frozen=True, slots=True)
class Finished:
    """See `recipe.Layer` for what each is."""

    corrections: tuple[Correction, ...]
    opacity: float
    veil: str
    veiled: float
    files: tuple[FileState, ...]


NOTHING = Finished((), 1.0, "#000000", 0.0, ())
VEILS = {FadeTo.BLACK: "#000000", FadeTo.WHITE: "#ffffff"}


def finished(finish: Finish, moment: Moment) -> Finished:
    """What a finish comes to at one frame; what does nothing there is not in it."""
    working = finish.working
    if not working:
        return NOTHING
    kept: list[Correction] = []
    files: list[FileState] = []
    opacity, veil, veiled = 1.0, "#000000", 0.0
    for one in working:
        if isinstance(one, Fade):
            there = faded(one, moment)
            if one.to is FadeTo.CLEAR:
                opacity *= there
            else:
                veil, veiled = VEILS[one.to], 1 - there
        elif isinstance(one, Opacity):
            opacity *= opacity_at(one, moment.at)
        elif isinstance(one, Grain):
            kept.append(one.model_copy(update={"seed": seed_of(one, moment)}))
        elif isinstance(one, Text):
            kept.append(one.model_copy(update={"words": filled(one, moment), "date": ""}))
            files += [state_of(Path(one.font))] if one.font else []
        else:
            kept.append(one)
            files += [state_of(Path(one.path))] if isinstance(one, Lut) else []
    return Finished(tuple(kept), opacity, veil, veiled, tuple(files))


def eased(part: float, curve: Curve) -> float:
    """How far a value is at `part` of the way; the smooth one is 3t² − 2t³."""
    part = min(max(part, 0.0), 1.0)
    return part * part * (3 - 2 * part) if curve is Curve.EASED else part


def faded(fade: Fade, moment: Moment) -> float:
    """How much of the picture is there, 0..1."""
    there = 1.0
    if fade.frames_in:
        there = eased(moment.at / fade.frames_in, fade.curve)
    if fade.frames_out:
        left = moment.length - 1 - moment.at
        there = min(there, eased(left / fade.frames_out, fade.curve))
    return there


def opacity_at(opacity: Opacity, at: int) -> float:
    """The value at a frame, between the points around it; the ends go on as they are."""
    points = opacity.points
    after = bisect_right([frame for frame, _ in points], at)
    if after == 0:
        return points[0][1]
    if after == len(points):
        return points[-1][1]
    (start, low), (end, high) = points[after - 1], points[after]
    return low + (high - low) * eased((at - start) / (end - start), opacity.curve)


def seed_of(grain: Grain, moment: Moment) -> int:
    """Another grain at each reel frame, and the same whenever it is made."""
    return (grain.seed * 1_000_003 + moment.reel_frame) % (2**31)


def filled(text: Text, moment: Moment) -> str:
    """The words with their fields filled in; braces that are no field stay."""
    fields = {
        "{frame}": str(moment.number),
        "{reel frame}": str(moment.reel_frame),
        "{timecode}": to_timecode(moment.reel_frame - 1, moment.rate),
        "{name}": moment.name,
        "{count}": str(moment.count),
        "{date}": text.date,
    }
    words = text.words
    for name, value in fields.items():
        words = words.replace(name, value)
    return words
