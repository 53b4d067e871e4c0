"""Which frames a sound belongs to."""

from __future__ import annotations

from pathlib import Path

from waxseal.core.job.model import Job, Sequence, Sound

__all__ = ["frames_of"]


def frames_of(job: Job, sound: Sound) -> Sequence | None:
    """The movie that a sound is of, the frames of its name, or those alone beside it."""
    path = Path(sound.path)
    moving = [one for one in job.sequences if one.kind != "still"]
    if sound.of_movie:
        own = [one for one in moving if one.files.path_of(one.files.range.first) == path]
        return own[0] if own else None
    alike = [one for one in moving if one.name.casefold() == path.stem.casefold()]
    beside = [one for one in moving if Path(one.files.folder) == path.parent]
    return next((found[0] for found in (alike, beside) if len(found) == 1), None)
