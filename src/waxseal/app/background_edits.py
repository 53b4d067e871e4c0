"""Edits of many parts, worked out on a thread: the window goes on meanwhile.

One after the other, each on what the one before made. What the user does in between
comes first: an edit that was worked out for an older job is applied again to the newer.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QObject, QTimer

from waxseal.app.document import Document, prepared
from waxseal.app.task_pool import Workbench
from waxseal.core.job.edits import Edit
from waxseal.core.job.history import History
from waxseal.core.job.model import Job
from waxseal.core.plan.programme import Programme
from waxseal.core.progress import CancelToken, Report

__all__ = ["CROWD", "BackgroundEdits"]

CROWD = 150  # sources: an edit of all of them takes longer than a frame of the screen


@dataclass(frozen=True, slots=True)
class PendingEdit:
    """An edit of the job with a number; is_found: it was found out, not done by the user."""

    edit: Edit
    number: int
    then: Callable[[], None]
    is_found: bool


class BackgroundEdits(QObject):
    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self._document = document
        self._bench = Workbench(self, threads=1)
        self._waiting: deque[PendingEdit] = deque()  # the first is being worked out
        self._before = document.history

    @property
    def is_busy(self) -> bool:
        return bool(self._waiting)

    def act(self, edit: Edit) -> None:
        """An edit of many sources that the user made: here where there are few."""
        if len(self._document.job.sources) < CROWD:
            self._document.do(edit)
        else:
            self._document.acting.emit()
            self.do(edit)

    def do(self, edit: Edit, then: Callable[[], None] = lambda: None) -> None:
        """An edit that the user made. then: what comes when it holds, or was refused."""
        self._put(PendingEdit(edit, self._document.number, then, is_found=False))

    def amend(self, edit: Edit, then: Callable[[], None] = lambda: None) -> None:
        """The same for what was found out: no step of undo."""
        self._put(PendingEdit(edit, self._document.number, then, is_found=True))

    def after(self, what: Callable[[], None]) -> None:
        """Do something once all edits that were asked for hold."""
        if self._waiting:
            self.amend(Edit("", unchanged), then=what)
        else:
            what()

    def close(self) -> None:
        self._waiting.clear()
        self._bench.close()

    def _put(self, asked: PendingEdit) -> None:
        self._waiting.append(asked)
        if len(self._waiting) == 1:
            self._start()

    def _start(self) -> None:
        if not self._waiting:
            return
        self._before = self._document.history
        work = partial(work_out, self._waiting[0], self._before)
        self._bench.start(work, finished=self._worked_out, failed=self._failed)

    def _worked_out(self, found: tuple[History, Programme | None]) -> None:
        after, planned = found
        if self._document.history is self._before:
            self._document.take(after, planned)
            QTimer.singleShot(0, self._end)  # what comes then waits its turn: showing takes long
        else:
            self._failed(None)

    def _failed(self, _error: Exception | None) -> None:
        """Apply it here: to the job as it is now, or to hear why it is refused."""
        if self._waiting and self._waiting[0].number == self._document.number:
            asked = self._waiting[0]
            (self._document.amend if asked.is_found else self._document.do)(asked.edit)
        self._end()

    def _end(self) -> None:
        if self._waiting:
            asked = self._waiting.popleft()
            if asked.number == self._document.number:
                asked.then()
        self._start()


def unchanged(job: Job) -> Job:
    return job


def work_out(
    asked: PendingEdit, history: History, _report: Report, _token: CancelToken
) -> tuple[History, Programme | None]:
    """The new history, and the programme of its job, so that the window need not work it out."""
    after = history.amend(asked.edit) if asked.is_found else history.do(asked.edit)
    return after, prepared(after.job)
