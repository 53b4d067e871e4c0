"""The reel's sounds: laid, bound to their shots, changed, taken off."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from waxseal.core.errors import JobError
from waxseal.core.job.edits.edit_tools import free_ids, replace_part, with_reel
from waxseal.core.job.model import Job, LaidSound, Overlay, Shot, Sound, change, make
from waxseal.core.job.soundtracks import frames_of, own_sounds

__all__ = [
    "accept_sound",
    "bind_sound",
    "change_sound",
    "lay_sound",
    "lift_sound",
    "renew_sounds",
    "with_own_sounds",
    "without_sounds_of",
]


def lay_sound(job: Job, *, source: str, at: Fraction | int = 1, **values: object) -> Job:
    """Lay a sound on the reel: free, from a frame of the reel. values: see `LaidSound`."""
    job.sound(source)
    fresh = next(free_ids("m", [one.id for one in job.reel.sounds]))
    laid = make(LaidSound, id=fresh, source=source, at=Fraction(at), **values)
    return with_reel(job, sounds=(*job.reel.sounds, laid))


def accept_sound(job: Job, *, source: str) -> Job:
    """Say that a sound is used though its file is not whole."""
    accepted = change(job.sound(source), accepted=True)
    return change(job, sources=replace_part(job.sources, accepted))


def renew_sounds(job: Job, *, sounds: Iterable[Sound]) -> Job:
    """Let sounds be what a fresh look found in their files."""
    for sound in sounds:
        job = change(job, sources=replace_part(job.sources, sound))
    return job


def lift_sound(job: Job, *, sound: str) -> Job:
    """Take a sound off the reel; its source stays in the in-tray."""
    job.laid_sound(sound)
    return with_reel(job, sounds=tuple(one for one in job.reel.sounds if one.id != sound))


def change_sound(job: Job, *, sound: str, **values: object) -> Job:
    """Where a sound lies, which of it, how loud: see `LaidSound`."""
    changed = change(job.laid_sound(sound), **values)
    return with_reel(
        job, sounds=tuple(changed if one.id == sound else one for one in job.reel.sounds)
    )


def bind_sound(job: Job, *, sound: str) -> Job:
    """Bind a free sound to the frames that it came with, in each of their shots.

    Raises JobError where its frames are not on the reel.
    """
    one = job.laid_sound(sound)
    frames = frames_of(job, job.sound(one.source))
    if frames is None:
        raise JobError(f"No frames came with {job.sound(one.source).name}: tie it to a shot.")
    laid = [shot for shot in job.reel.shots if shot.source == frames.id]
    if not laid:
        raise JobError(f"{frames.name} is not on the reel: put it there first.")
    bound = {"bound": True, "at": Fraction(1), "head": Fraction(0), "placed": False}
    job = change_sound(job, sound=sound, shot=laid[0].id, **bound)
    names = free_ids("m", [one.id for one in job.reel.sounds])
    more = tuple(change(one, id=next(names), shot=shot.id, **bound) for shot in laid[1:])
    return with_reel(job, sounds=(*job.reel.sounds, *more)) if more else job


def with_own_sounds(job: Job, laid: Iterable[Shot | Overlay]) -> Job:
    """Bind to shots and overlays the sounds that came with their frames.

    Not where such a sound lies on the reel by itself: it would be heard twice.
    """
    own = own_sounds(job)
    free = {one.source for one in job.reel.sounds if not one.bound}
    names = free_ids("m", [one.id for one in job.reel.sounds])
    fresh = tuple(
        LaidSound(id=next(names), source=sound.id, shot=one.id, bound=True)
        for one in laid
        if (sound := own.get(one.source)) is not None and sound.id not in free
    )
    return with_reel(job, sounds=(*job.reel.sounds, *fresh)) if fresh else job


def without_sounds_of(job: Job, laid: Iterable[str]) -> Job:
    """Take off the sounds that go with shots or overlays that are no longer on the reel."""
    gone = set(laid)
    kept = tuple(one for one in job.reel.sounds if one.shot not in gone)
    return job if len(kept) == len(job.reel.sounds) else with_reel(job, sounds=kept)
