"""Frames of passes that do not fit the stack they are in: they are of another size."""

from __future__ import annotations

from dataclasses import dataclass

from waxseal.core.job.model import FindingKind, Job, Sequence, Size

__all__ = ["Misfit", "misfits"]


@dataclass(frozen=True, slots=True)
class Misfit:
    """Frames of a pass, and the stack that they do not fit.

    size: what the stack needs.
    """

    sequence: Sequence
    frames: frozenset[int]
    stack: Sequence
    size: Size

    @property
    def why(self) -> str:
        found = self.sequence.found.size
        has = f"{found}, " if found != self.size else ""
        return f"{has}not {self.size} as the stack of {self.stack.name}"


def misfits(job: Job) -> dict[str, Misfit]:
    """By the pass's source; only stacks and passes that are on."""
    found: dict[str, Misfit] = {}
    for stacked in job.sequences:
        stack = stacked.stack
        for one in stack.passes if stack is not None and stack.on else ():
            sequence, frames = job.sequence(one.source), frozenset[int]()
            if one.on and sequence.id not in found:
                frames = frames_of_another_size(sequence, stacked.found.size)
            if frames:
                found[sequence.id] = Misfit(sequence, frames, stacked, stacked.found.size)
    return found


def frames_of_another_size(sequence: Sequence, size: Size) -> frozenset[int]:
    if not sequence.found.format:
        return frozenset()  # nothing of it could be read: a finding of its own
    if sequence.found.size != size:
        return frozenset(sequence.range)
    return frozenset(one.frame for one in sequence.findings if one.kind is FindingKind.ANOTHER_SIZE)
