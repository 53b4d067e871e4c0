"""The reel: its shots and its frame."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from waxseal.core.errors import JobError
from waxseal.core.job.edits.edit_tools import free_ids, with_laid, with_reel
from waxseal.core.job.edits.sound_edits import with_own_sounds, without_sounds_of
from waxseal.core.job.joins import CUT, Join
from waxseal.core.job.model import Framing, Job, JoinKind, Shot, Size, change
from waxseal.core.timing.timecode import Counting

__all__ = [
    "change_join",
    "join_all",
    "join_shot",
    "mark",
    "move_shot",
    "put_on_reel",
    "remove_shot",
    "set_counting",
    "set_framing",
    "set_ground",
    "set_reel_rate",
    "set_reel_size",
    "trim_head",
    "trim_tail",
]


def put_on_reel(job: Job, *, sources: Iterable[str]) -> Job:
    """Lay the whole of each sequence at the reel's tail, one after the other, with its sound."""
    names = free_ids("a", [shot.id for shot in job.reel.shots])
    ranges = {one.id: one.range for one in job.sequences}
    fresh = []
    for source in sources:
        if source not in ranges:
            raise JobError(f"There is no sequence “{source}” in this job.")
        there = ranges[source]
        fresh.append(Shot(id=next(names), source=source, first=there.first, last=there.last))
    return with_own_sounds(with_reel(job, shots=(*job.reel.shots, *fresh)), fresh)


def move_shot(job: Job, *, shot: str, to: int) -> Job:
    """Give a shot another place, counted from 0 among the shots."""
    moved = job.shot(shot)
    others = [one for one in job.reel.shots if one.id != shot]
    others.insert(max(0, min(to, len(others))), moved)
    return with_reel(job, shots=tuple(others))


def remove_shot(job: Job, *, shot: str) -> Job:
    """Take a shot off the reel, with its sound; its source stays in the in-tray."""
    job.shot(shot)
    kept = tuple(one for one in job.reel.shots if one.id != shot)
    return with_reel(without_sounds_of(job, [shot]), shots=kept)


def trim_head(job: Job, *, shot: str, first: int) -> Job:
    """Let a shot begin at another frame of its source, at most at its tail."""
    one = job.laid(shot)
    there = job.sequence(one.source).range
    return with_laid(job, change(one, first=max(there.first, min(first, one.last))))


def trim_tail(job: Job, *, shot: str, last: int) -> Job:
    """Let a shot stop at another frame of its source, at least at its head."""
    one = job.laid(shot)
    there = job.sequence(one.source).range
    return with_laid(job, change(one, last=min(there.last, max(last, one.first))))


def change_join(job: Job, *, shot: str, **values: object) -> Job:
    """How a shot meets the one before: see `Join`."""
    one = job.shot(shot)
    return with_laid(job, change(one, join=change(one.join, **values)))


def join_shot(job: Job, *, shot: str, kind: JoinKind) -> Job:
    """Choose a kind of join: a shot that was only cut so far gets half a second of it."""
    join = job.shot(shot).join
    length = max(1, round(job.reel_rate / 2)) if join == CUT else join.length
    return change_join(job, shot=shot, kind=kind, length=length)


def join_all(job: Job, *, join: Join) -> Job:
    """Let every shot meet the one before in the same way."""
    return with_reel(job, shots=tuple(change(one, join=join) for one in job.reel.shots))


def set_framing(job: Job, *, shot: str, framing: Framing) -> Job:
    return with_laid(job, change(job.laid(shot), framing=framing))


def set_reel_size(job: Job, *, size: Size | None) -> Job:
    """Say the reel's frame size; None is the first shot's."""
    return with_reel(job, size=size)


def set_reel_rate(job: Job, *, rate: Fraction | None) -> Job:
    """Say the reel's rate; None is that of its shots."""
    return with_reel(job, rate=rate)


def set_counting(job: Job, *, counting: Counting) -> Job:
    """How timecode counts at 29.97 and 59.94."""
    return with_reel(job, counting=counting)


def set_ground(job: Job, *, colour: str) -> Job:
    """Say what is behind the pictures: `#rrggbb`."""
    return with_reel(job, ground=colour)


def mark(job: Job, *, first: int | None, last: int | None) -> Job:
    """Mark the range that is played and delivered; None for both takes the mark away."""
    if first is None or last is None:
        return with_reel(job, marked=None)
    return with_reel(job, marked=(min(first, last), max(first, last)))
