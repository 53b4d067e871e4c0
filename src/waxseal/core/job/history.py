"""Undo and redo: the jobs that were, by the name of what was done."""

from __future__ import annotations

from dataclasses import dataclass, replace

from waxseal.core.errors import JobError
from waxseal.core.job.edits import Edit
from waxseal.core.job.model import Job

__all__ = ["History"]

DEEPEST = 500  # steps kept; jobs share their unchanged parts


@dataclass(frozen=True, slots=True)
class EditStep:
    name: str
    job: Job  # as it was before (in the past) or will be after (in the future)
    merges: str = ""


@dataclass(frozen=True, slots=True)
class History:
    """A job with its past and its future. A value: each act gives a new one."""

    job: Job
    past: tuple[EditStep, ...] = ()
    future: tuple[EditStep, ...] = ()

    def do(self, edit: Edit) -> History:
        """Apply an edit. One that changes nothing leaves no step. Raises JobError."""
        job = edit.apply(self.job)
        if job == self.job:
            return self
        if edit.merges and self.past and self.past[-1].merges == edit.merges:
            return History(job, self.past)
        step = EditStep(edit.name, self.job, edit.merges)
        return History(job, (*self.past, step)[-DEEPEST:])

    def settle(self) -> History:
        """Close the last step: a drag that begins now is a step of its own."""
        if not self.past or not self.past[-1].merges:
            return self
        return replace(self, past=(*self.past[:-1], replace(self.past[-1], merges="")))

    def amend(self, edit: Edit) -> History:
        """Apply what was not done by the user (a file looked at again): no step of undo.

        It is applied to every job of the past and the future too, where it
        still fits, so that undo does not bring stale findings back. A job that it does not
        change stays the same object: who shows it sees that at a glance.
        """

        def amended(step: EditStep) -> EditStep:
            try:
                return replace(step, job=edit.apply(step.job))
            except JobError:  # the part is not in that job: nothing to amend
                return step

        job = edit.apply(self.job)
        return History(
            self.job if job == self.job else job,
            tuple(amended(step) for step in self.past),
            tuple(amended(step) for step in self.future),
        )

    @property
    def undo_name(self) -> str:
        return self.past[-1].name if self.past else ""

    @property
    def redo_name(self) -> str:
        return self.future[0].name if self.future else ""

    def undo(self) -> History:
        if not self.past:
            return self
        step = self.past[-1]
        return History(step.job, self.past[:-1], (EditStep(step.name, self.job), *self.future))

    def redo(self) -> History:
        if not self.future:
            return self
        step = self.future[0]
        return History(step.job, (*self.past, EditStep(step.name, self.job)), self.future[1:])
