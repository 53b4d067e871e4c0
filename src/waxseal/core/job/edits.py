"""Every change to a job: functions from a job to a new one.

None of them touches a file. An Edit is such a function with the name that
undo shows.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from fractions import Fraction
from typing import TypeVar

from waxseal.core.errors import JobError
from waxseal.core.job.model import (
    Delivery,
    Framing,
    Job,
    LaidSound,
    Origin,
    Outcome,
    Reading,
    Sequence,
    Shot,
    Size,
    Sound,
    Told,
    changed,
)

__all__ = [
    "Edit",
    "add_delivery",
    "add_sources",
    "change_delivery",
    "change_reading",
    "confirm_rates",
    "free_id",
    "lay_sound",
    "lift_sound",
    "mark",
    "move_shot",
    "put_on_reel",
    "record_outcome",
    "refresh_source",
    "remove_delivery",
    "remove_shot",
    "remove_source",
    "set_expected",
    "set_framing",
    "set_ground",
    "set_rate",
    "set_reel_rate",
    "set_reel_size",
    "take_in",
    "trim_head",
    "trim_tail",
]


V = TypeVar("V", Sequence | Sound, Shot, Delivery)


@dataclass(frozen=True, slots=True)
class Edit:
    """A named change. `merges` names a drag or a typing that is one step of undo."""

    name: str
    apply: Callable[[Job], Job]
    merges: str = ""


def free_id(letter: str, taken: Iterable[str]) -> str:
    """The first of letter1, letter2, … that is not taken."""
    used = set(taken)
    return next(f"{letter}{n}" for n in range(1, len(used) + 2) if f"{letter}{n}" not in used)


# ---- sources -------------------------------------------------------------------------------


def add_sources(job: Job, *, sources: Iterable[Sequence | Sound]) -> Job:
    """Put what has arrived into the in-tray; each gets an id that is free here."""
    kept = list(job.sources)
    for source in sources:
        fresh = free_id("s", (one.id for one in kept))
        kept.append(changed(source, id=fresh))
    return changed(job, sources=tuple(kept))


def take_in(job: Job, *, sources: Iterable[Sequence | Sound], folder: str) -> Job:
    """What a drop does: sources into the in-tray, sequences onto the reel in their order.

    A sound that comes alone is laid, and the first drop puts a delivery into
    the outbox, beside the frames' folder.
    """
    before = {source.id for source in job.sources}
    job = add_sources(job, sources=sources)
    fresh = [source for source in job.sources if source.id not in before]
    for source in fresh:
        if isinstance(source, Sequence) and source.found.format:
            job = put_on_reel(job, source=source.id)
    sounds = [source for source in fresh if isinstance(source, Sound)]
    if len(sounds) == 1 and not job.reel.sounds and fits_reel(job, sounds[0]):
        job = lay_sound(job, source=sounds[0].id)
    if not job.deliveries and job.reel.shots:
        first = job.sequence(job.reel.shots[0].source)
        name = first.name if job.name == "Untitled" else job.name
        job = add_delivery(job, name=f"{name.replace('/', '_')}.mp4", folder=folder)
    return job


def fits_reel(job: Job, sound: Sound) -> bool:
    """Whether a sound can begin where the reel does: a movie's own does where the movie does."""
    if not sound.of_movie or not job.reel.shots:
        return True
    first = job.sequence(job.reel.shots[0].source)
    return first.kind == "movie" and str(first.files.path_of(1)) == sound.path


def remove_source(job: Job, *, source: str) -> Job:
    """Take a source out of the in-tray, and its shots and sounds off the reel."""
    reel = changed(
        job.reel,
        shots=tuple(shot for shot in job.reel.shots if shot.source != source),
        sounds=tuple(laid for laid in job.reel.sounds if laid.source != source),
    )
    sources = tuple(one for one in job.sources if one.id != source)
    return changed(job, reel=reel, sources=sources)


def refresh_source(job: Job, *, source: Sequence) -> Job:
    """Take over what a new look at the files found; what was said stays.

    Shots keep to the frames that are still inside the sequence's range; one
    with none left is as long as what there is.
    """
    before = job.sequence(source.id)
    return with_sequence(job, changed(before, files=source.files, found=source.found))


def change_reading(job: Job, *, source: str, **values: object) -> Job:
    """Say how a source is read: each named value of its reading, by the user."""
    sequence = job.sequence(source)
    told: dict[str, object] = {
        name: Told(value=value, origin=Origin.SAID) for name, value in values.items()
    }
    reading = changed(sequence.reading, **told)
    return changed(job, sources=replaced(job.sources, changed(sequence, reading=reading)))


def set_expected(job: Job, *, source: str, expected: tuple[int, int] | None) -> Job:
    """Say which frames should be there, both ends included; None: what is there is all.

    A shot that was the whole of its source stays the whole of it.
    """
    before = job.sequence(source)
    after = changed(before, expected=expected)
    widened = with_sequence(job, after)
    for shot in job.reel.shots:
        if shot.source == source and shot.range == before.range:
            whole = changed(shot, first=after.range.first, last=after.range.last)
            widened = with_shot(widened, whole)
    return widened


def set_rate(job: Job, *, source: str, rate: Fraction) -> Job:
    """Say the rate a source is read at; it becomes the job's habit."""
    told = change_reading(job, source=source, rate=rate)
    return changed(told, habits=changed(told.habits, rate=rate))


