"""What all edits have in common: names for undo, free ids, one part of a job for another."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import count
from typing import TypeVar

from waxseal.core.errors import JobError
from waxseal.core.job.model import Delivery, Job, Sequence, Shot, Sound, changed
from waxseal.core.timing.ranges import FrameRange

__all__ = [
    "Edit",
    "free_ids",
    "replaced",
    "with_reel",
    "with_sequences",
    "with_shot",
]


V = TypeVar("V", Sequence | Sound, Shot, Delivery)


@dataclass(frozen=True, slots=True)
class Edit:
    """A named change. `merges` names a drag or a typing that is one step of undo."""

    name: str
    apply: Callable[[Job], Job]
    merges: str = ""


def free_ids(letter: str, taken: Iterable[str]) -> Iterator[str]:
    """Those of letter1, letter2, … that are not taken, in order."""
    used = frozenset(taken)
    return (name for n in count(1) if (name := f"{letter}{n}") not in used)


def with_reel(job: Job, **fields: object) -> Job:
    return changed(job, reel=changed(job.reel, **fields))


def with_sequences(job: Job, sequences: Iterable[Sequence]) -> Job:
    """Other states of sequences, all at once.

    A shot that was the whole of its source stays that; the others keep to the
    frames that are still there, and one with none of them left is as long as
    what there is. Raises JobError for a sequence that the job has not.
    """
    after = {one.id: one for one in sequences}
    before = {one.id: one.range for one in job.sequences if one.id in after}
    for unknown in after.keys() - before.keys():
        raise JobError(f"There is no “{unknown}” in this job.")
    shots = tuple(
        kept_inside(shot, before[shot.source], after[shot.source].range)
        if shot.source in after
        else shot
        for shot in job.reel.shots
    )
    sources = tuple(after.get(one.id, one) for one in job.sources)
    return changed(job, sources=sources, reel=changed(job.reel, shots=shots))


def kept_inside(shot: Shot, before: FrameRange, after: FrameRange) -> Shot:
    if before == after:
        return shot
    first, last = max(shot.first, after.first), min(shot.last, after.last)
    if shot.range == before or last < first:
        first, last = after.first, after.last
    return changed(shot, first=first, last=last)


def with_shot(job: Job, shot: Shot) -> Job:
    return with_reel(job, shots=replaced(job.reel.shots, shot))


def replaced(values: tuple[V, ...], new: V) -> tuple[V, ...]:
    if all(value.id != new.id for value in values):
        raise JobError(f"There is no “{new.id}” in this job.")
    return tuple(new if value.id == new.id else value for value in values)
