"""Another version of a render, or its files in another place: it takes the old one's place."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from waxseal.core.errors import JobError
from waxseal.core.job.edits.edit_tools import L, with_reel, with_sequences
from waxseal.core.job.edits.source_edits import remove_source
from waxseal.core.job.model import Job, Origin, Reading, Sequence, Sound, WithOrigin, change
from waxseal.core.job.soundtracks import own_sounds
from waxseal.core.job.versions import Successor, successors
from waxseal.core.text_format import counted
from waxseal.core.timing.ranges import FrameRange, write_frames

__all__ = ["change_words", "take_every_version", "take_place", "take_where_complete"]

# What trims and joins were made on: a guess of the new files does not change it.
RESTED_ON = ("rate", "order", "colour", "chromaticities", "stand_in")


def take_place(job: Job, *, source: str, by: str) -> Job:
    """Let a source stand for the files of another, with all that was done to it.

    What somebody has said of its reading stays. The other stands for the old files then, so
    that they can be compared or taken back; where those are lost, it goes. A shot that was the
    whole of its source stays that; the others keep to the frames that are there.
    """
    old, new = job.sequence(source), job.sequence(by)
    own = own_sounds(job)
    job = with_sound_of(job, source, own.get(source), own.get(by))
    taken = change(
        old,
        name=new.name,
        files=new.files,
        found=new.found,
        reading=reading_of(old, new),
    )
    if old.is_moved:
        return with_sequences(remove_source(job, source=by), [taken])
    kept = change(new, name=old.name, files=old.files, found=old.found, reading=old.reading)
    return with_sequences(job, [taken, kept])


def take_where_complete(job: Job, *, source: str, by: str) -> Job:
    """Let only those shots and overlays use another version whose frames are all there in it.

    Raises JobError where there is none.
    """
    old, new = job.sequence(source), job.sequence(by)

    def used(one: L) -> L:
        return change(one, source=by) if one.source == source and is_whole(new, one.range) else one

    shots = tuple(used(one) for one in job.reel.shots)
    overlays = tuple(used(one) for one in job.reel.overlays)
    if (shots, overlays) == (job.reel.shots, job.reel.overlays):
        raise JobError(f"{new.name} has not all frames of any shot: nothing was changed.")
    job = with_sequences(job, [change(new, reading=reading_of(old, new))])
    return with_reel(job, shots=shots, overlays=overlays)


def take_every_version(job: Job, *, sources: Iterable[str] | None = None) -> Job:
    """Take all that are offered, or those for some sources. Raises JobError where none is."""
    offered = successors(job)
    wanted = offered.keys() if sources is None else [one for one in sources if one in offered]
    if not wanted:
        raise JobError("There is no newer version in the in-tray.")
    for source in tuple(wanted):
        job = take_place(job, source=source, by=offered[source].by.id)
    return job


def change_words(job: Job, offer: Successor) -> str:
    """What taking a successor does to the reel, in sentences; empty where nothing changes."""
    old, new = offer.source, offer.by
    after = take_place(job, source=old.id, by=new.id)
    return " ".join(changes(job, after, old, new))


def changes(job: Job, after: Job, old: Sequence, new: Sequence) -> Iterator[str]:
    if old.found.size != new.found.size:
        yield f"Its frames are {new.found.size} in place of {old.found.size}."
    laid = [one for one in (*job.reel.shots, *job.reel.overlays) if one.source == old.id]
    if old.range != new.range and laid:
        yield f"It has {new.range}, and {old.range} was there."
    for one in laid:
        now, name = after.laid(one.id), old.name
        more = now.range.count - one.range.count
        if now.range == one.range:
            continue
        if one.range == old.range:
            words = f"{counted(abs(more), 'frame')} {'longer' if more > 0 else 'shorter'}"
            yield f"The shot is {words}." if more else f"The shot is {now.range} now."
        else:
            yield f"The trim of {name}, {one.range}, becomes {now.range}."
    gone = after.sequence(old.id).to_rerender
    if gone:
        yield f"{write_frames(gone)} {'is' if len(gone) == 1 else 'are'} not there, or damaged."


def reading_of(old: Sequence, new: Sequence) -> Reading:
    """What somebody has said of the old, and what edits rest on unless the new files say another.

    What else there is to say is said by the new files.
    """

    def stays(name: str) -> bool:
        before, now = getattr(old.reading, name), getattr(new.reading, name)
        is_said = isinstance(before, WithOrigin) and before.origin is Origin.SAID
        return is_said or (name in RESTED_ON and now.origin is not Origin.WRITTEN)

    names = [name for name in type(old.reading).model_fields if stays(name)]
    return change(new.reading, **{name: getattr(old.reading, name) for name in names})


def is_whole(source: Sequence, frames: FrameRange) -> bool:
    span = source.range
    is_inside = span.first <= frames.first and frames.last <= span.last
    return is_inside and not any(runs.within(frames) for runs in source.unusable.values())


def with_sound_of(job: Job, source: str, old: Sound | None, new: Sound | None) -> Job:
    """The sound that came with the new version takes the place of the old one's."""
    if old is None or new is None:
        return job
    shots = {one.id for one in job.reel.shots if one.source == source}
    sounds = tuple(
        change(laid, source=new.id) if laid.source == old.id and laid.shot in shots else laid
        for laid in job.reel.sounds
    )
    return with_reel(job, sounds=sounds)
