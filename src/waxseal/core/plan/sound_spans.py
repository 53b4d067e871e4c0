"""When a sound of the reel is heard, and which of it belongs to which frames. In seconds, exact."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from waxseal.core.job.model import LaidSound, Retimed, Sequence
from waxseal.core.plan.timeline import Part, Timeline
from waxseal.core.timing.frame_runs import Run, runs_of

__all__ = [
    "Span",
    "heard_between",
    "is_silent",
    "origin_of",
    "runs_heard",
    "sound_at",
    "span_of",
]


def origin_of(sequence: Sequence) -> int:
    """The frame with which a sound that came with a sequence begins: the first there should be."""
    return sequence.whole_range.first


@dataclass(frozen=True, slots=True)
class Span:
    """When a sound is heard, in seconds of the reel. whole: how long all that is kept of it is."""

    first: Fraction
    last: Fraction
    whole: Fraction


def span_of(timeline: Timeline, laid: LaidSound) -> Span | None:
    """When a sound is heard at the earliest and at the latest; None where it is not at all."""
    sound = timeline.job.sound(laid.source)
    whole = sound.seconds - laid.head - laid.tail
    if whole <= 0:
        return None
    end = Fraction(timeline.length) / timeline.rate
    if laid.bound:
        part = timeline.part_of(laid.shot)
        first, last = heard_between(part)
        return Span(max(first, Fraction(0)), min(last, end), whole) if first < end else None
    if laid.shot:
        part = timeline.part_of(laid.shot)
        first = (part.first - 1 + laid.at - 1) / timeline.rate
        if laid.loops:
            end = min(end, Fraction(part.last) / timeline.rate)
    else:
        first = (laid.at - 1) / timeline.rate
    last = end if laid.loops else min(end, first + whole)
    return Span(first, last, whole) if max(first, Fraction(0)) < last else None


def heard_between(part: Part) -> tuple[Fraction, Fraction]:
    """The seconds of the reel that a part's frames fill; not those in which its last one stays."""
    first = Fraction(part.first - 1) / part.rate
    shown = first + Fraction(len(part.frames)) / part.speed
    last = Fraction(part.last) / part.rate
    return first, last if shown + 1 / part.rate > last else shown


def runs_heard(part: Part) -> Iterator[tuple[Run, Fraction]]:
    """The runs of a part, each with how many times as fast it is shown as it is read."""
    for run in runs_of(part.frames):
        yield run, part.laid.timing.speed / run.each


def is_silent(laid: LaidSound, run: Run, speed: Fraction) -> bool:
    """Whether a bound sound is not heard while these frames are shown."""
    is_turned_away = run.step < 0 and not laid.turned
    return run.step == 0 or is_turned_away or (speed != 1 and laid.retimed is Retimed.OUT)


def sound_at(sequence: Sequence, laid: LaidSound, frame: int) -> Fraction:
    """The second of a bound sound that belongs to the beginning of a frame of its source."""
    frames = frame - origin_of(sequence) - (laid.at - 1)
    return frames / sequence.reading.rate.value + laid.head
