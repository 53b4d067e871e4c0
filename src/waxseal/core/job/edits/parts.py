"""What all edits have in common: names for undo, free ids, one part of a job for another."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import TypeVar

from waxseal.core.errors import JobError
from waxseal.core.job.model import Delivery, Job, Sequence, Shot, Sound, changed

__all__ = [
    "Edit",
    "free_id",
    "replaced",
    "with_reel",
    "with_sequence",
    "with_shot",
    "with_whole_shots",
]


V = TypeVar("V", Sequence | Sound, Shot, Delivery)


@dataclass(frozen=True, slots=True)
class Edit:
    """A named change. `merges` names a drag or a typing that is one step of undo."""

    name: str
    apply: Callable[[Job], Job]
    merges: str = ""


def free_id(letter: str, taken: Iterable[str]) -> str:
    """The first of letter1, letter2, … that is not taken."""
    used = set(taken)
    return next(f"{letter}{n}" for n in range(1, len(used) + 2) if f"{letter}{n}" not in used)


def with_reel(job: Job, **fields: object) -> Job:
    return changed(job, reel=changed(job.reel, **fields))


def with_sequence(job: Job, sequence: Sequence) -> Job:
    """Another state of a sequence; its shots keep to the frames that it has now.

    A shot with none of them left is as long as what there is.
    """
    there = sequence.range
    shots = []
    for shot in job.reel.shots:
        if shot.source == sequence.id:
            first, last = max(shot.first, there.first), min(shot.last, there.last)
            if last < first:
                first, last = there.first, there.last
            shot = changed(shot, first=first, last=last)
        shots.append(shot)
    reel = changed(job.reel, shots=tuple(shots))
    return changed(job, sources=replaced(job.sources, sequence), reel=reel)


def with_whole_shots(job: Job, before: Sequence, after: Sequence) -> Job:
    """Another range of a sequence; its shots that were the whole of it stay that."""
    widened = with_sequence(job, after)
    for shot in job.reel.shots:
        if shot.source == before.id and shot.range == before.range:
            whole = changed(shot, first=after.range.first, last=after.range.last)
            widened = with_shot(widened, whole)
    return widened


def with_shot(job: Job, shot: Shot) -> Job:
    return with_reel(job, shots=replaced(job.reel.shots, shot))


def replaced(values: tuple[V, ...], new: V) -> tuple[V, ...]:
    if all(value.id != new.id for value in values):
        raise JobError(f"There is no “{new.id}” in this job.")
    return tuple(new if value.id == new.id else value for value in values)
