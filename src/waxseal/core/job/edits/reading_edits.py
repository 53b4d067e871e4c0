"""How sources are read: one, several alike, the job's habits."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from functools import reduce
from operator import attrgetter

from waxseal.core.errors import JobError
from waxseal.core.job.edits.edit_tools import replace_part, with_sequences
from waxseal.core.job.model import (
    Alpha,
    Job,
    Origin,
    Reading,
    Sequence,
    StandIn,
    WithOrigin,
    change,
)
from waxseal.core.job.soundtracks import own_sounds
from waxseal.core.job.values import FrameNumber
from waxseal.core.text_format import names_words, plain
from waxseal.core.timing.rate_matching import are_near

__all__ = [
    "change_reading",
    "confirm_rates",
    "conform",
    "hold_for_missing",
    "near_rate",
    "read_alike",
    "set_expected",
    "set_habit",
    "set_part",
    "set_range",
    "set_rate",
]


def set_range(job: Job, *, source: str, wanted: tuple[int, int] | None) -> Job:
    """Say which frames are wanted, both ends included, and leave the others out; None: all.

    A shot that was the whole of its source stays the whole of it.
    """
    before = job.sequence(source)
    told = (
        None
        if wanted is None
        else WithOrigin[tuple[FrameNumber, FrameNumber]](value=wanted, origin=Origin.SAID)
    )
    return with_sequences(job, [change(before, reading=change(before.reading, range=told))])


def set_expected(job: Job, *, source: str, expected: tuple[int, int] | None) -> Job:
    """Say which frames should be there, both ends included; None: what is there is all.

    A shot that was the whole of its source stays the whole of it.
    """
    before = job.sequence(source)
    return with_sequences(job, [change(before, expected=expected)])


def change_reading(job: Job, *, source: str, **values: object) -> Job:
    """Say how a source is read: each named value of its reading, by the user.

    A movie that is read at another rate runs faster or slower than it was recorded: its own
    sound with it.
    """
    sequence = job.sequence(source)
    rate = values.get("rate")
    if sequence.kind == "movie" and isinstance(rate, Fraction):
        job = with_sound_speed(job, source, rate / sequence.reading.rate.value)
    told: dict[str, object] = {
        name: WithOrigin(value=value, origin=Origin.SAID) for name, value in values.items()
    }
    reading = change(sequence.reading, **told)
    return change(job, sources=replace_part(job.sources, change(sequence, reading=reading)))


def hold_for_missing(job: Job, *, sources: Iterable[str]) -> Job:
    """Let the frame before stand in for each frame of some sources that is not there."""
    return reduce(
        lambda job, one: change_reading(job, source=one, stand_in=StandIn.HOLD), sources, job
    )


def set_part(job: Job, *, source: str, part: str) -> Job:
    """Say which picture of files that hold several is meant; alpha follows its channels."""
    sequence = job.sequence(source)
    for known in sequence.found.parts:
        if known.name == part:
            alpha = Alpha.PREMULTIPLIED if known.has_alpha else Alpha.NONE
            if sequence.found.format != "EXR":  # pages of one kind: all as the first
                alpha = sequence.reading.alpha.value
            return change_reading(job, source=source, part=part, alpha=alpha)
    names = names_words([one.name for one in sequence.found.parts if one.name])
    there = f"it has {names}" if names else "it holds one picture"
    raise JobError(f"{sequence.name} has no part “{plain(part)}”: {there}.")


def set_rate(job: Job, *, source: str, rate: Fraction) -> Job:
    """Say the rate a source is read at.

    Where it was a guess, it is said of all that were guessed alike, and becomes the job's
    habit if there is none. A source whose rate was known becomes an exception.
    """
    before = job.sequence(source).reading.rate
    if before.origin is not Origin.GUESS:
        return change_reading(job, source=source, rate=rate)
    return say_guessed(job, guess=before.value, rate=rate)


def near_rate(job: Job, source: str) -> Fraction | None:
    """The reel's rate, where a source is read at one that is nearly the same."""
    sequence = job.sequence(source)
    if sequence.kind == "still" or not job.reel.shots:
        return None
    return job.reel_rate if are_near(sequence.reading.rate.value, job.reel_rate) else None


