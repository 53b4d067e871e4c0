"""Another version of a render, or its files in another place: it takes the old one's place."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from waxseal.core.errors import JobError
from waxseal.core.job.edits.edit_tools import L, with_reel, with_sequences
from waxseal.core.job.edits.source_edits import remove_source
from waxseal.core.job.model import Job, Origin, Reading, Sequence, WithOrigin, change
from waxseal.core.job.soundtracks import own_sounds
from waxseal.core.job.versions import Successor, successors
from waxseal.core.text_format import counted
from waxseal.core.timing.ranges import FrameRange, write_frames

__all__ = [
    "change_words",
    "take_every_version",
    "take_place",
    "take_version",
    "take_where_complete",
]

# What trims and joins were made on: a guess of the new files does not change it.
RESTED_ON = ("rate", "order", "colour", "chromaticities", "stand_in")


def take_place(job: Job, *, source: str, by: str) -> Job:
    """Let a source stand for the files of another, with all that was done to it.

    What somebody has said of its reading stays. The other stands for the old files then, so
    that they can be compared or taken back; where those are lost, it goes. A shot that was the
    whole of its source stays that; the others keep to the frames that are there.
    """
    return with_taken(job, [Successor(job.sequence(source), job.sequence(by))])


def with_taken(job: Job, offers: Iterable[Successor]) -> Job:
    """All at once: each change of sources looks at the whole reel."""
    own, changed, gone = own_sounds(job), [], []
    sounds = {}
    for offer in offers:
        old, new = offer.source, offer.by
        before, after = own.get(old.id), own.get(new.id)
        if before is not None and after is not None:  # it came with the new version
            sounds[old.id, before.id] = after.id
        read = reading_of(old, new)
        files = {"name": new.name, "files": new.files, "found": new.found}
        changed.append(change(old, **files, reading=read, belongs=new.belongs or old.belongs))
        if old.is_moved:
            gone.append(new.id)
        else:
            changed.append(change(old, id=new.id, stack=None, expected=None))
    job = with_sounds_for(job, sounds) if sounds else job
    for one in gone:
        job = remove_source(job, source=one)
    return with_sequences(job, changed)


def with_sounds_for(job: Job, sounds: dict[tuple[str, str], str]) -> Job:
    """Other sounds for shots. sounds: by the ids of a shot's source and of its sound so far."""
    of_shot = {one.id: one.source for one in job.reel.shots}
    laid = tuple(
        change(one, source=sounds.get((of_shot.get(one.shot, ""), one.source), one.source))
        for one in job.reel.sounds
    )
    return with_reel(job, sounds=laid)


def take_version(job: Job, *, source: str) -> Job:
    """What is offered for a source takes its place, and for the passes that it is made of.

    Raises JobError where nothing is.
    """
    stack = job.sequence(source).stack
    passes = () if stack is None else (one.source for one in stack.passes)
    return take_every_version(job, sources=dict.fromkeys((source, *passes)))


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
    return with_taken(job, [offered[source] for source in wanted])


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
