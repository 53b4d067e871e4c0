"""What comes into the in-tray, is looked at again, and goes."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from waxseal.core.errors import JobError
from waxseal.core.job.edits.delivery_edits import add_delivery
from waxseal.core.job.edits.edit_tools import L, free_ids, replace_part, with_sequences
from waxseal.core.job.edits.reel_edits import put_on_reel
from waxseal.core.job.edits.sound_edits import lay_sound, without_sounds_of
from waxseal.core.job.model import Job, Origin, Sequence, Sound, Timing, WithOrigin, change
from waxseal.core.job.pass_groups import leading_pass
from waxseal.core.job.soundtracks import own_sounds, rate_by_sound
from waxseal.core.job.versions import older_versions, successors

__all__ = ["add_sources", "refresh_sources", "relink", "remove_source", "take_in"]

STILL_SECONDS = 5


def add_sources(job: Job, *, sources: Iterable[Sequence | Sound]) -> Job:
    """Put what has arrived into the in-tray; each gets an id that is free here."""
    names = free_ids("s", [one.id for one in job.sources])
    fresh = tuple(change(source, id=next(names)) for source in sources)
    return guess_by_sounds(change(job, sources=(*job.sources, *fresh)), fresh)


def guess_by_sounds(job: Job, fresh: Iterable[Sequence | Sound]) -> Job:
    """Guess the rate of frames from the length of their sound, where nothing says it."""
    own = own_sounds(job)
    guessed = []
    for one in fresh:
        sound = own.get(one.id)
        if not isinstance(one, Sequence) or sound is None:
            continue
        rate = rate_by_sound(one, sound)
        if rate is not None and one.reading.rate.origin is Origin.GUESS:
            count, seconds = one.whole_range.count, float(sound.seconds)
            why = f"{count} frames beside {seconds:.3f} s of sound"
            told = WithOrigin[Fraction](value=rate, origin=Origin.GUESS, why=why)
            guessed.append(change(one, reading=change(one.reading, rate=told)))
    return with_sequences(job, guessed) if guessed else job


def take_in(job: Job, *, sources: Iterable[Sequence | Sound], folder: str) -> Job:
    """What a drop does: sources into the in-tray, sequences onto the reel in their order.

    Of the passes of a shot one is shown for all: the beauty, else the first light.
    Sounds that came with frames are bound to their shots; one that came alone is laid free
    from the reel's start. What is a version of a source that the reel has, or an older one among
    what came, stays in the in-tray: it is offered there. The first drop puts a delivery into the
    outbox, beside the frames' folder.
    """
    before = {source.id for source in job.sources}
    job = add_sources(job, sources=sources)
    fresh = [source for source in job.sources if source.id not in before]
    readable = [one for one in fresh if isinstance(one, Sequence) and one.found.format]
    waiting = waiting_versions(job, {one.id for one in readable})
    readable = [one for one in readable if one.id not in waiting]
    leading = [one for one in readable if leading_pass(one, readable) == one]
    job = put_on_reel(job, sources=[one.id for one in leading])
    job = with_stills_held(job, {one.id for one in fresh})
    alone = lone_sound(job, fresh)
    if alone is not None and all(one.bound for one in job.reel.sounds):
        job = lay_sound(job, source=alone.id)
    if not job.deliveries and job.reel.shots:
        first = job.sequence(job.reel.shots[0].source)
        name = first.name if job.name == "Untitled" else job.name
        job = add_delivery(job, name=name.replace("/", "_"), folder=folder)
    return job


def waiting_versions(job: Job, fresh: set[str]) -> frozenset[str]:
    """The ids of what came and is no shot of its own: a version, or files that were moved."""
    offered = {one.by.id for one in successors(job).values()}
    older = older_versions(job.sequences)
    return frozenset(fresh & (offered | older))


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


def lone_sound(job: Job, fresh: Iterable[Sequence | Sound]) -> Sound | None:
    """The only sound among what has arrived that came with no frames, and is no movie's."""
    own = {sound.id for sound in own_sounds(job).values()}
    lone = [
        one for one in fresh if isinstance(one, Sound) and one.id not in own and not one.of_movie
    ]
    return lone[0] if len(lone) == 1 else None


def remove_source(job: Job, *, source: str) -> Job:
    """Take a source out of the in-tray, and off the reel and out of stacks and finishes."""
    on_reel = (*job.reel.shots, *job.reel.overlays)
    job = without_sounds_of(job, [one.id for one in on_reel if one.source == source])
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
