"""What comes into the in-tray, is looked at again, and goes."""

from __future__ import annotations

from collections.abc import Iterable

from waxseal.core.errors import JobError
from waxseal.core.job.edits.deliveries import add_delivery
from waxseal.core.job.edits.parts import free_id, replaced, with_whole_shots
from waxseal.core.job.edits.reel import lay_sound, put_on_reel
from waxseal.core.job.model import Job, Origin, Sequence, Sound, changed
from waxseal.core.job.passes import PassKind

__all__ = ["add_sources", "leading_pass", "refresh_source", "relink", "remove_source", "take_in"]


def add_sources(job: Job, *, sources: Iterable[Sequence | Sound]) -> Job:
    """Put what has arrived into the in-tray; each gets an id that is free here."""
    kept = list(job.sources)
    for source in sources:
        fresh = free_id("s", (one.id for one in kept))
        kept.append(changed(source, id=fresh))
    return changed(job, sources=tuple(kept))


def take_in(job: Job, *, sources: Iterable[Sequence | Sound], folder: str) -> Job:
    """What a drop does: sources into the in-tray, sequences onto the reel in their order.

    Of the passes of a shot one stands for all: the beauty, else the first light.
    A sound that comes alone is laid, and the first drop puts a delivery into
    the outbox, beside the frames' folder.
    """
    before = {source.id for source in job.sources}
    job = add_sources(job, sources=sources)
    fresh = [source for source in job.sources if source.id not in before]
    readable = [one for one in fresh if isinstance(one, Sequence) and one.found.format]
    for source in readable:
        if source == leading_pass(source, readable):
            job = put_on_reel(job, source=source.id)
    sounds = [source for source in fresh if isinstance(source, Sound)]
    if len(sounds) == 1 and not job.reel.sounds and fits_reel(job, sounds[0]):
        job = lay_sound(job, source=sounds[0].id)
    if not job.deliveries and job.reel.shots:
        first = job.sequence(job.reel.shots[0].source)
        name = first.name if job.name == "Untitled" else job.name
        job = add_delivery(job, name=f"{name.replace('/', '_')}.mp4", folder=folder)
    return job


def leading_pass(source: Sequence, sequences: list[Sequence]) -> Sequence:
    """The pass that is shown for a shot's passes; a source that is none leads itself."""
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
    """Take a source out of the in-tray, and its shots and sounds off the reel."""
    reel = changed(
        job.reel,
        shots=tuple(shot for shot in job.reel.shots if shot.source != source),
        sounds=tuple(laid for laid in job.reel.sounds if laid.source != source),
    )
    sources = tuple(one for one in job.sources if one.id != source)
    return changed(job, reel=reel, sources=sources)


def relink(job: Job, *, sources: Iterable[Sequence | Sound]) -> Job:
    """Let sources stand for files in another place; how they are read stays as it is."""
    for source in sources:
        before = job.source(source.id)
        if isinstance(source, Sequence) and isinstance(before, Sequence):
            moved = changed(before, files=source.files, found=source.found)
            job = with_whole_shots(job, before, moved)
        else:
            job = changed(job, sources=replaced(job.sources, source))
    return job


def refresh_source(job: Job, *, source: Sequence) -> Job:
    """Take over what a new look at the files found, its alpha too; what was said stays.

    A shot that was the whole of its source stays the whole of it; the others
    keep to the frames that are still there. Raises JobError where the source
    stands for other files by now: what was found in the old ones is of no use.
    """
    before = job.sequence(source.id)
    if (before.files.folder, before.files.pattern) != (source.files.folder, source.files.pattern):
        raise JobError(f"{before.name} stands for files in another place by now.")
    reading = before.reading
    if reading.alpha.origin is not Origin.SAID:
        reading = changed(reading, alpha=source.reading.alpha, matte=source.reading.matte)
    after = changed(before, files=source.files, found=source.found, reading=reading)
    return with_whole_shots(job, before, after)