def confirm_rates(job: Job, *, rate: Fraction) -> Job:
    """Confirm one guessed rate, for all sources that were guessed alike."""
    sources = tuple(
        changed(one, reading=confirmed(one.reading))
        if isinstance(one, Sequence)
        and one.reading.rate.origin is Origin.GUESS
        and one.reading.rate.value == rate
        else one
        for one in job.sources
    )
    return changed(job, sources=sources, habits=changed(job.habits, rate=rate))


def confirmed(reading: Reading) -> Reading:
    return changed(reading, rate=Told(value=reading.rate.value, origin=Origin.SAID))


# ---- the reel ------------------------------------------------------------------------------


def put_on_reel(job: Job, *, source: str) -> Job:
    """Lay the whole of a sequence at the reel's tail."""
    there = job.sequence(source).range
    fresh = free_id("a", (shot.id for shot in job.reel.shots))
    shot = Shot(id=fresh, source=source, first=there.first, last=there.last)
    return with_reel(job, shots=(*job.reel.shots, shot))


def move_shot(job: Job, *, shot: str, to: int) -> Job:
    """Give a shot another place, counted from 0 among the shots."""
    moved = job.shot(shot)
    others = [one for one in job.reel.shots if one.id != shot]
    others.insert(max(0, min(to, len(others))), moved)
    return with_reel(job, shots=tuple(others))


def remove_shot(job: Job, *, shot: str) -> Job:
    """Take a shot off the reel; its source stays in the in-tray."""
    job.shot(shot)
    return with_reel(job, shots=tuple(one for one in job.reel.shots if one.id != shot))


def trim_head(job: Job, *, shot: str, first: int) -> Job:
    """Let a shot begin at another frame of its source, at most at its tail."""
    one = job.shot(shot)
    there = job.sequence(one.source).range
    return with_shot(job, changed(one, first=max(there.first, min(first, one.last))))


def trim_tail(job: Job, *, shot: str, last: int) -> Job:
    """Let a shot stop at another frame of its source, at least at its head."""
    one = job.shot(shot)
    there = job.sequence(one.source).range
    return with_shot(job, changed(one, last=min(there.last, max(last, one.first))))


def set_framing(job: Job, *, shot: str, framing: Framing) -> Job:
    return with_shot(job, changed(job.shot(shot), framing=framing))


def set_reel_size(job: Job, *, size: Size | None) -> Job:
    """Say the reel's frame size; None is the first shot's."""
    return with_reel(job, size=size)


def set_reel_rate(job: Job, *, rate: Fraction | None) -> Job:
    """Say the reel's rate; None is the first shot's."""
    return with_reel(job, rate=rate)


def set_ground(job: Job, *, colour: str) -> Job:
    """Say what is behind the pictures: `#rrggbb`."""
    return with_reel(job, ground=colour)


def mark(job: Job, *, first: int | None, last: int | None) -> Job:
    """Mark the range that is played and delivered; None for both takes the mark away."""
    if first is None or last is None:
        return with_reel(job, marked=None)
    return with_reel(job, marked=(min(first, last), max(first, last)))


def lay_sound(job: Job, *, source: str) -> Job:
    """Lay a sound from the reel's start; this slice of the reel carries one."""
    job.sound(source)
    return with_reel(job, sounds=(LaidSound(source=source),))


def lift_sound(job: Job) -> Job:
    """Take the sound off the reel; its source stays in the in-tray."""
    return with_reel(job, sounds=())


# ---- deliveries ----------------------------------------------------------------------------


def add_delivery(job: Job, *, name: str, folder: str) -> Job:
    fresh = free_id("d", (one.id for one in job.deliveries))
    return changed(job, deliveries=(*job.deliveries, Delivery(id=fresh, name=name, folder=folder)))


def change_delivery(job: Job, *, delivery: str, **fields: object) -> Job:
    """Other settings for a delivery; what was made before stays on record."""
    return changed(
        job, deliveries=replaced(job.deliveries, changed(job.delivery(delivery), **fields))
    )


def record_outcome(job: Job, *, delivery: str, outcome: Outcome | None) -> Job:
    return change_delivery(job, delivery=delivery, outcome=outcome)


def remove_delivery(job: Job, *, delivery: str) -> Job:
    """Take a delivery out of the outbox; a file that was made stays where it is."""
    job.delivery(delivery)
    return changed(job, deliveries=tuple(one for one in job.deliveries if one.id != delivery))


# ---- small change --------------------------------------------------------------------------


def with_reel(job: Job, **fields: object) -> Job:
    return changed(job, reel=changed(job.reel, **fields))


def with_sequence(job: Job, sequence: Sequence) -> Job:
    """Another state of a sequence; its shots keep to the frames that it has now.

    A shot with none of them left is as long as what there is.
    """
    there = sequence.range
    shots = []
    for shot in job.reel.shots:
        if shot.source == sequence.id:
            first, last = max(shot.first, there.first), min(shot.last, there.last)
            if last < first:
                first, last = there.first, there.last
            shot = changed(shot, first=first, last=last)
        shots.append(shot)
    reel = changed(job.reel, shots=tuple(shots))
    return changed(job, sources=replaced(job.sources, sequence), reel=reel)


def with_shot(job: Job, shot: Shot) -> Job:
    return with_reel(job, shots=replaced(job.reel.shots, shot))


def replaced(values: tuple[V, ...], new: V) -> tuple[V, ...]:
    if all(value.id != new.id for value in values):
        raise JobError(f"There is no “{new.id}” in this job.")
    return tuple(new if value.id == new.id else value for value in values)
