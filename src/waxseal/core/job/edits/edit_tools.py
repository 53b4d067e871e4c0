"""What all edits have in common: names for undo, free ids, one part of a job for another."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import count
from typing import TypeVar

from waxseal.core.errors import JobError
from waxseal.core.job.model import Delivery, Job, Overlay, Sequence, Shot, Sound, change
from waxseal.core.timing.ranges import FrameRange

__all__ = [
    "Edit",
    "free_ids",
    "replace_part",
    "with_laid",
    "with_reel",
    "with_sequences",
]


V = TypeVar("V", Sequence | Sound, Shot, Overlay, Delivery)
L = TypeVar("L", Shot, Overlay)


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
    return change(job, reel=change(job.reel, **fields))


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

    def kept(one: L) -> L:
        if one.source not in after:
            return one
        return keep_inside(one, before[one.source], after[one.source].range)

    reel = change(
        job.reel,
        shots=tuple(kept(one) for one in job.reel.shots),
        overlays=tuple(kept(one) for one in job.reel.overlays),
    )
    sources = tuple(after.get(one.id, one) for one in job.sources)
    return change(job, sources=sources, reel=reel)


def keep_inside(one: L, before: FrameRange, after: FrameRange) -> L:
    if before == after:
        return one
    first, last = max(one.first, after.first), min(one.last, after.last)
    if one.range == before or last < first:
        first, last = after.first, after.last
    return change(one, first=first, last=last)


def with_laid(job: Job, one: Shot | Overlay) -> Job:
    """Another state of a shot or an overlay, by its id."""
    if isinstance(one, Shot):
        return with_reel(job, shots=replace_part(job.reel.shots, one))
    return with_reel(job, overlays=replace_part(job.reel.overlays, one))


def replace_part(values: tuple[V, ...], new: V) -> tuple[V, ...]:
    if all(value.id != new.id for value in values):
        raise JobError(f"There is no “{new.id}” in this job.")
    return tuple(new if value.id == new.id else value for value in values)
