"""What comes into the in-tray, is looked at again, and goes."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from waxseal.core.errors import JobError
from waxseal.core.job.edits.deliveries import add_delivery
from waxseal.core.job.edits.parts import L, free_ids, replace_part, with_sequences
from waxseal.core.job.edits.reel import lay_sound, put_on_reel
from waxseal.core.job.model import Job, Origin, Sequence, Sound, Timing, change
from waxseal.core.job.passes import PassKind

__all__ = ["add_sources", "leading_pass", "refresh_sources", "relink", "remove_source", "take_in"]

STILL_SECONDS = 5


def add_sources(job: Job, *, sources: Iterable[Sequence | Sound]) -> Job:
    """Put what has arrived into the in-tray; each gets an id that is free here."""
    names = free_ids("s", [one.id for one in job.sources])
    fresh = tuple(change(source, id=next(names)) for source in sources)
    return change(job, sources=(*job.sources, *fresh))


def take_in(job: Job, *, sources: Iterable[Sequence | Sound], folder: str) -> Job:
    """What a drop does: sources into the in-tray, sequences onto the reel in their order.

    Of the passes of a shot one is shown for all: the beauty, else the first light.
    A sound that comes alone, or has the first shot's name, is laid, and the
    first drop puts a delivery into the outbox, beside the frames' folder.
    """
    before = {source.id for source in job.sources}
    job = add_sources(job, sources=sources)
    fresh = [source for source in job.sources if source.id not in before]
    readable = [one for one in fresh if isinstance(one, Sequence) and one.found.format]
    leading = [one for one in readable if leading_pass(one, readable) == one]
    job = put_on_reel(job, sources=[one.id for one in leading])
    job = with_stills_held(job, {one.id for one in fresh})
    sounds = [source for source in fresh if isinstance(source, Sound)]
    offered = sound_for(job, [sound for sound in sounds if fits_reel(job, sound)])
    if offered is not None and not job.reel.sounds:
        job = lay_sound(job, source=offered.id)
    if not job.deliveries and job.reel.shots:
        first = job.sequence(job.reel.shots[0].source)
        name = first.name if job.name == "Untitled" else job.name
        job = add_delivery(job, name=name.replace("/", "_"), folder=folder)
    return job


def with_stills_held(job: Job, fresh: set[str]) -> Job:
    """A still that has just come stays on the reel for a while, not for one frame."""
    stills = {one.id: one for one in job.sequences if one.kind == "still" and one.id in fresh}
    shots = []
    for shot in job.reel.shots:
        still = stills.get(shot.source)
        if still is not None:
            count = max(1, round(STILL_SECONDS * still.reading.rate.value))
            shot = change(shot, timing=Timing(holds=((shot.first, count),)))
        shots.append(shot)
    return change(job, reel=change(job.reel, shots=tuple(shots)))


def sound_for(job: Job, sounds: list[Sound]) -> Sound | None:
    """The sound that belongs to the reel: the only one, or that of the first shot's name."""
    if len(sounds) == 1 or not job.reel.shots:
        return sounds[0] if len(sounds) == 1 else None
    name = job.sequence(job.reel.shots[0].source).name.casefold()
    alike = [sound for sound in sounds if Path(sound.path).stem.casefold() == name]
    return alike[0] if len(alike) == 1 else None


def leading_pass(source: Sequence, sequences: list[Sequence]) -> Sequence:
    """The pass that is shown for a shot's passes; a source that is no pass leads itself."""
    if source.belongs is None:
        return source
    order = list(PassKind)
    passes = [
        (order.index(one.belongs.kind), one)
        for one in sequences
        if one.belongs is not None and one.belongs.shot == source.belongs.shot
    ]
    return min(passes, key=lambda entry: entry[0])[1]


def fits_reel(job: Job, sound: Sound) -> bool:
    """Whether a sound can begin where the reel does: a movie's own does where the movie does."""
    if not sound.of_movie or not job.reel.shots:
        return True
    first = job.sequence(job.reel.shots[0].source)
    return first.kind == "movie" and str(first.files.path_of(1)) == sound.path


def remove_source(job: Job, *, source: str) -> Job:
    """Take a source out of the in-tray, and off the reel and out of stacks and finishes."""
    reel = job.reel
    reel = change(
        reel,
        shots=tuple(without_helper(one, source) for one in reel.shots if one.source != source),
        overlays=tuple(
            without_helper(one, source) for one in reel.overlays if one.source != source
        ),
        sounds=tuple(laid for laid in reel.sounds if laid.source != source),
        behind="" if reel.behind == source else reel.behind,
        finish=reel.finish.without(source),
    )
    sources = tuple(
        without_pass(one, source) if isinstance(one, Sequence) else one
        for one in job.sources
        if one.id != source
    )
    return change(job, reel=reel, sources=sources)


def without_helper(one: L, source: str) -> L:
    finish = one.finish.without(source)
    return one if finish is one.finish else change(one, finish=finish)


def without_pass(sequence: Sequence, source: str) -> Sequence:
    stack = sequence.stack
    if stack is None:
        return sequence
    passes = tuple(one for one in stack.passes if one.source != source)
    beauty = "" if stack.beauty == source else stack.beauty
    return change(sequence, stack=change(stack, passes=passes, beauty=beauty) if passes else None)


def relink(job: Job, *, sources: Iterable[Sequence | Sound]) -> Job:
    """Let sources stand for files in another place; how they are read stays as it is."""
    known = {one.id: one for one in job.sources}
    moved = []
    for source in sources:
        before = known.get(source.id)
        if isinstance(source, Sequence) and isinstance(before, Sequence):
            moved.append(change(before, files=source.files, found=source.found))
        else:
            job = change(job, sources=replace_part(job.sources, source))
    return with_sequences(job, moved)


def refresh_sources(job: Job, *, sources: Iterable[Sequence]) -> Job:
    """Take over what new looks at files found, alpha too; what was said stays.

    A shot that was the whole of its source stays the whole of it; the others
    keep to the frames that are still there. Sources that are not in the job,
    or stand for other files by now, are passed over: what was found in the
    old ones is of no use. Raises JobError where that is so of all.
    """
    known = {one.id: one for one in job.sequences}
    fitting = [
        refresh(known[one.id], one)
        for one in sources
        if one.id in known and place_of(one) == place_of(known[one.id])
    ]
    if not fitting:
        raise JobError("What was looked at is not in this job any more.")
    return with_sequences(job, fitting)


def place_of(source: Sequence) -> tuple[str, str]:
    return source.files.folder, source.files.pattern


def refresh(before: Sequence, now: Sequence) -> Sequence:
    reading = before.reading
    if reading.alpha.origin is not Origin.SAID:
        reading = change(reading, alpha=now.reading.alpha, matte=now.reading.matte)
    return change(before, files=now.files, found=now.found, reading=reading)
