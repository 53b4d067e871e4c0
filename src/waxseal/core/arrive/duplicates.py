"""Files that arrive twice: recognised by where they really lie."""

from __future__ import annotations

import os
from collections.abc import Iterable

from waxseal.core.job.model import Job, Sequence, Sound, change

__all__ = ["sounds_anew", "without_known"]


def without_known(
    job: Job, sources: Iterable[Sequence | Sound]
) -> tuple[tuple[Sequence | Sound, ...], tuple[Sequence | Sound, ...]]:
    """What is new among sources, and the job's own that the others are, under whatever path."""
    known = {place_of(source): source for source in job.sources}
    fresh, again = [], []
    for source in sources:
        if place_of(source) in known:
            again.append(known[place_of(source)])
        else:
            fresh.append(source)
    return tuple(fresh), tuple(again)


def sounds_anew(job: Job, sources: Iterable[Sequence | Sound]) -> tuple[Sound, ...]:
    """The job's own sounds as their files are now, if those are others than they were.

    sources: what a fresh look found. Its speed, and its name in the job, stay.
    """
    known = {place_of(sound): sound for sound in job.sounds}
    anew = []
    for source in sources:
        before = known.get(place_of(source)) if isinstance(source, Sound) else None
        if before is None or not isinstance(source, Sound):
            continue
        kept = {"id": before.id, "name": before.name, "path": before.path, "speed": before.speed}
        now = change(source, **kept)
        if change(before, accepted=False) != now:
            anew.append(now)
    return tuple(anew)


def place_of(source: Sequence | Sound) -> tuple[str, str]:
    """The same for the same files: their folder with its links followed, and their pattern."""
    if isinstance(source, Sound):
        return os.path.realpath(source.path), ""
    return os.path.realpath(source.files.folder), source.files.pattern