def conform(job: Job, *, source: str) -> Job:
    """Read a source at the reel's rate that it nearly has: the same frames, each once.

    The sound that belongs to it runs as much slower or faster. Raises JobError where the
    rates are not near.
    """
    rate = near_rate(job, source)
    if rate is None:
        raise JobError(f"{job.sequence(source).name} has another rate than the reel, or the same.")
    times = rate / job.sequence(source).reading.rate.value
    if job.sequence(source).kind != "movie":  # a movie's sound follows its reading anyway
        job = with_sound_speed(job, source, times)
    return change_reading(job, source=source, rate=rate)


def with_sound_speed(job: Job, source: str, times: Fraction) -> Job:
    """The sound that came with a source heard so many times as fast as now."""
    own = own_sounds(job).get(source)
    if own is None or times == 1:
        return job
    return change(job, sources=replace_part(job.sources, change(own, speed=own.speed * times)))


def confirm_rates(job: Job, *, rate: Fraction) -> Job:
    """Confirm one guessed rate, for all sources that were guessed alike."""
    return say_guessed(job, guess=rate, rate=rate)


def say_guessed(job: Job, *, guess: Fraction, rate: Fraction) -> Job:
    """Put what is right in the place of one guess, wherever it was made."""
    told = WithOrigin[Fraction](value=rate, origin=Origin.SAID)
    said = [
        change(one, reading=change(one.reading, rate=told))
        for one in job.sequences
        if one.reading.rate.origin is Origin.GUESS and one.reading.rate.value == guess
    ]
    habits = job.habits if job.habits.rate is not None else change(job.habits, rate=rate)
    return change(with_sequences(job, said), habits=habits)


def read_alike(job: Job, *, like: str) -> Job:
    """Read all sources of the same format and channels as one of them is read.

    The range and the part are each source's own; so is a rate that its files say.
    """
    one = job.sequence(like)
    shared: dict[str, object] = {
        name: WithOrigin(value=getattr(one.reading, name).value, origin=Origin.SAID)
        for name in SHARED
    }
    rate = WithOrigin[Fraction](value=one.reading.rate.value, origin=Origin.SAID)
    sources = tuple(
        change(other, reading=change(other.reading, **shared, **rate_for(other, rate)))
        if isinstance(other, Sequence) and is_like(other, one) and other.id != like
        else other
        for other in job.sources
    )
    return change(job, sources=sources)


def count_alike(job: Job, *, like: str) -> int:
    """How many other sources would be read otherwise if they were read like this one."""
    one = job.sequence(like)
    rate, shared = one.reading.rate.value, shared_of(one.reading)
    return sum(
        shared_of(other.reading) != shared
        or (bool(rate_for(other, one.reading.rate)) and other.reading.rate.value != rate)
        for other in job.sequences
        if is_like(other, one)
    )


# What sources can be read alike in, besides their rate.
SHARED = ("order", "alpha", "matte", "colour", "chromaticities", "stand_in", "pixel_shape")
# Of a reading their values, whatever their origin; in one call, as thousands are asked.
shared_of = attrgetter(*(f"{name}.value" for name in SHARED))


def rate_for(sequence: Sequence, rate: WithOrigin[Fraction]) -> dict[str, object]:
    return {} if sequence.reading.rate.origin is Origin.WRITTEN else {"rate": rate}


def is_like(one: Sequence, other: Sequence) -> bool:
    """Whether two sources can be read in the same way."""
    return bool(kind_of(one.found) == kind_of(other.found))


kind_of = attrgetter("format", "channels", "depth")


# What a habit is of, and the value of a reading that it fills.
HABIT_OF = {
    "rate": "rate",
    "alpha": "alpha",
    "primaries": "chromaticities",
    "stand_in": "stand_in",
}


def set_habit(job: Job, *, habit: str, value: object) -> Job:
    """What this job takes for granted from now on, and in all sources that took it for granted."""
    field = HABIT_OF[habit]
    habits = change(job.habits, **{habit: value})
    if value is None:
        return change(job, habits=habits)
    told = {field: WithOrigin[object](value=value, origin=Origin.HABIT)}
    sources = tuple(
        change(one, reading=change(one.reading, **told))
        if isinstance(one, Sequence) and follows(one.reading, habit)
        else one
        for one in job.sources
    )
    return change(job, habits=habits, sources=sources)


def follows(reading: Reading, habit: str) -> bool:
    """Whether a value comes from a habit, or from nothing better."""
    origin = getattr(reading, HABIT_OF[habit]).origin
    if habit == "alpha" and reading.alpha.value is Alpha.NONE:
        return False
    return origin is Origin.HABIT or (habit == "rate" and origin is Origin.GUESS)
