"""Another version of a render, or its files in another place: it takes the old one's place."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from waxseal.core.errors import JobError
from waxseal.core.job.edits.edit_tools import L, with_reel, with_sequences
from waxseal.core.job.edits.source_edits import remove_source
from waxseal.core.job.model import Job, LaidSound, Origin, Reading, Sequence, WithOrigin, change
from waxseal.core.job.soundtracks import own_sounds
from waxseal.core.job.versions import Successor, successors
from waxseal.core.text_format import counted
from waxseal.core.timing.ranges import FrameRange, write_frames

__all__ = [
    "change_words",
    "take_every_version",
    "take_offered",
    "take_place",
    "take_where_complete",
]

NOTHING_NEWER = "There is no newer version in the in-tray."

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

    def heard(one: LaidSound) -> LaidSound:
        other = sounds.get((of_shot.get(one.shot, ""), one.source))
        return one if other is None else change(one, source=other)

    return with_reel(job, sounds=tuple(heard(one) for one in job.reel.sounds))


def take_offered(job: Job, *, source: str) -> Job:
    """What is offered for a source takes its place, and for the passes that it is made of.

    Raises JobError where nothing is.
    """
    stack = job.sequence(source).stack
    passes = () if stack is None else (one.source for one in stack.passes)
    offered = successors(job)
    taken = [offered[one] for one in dict.fromkeys((source, *passes)) if one in offered]
    if not taken:
        raise JobError(NOTHING_NEWER)
    return with_taken(job, taken)


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


def take_every_version(job: Job) -> Job:
    """Let all newer versions take their places. Raises JobError where there is none."""
    newer = [offer for offer in successors(job).values() if offer.label]
    if not newer:
        raise JobError(NOTHING_NEWER)
    return with_taken(job, newer)


def change_words(job: Job, offer: Successor) -> str:
    """What taking a successor does to the reel, in sentences; empty where nothing changes."""
    return " ".join(changes(job, with_taken(job, [offer]), offer.source, offer.by))


def changes(job: Job, after: Job, old: Sequence, new: Sequence) -> Iterator[str]:
    if old.found.size != new.found.size:
        yield f"Its frames are {new.found.size}; the old ones are {old.found.size}."
    if old.range != new.range:
        yield f"Its frames are {new.range}; the old ones are {old.range}."
    for one in (*job.reel.shots, *job.reel.overlays):
        if one.source != old.id:
            continue
        now = after.laid(one.id)
        more = now.range.count - one.range.count
        if one.range == old.range and more:
            words = f"{counted(abs(more), 'frame')} {'longer' if more > 0 else 'shorter'}"
            yield f"A shot that uses all of it becomes {words}."
        elif now.range != one.range:
            yield f"A shot that uses {one.range} will use {now.range}."
    for state, frames in after.sequence(old.id).unusable.items():
        yield f"{write_frames(frames)} {'is' if len(frames) == 1 else 'are'} {state}."


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
