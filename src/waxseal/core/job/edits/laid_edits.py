"""Shots and overlays in the frame and in time: placing, timing, overlays, what is behind."""

from __future__ import annotations

from fractions import Fraction

from waxseal.core.errors import JobError
from waxseal.core.job.edits.edit_tools import free_ids, with_laid, with_reel
from waxseal.core.job.edits.sound_edits import with_own_sounds, without_sounds_of
from waxseal.core.job.model import Job, Overlay, Placing, Timing, change

__all__ = [
    "change_overlay",
    "change_placing",
    "change_timing",
    "copy_framing",
    "lay_over",
    "move_overlay",
    "put_behind",
    "remove_overlay",
    "set_length",
    "set_subject",
]


def change_placing(job: Job, *, of: str, **values: object) -> Job:
    """Move, scale, turn or mirror a picture in the frame."""
    one = job.laid(of)
    placing: Placing = change(one.placing, **values)
    return with_laid(job, change(one, placing=placing))


def set_subject(
    job: Job, *, shot: str, across: float | None = None, down: float | None = None
) -> Job:
    """Say which point of a shot's picture stays in the middle where a delivery cuts it.

    across, down: shares of width and height, 0..1; None leaves what is said.
    """
    one = job.shot(shot)
    said = {name: value for name, value in (("x", across), ("y", down)) if value is not None}
    return with_laid(job, change(one, subject=change(one.subject, **said)))


def copy_framing(job: Job, *, of: str) -> Job:
    """Give all shots the framing, the placing and the subject of one."""
    like = job.shot(of)
    fields = {"framing": like.framing, "placing": like.placing, "subject": like.subject}
    return with_reel(job, shots=tuple(change(one, **fields) for one in job.reel.shots))


def change_timing(job: Job, *, of: str, **values: object) -> Job:
    """Another order, speed or conversion."""
    one = job.laid(of)
    timing: Timing = change(one.timing, **values)
    return with_laid(job, change(one, timing=timing))


def set_length(job: Job, *, of: str, frames: int, count: int) -> Job:
    """Choose the speed so that `count` source frames fill so many reel frames.

    A still is held for so many frames.
    """
    if frames < 1:
        raise JobError("A shot lasts at least one frame.")
    source = job.sequence(job.laid(of).source)
    rate = source.reading.rate.value
    if source.kind == "still":
        holds = ((job.laid(of).first, frames),)
        return change_timing(job, of=of, holds=holds, speed=job.reel_rate / rate)
    return change_timing(job, of=of, speed=Fraction(count) * job.reel_rate / (rate * frames))


def lay_over(job: Job, *, source: str, at: int) -> Job:
    """Lay the whole of a source over the reel, with its sound, above what is there.

    at: the reel frame from which on. A still stays as long as the reel does from there.
    """
    sequence = job.sequence(source)
    fresh = next(free_ids("o", [one.id for one in job.reel.overlays]))
    there = sequence.range
    overlay = Overlay(id=fresh, source=source, first=there.first, last=there.last, at=max(1, at))
    return with_own_sounds(with_reel(job, overlays=(*job.reel.overlays, overlay)), [overlay])


def change_overlay(job: Job, *, overlay: str, **values: object) -> Job:
    """Where it begins, how long it stays, how it is laid over."""
    return with_laid(job, change(job.overlay(overlay), **values))


def move_overlay(job: Job, *, overlay: str, to: int) -> Job:
    """Give an overlay another place above the reel, counted from 0, the lowest."""
    moved = job.overlay(overlay)
    others = [one for one in job.reel.overlays if one.id != overlay]
    others.insert(max(0, min(to, len(others))), moved)
    return with_reel(job, overlays=tuple(others))


def remove_overlay(job: Job, *, overlay: str) -> Job:
    job.overlay(overlay)
    kept = tuple(one for one in job.reel.overlays if one.id != overlay)
    return with_reel(without_sounds_of(job, [overlay]), overlays=kept)


def put_behind(job: Job, *, source: str) -> Job:
    """Lay a source behind all pictures; empty: nothing but the ground."""
    if source:
        job.sequence(source)
    return with_reel(job, behind=source)
