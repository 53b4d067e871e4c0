"""Edits of the reel's sounds that depend on where these are: free, tie, move, trim."""

from __future__ import annotations

from fractions import Fraction

from waxseal.core.errors import JobError
from waxseal.core.job.edits import change_sound
from waxseal.core.job.model import Job, LaidSound
from waxseal.core.plan.sound_pieces import pieces_of
from waxseal.core.plan.timeline import Part, Timeline, timeline_of

__all__ = ["free_sound", "move_sound", "nudge_sound", "tie_sound", "trim_sound"]


def free_sound(job: Job, *, sound: str) -> Job:
    """Set a bound or tied sound free; it is heard at the same time as before."""
    timeline = timeline_of(job)
    laid = job.laid_sound(sound)
    if laid.is_free:
        return job
    if not laid.bound:
        at = timeline.part_of(laid.shot).first - 1 + laid.at
        return change_sound(job, sound=sound, shot="", at=at, placed=True)
    source = job.sound(laid.source)
    rate = source.sample_rate
    first = next((one for one in pieces_of(timeline, laid, rate) if not one.is_backwards), None)
    if first is None:
        raise JobError(f"{source.name} is not heard forwards: show its frames forwards first.")
    head = Fraction(first.head, rate)
    return change_sound(
        *(job,),
        sound=sound,
        shot="",
        bound=False,
        at=Fraction(first.at, rate) * timeline.rate + 1,
        head=head,
        tail=max(Fraction(0), source.seconds - head - Fraction(first.count, rate)),
        placed=True,
    )


def tie_sound(job: Job, *, sound: str) -> Job:
    """Let a free sound go with the shot at its beginning, from where it is."""
    timeline = timeline_of(job)
    laid = job.laid_sound(sound)
    frame = max(1, min(int(laid.at), timeline.length))
    part = timeline.shot_at(frame)
    at = laid.at - (part.first - 1)
    return change_sound(job, sound=sound, shot=part.laid.id, at=at, placed=True)


def frames_a_second(timeline: Timeline, laid: LaidSound) -> Fraction:
    """Of the frames that a sound's place is counted in."""
    if laid.bound:
        return timeline.part_of(laid.shot).sequence.reading.rate.value
    return timeline.rate


def nudge_sound(job: Job, *, sound: str, seconds: Fraction) -> Job:
    """Move a sound later, or earlier, by as little as a sample."""
    laid = job.laid_sound(sound)
    by = seconds * frames_a_second(timeline_of(job), laid)
    return change_sound(job, sound=sound, at=laid.at + by, placed=True)


def move_sound(job: Job, *, sound: str, to: int) -> Job:
    """Let a free sound begin at a reel frame, from 1."""
    laid = job.laid_sound(sound)
    before = 0 if laid.is_free else shot_of(job, laid).first - 1
    return change_sound(job, sound=sound, at=Fraction(to - before), placed=True)


def shot_of(job: Job, laid: LaidSound) -> Part:
    return timeline_of(job).part_of(laid.shot)


def trim_sound(
    job: Job, *, sound: str, head: Fraction | None = None, tail: Fraction | None = None
) -> Job:
    """Leave out more or less of a sound, in seconds; what stays is heard when it was."""
    laid = job.laid_sound(sound)
    most = job.sound(laid.source).seconds
    if head is not None:
        head = max(Fraction(0), min(head, most - laid.tail))
        by = (head - laid.head) * frames_a_second(timeline_of(job), laid)
        job = change_sound(job, sound=sound, head=head, at=laid.at + by)
        laid = job.laid_sound(sound)
    if tail is not None:
        job = change_sound(job, sound=sound, tail=max(Fraction(0), min(tail, most - laid.head)))
    return job
