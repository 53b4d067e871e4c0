"""Edits at a frame of the reel: a shot is split there, or begins or ends there; or comes twice."""

from __future__ import annotations

from waxseal.core.errors import JobError
from waxseal.core.job.edits.edit_tools import free_ids, with_laid, with_reel
from waxseal.core.job.joins import CUT
from waxseal.core.job.model import Job, Shot, change
from waxseal.core.plan.timeline import Part, timeline_of

__all__ = ["duplicate_shot", "split_shot", "trim_head_to", "trim_tail_to"]


def split_shot(job: Job, *, at: int) -> Job:
    """Make two of the shot at a reel frame; the second begins with what is shown there.

    Sounds that are bound to the shot are bound to both. Raises JobError where there is no inside.
    """
    part, frame = shown_at(job, at)
    shot = part.laid
    if not isinstance(shot, Shot) or frame == part.frames[0]:
        raise JobError("The shot begins here: go to a frame inside of it.")
    place = list(part.frames).index(frame)
    if set(part.frames[:place]) & set(part.frames[place:]):
        raise JobError("A shot that shows frames more than once cannot be split: trim it first.")
    if part.is_backwards:
        before, after = change(shot, first=frame + 1), change(shot, last=frame)
    else:
        before, after = change(shot, last=frame - 1), change(shot, first=frame)
    return with_copy(with_laid(job, before), shot, after)


def duplicate_shot(job: Job, *, shot: str) -> Job:
    """Insert a copy of a shot after it, with the sounds that are bound to it."""
    one = job.shot(shot)
    return with_copy(job, one, one)


def with_copy(job: Job, shot: Shot, copy: Shot) -> Job:
    """Insert a copy after a shot, with an id of its own."""
    shots = list(job.reel.shots)
    named = next(free_ids("a", [one.id for one in shots]))
    shots.insert([one.id for one in shots].index(shot.id) + 1, change(copy, id=named, join=CUT))
    names = free_ids("m", [one.id for one in job.reel.sounds])
    sounds = [
        change(one, id=next(names), shot=named)
        for one in job.reel.sounds
        if one.bound and one.shot == shot.id
    ]
    return with_reel(job, shots=tuple(shots), sounds=(*job.reel.sounds, *sounds))


def trim_head_to(job: Job, *, at: int) -> Job:
    """Let the shot at a reel frame begin with what is shown there."""
    part, frame = shown_at(job, at)
    return with_laid(job, change(part.laid, **{"last" if part.is_backwards else "first": frame}))


def trim_tail_to(job: Job, *, at: int) -> Job:
    """Let the shot at a reel frame end with what is shown there."""
    part, frame = shown_at(job, at)
    return with_laid(job, change(part.laid, **{"first" if part.is_backwards else "last": frame}))


def shown_at(job: Job, at: int) -> tuple[Part, int]:
    """The shot at a reel frame, and the frame of its source that is shown. Raises JobError."""
    part = timeline_of(job).shot_at(at)
    return part, part.ask(at).frame
