"""The job that is open: its history, its file, its autosave. Everything else draws it."""

from __future__ import annotations

import os
from functools import partial
from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.app import window_texts
from waxseal.app.modal_wait import wait_for
from waxseal.app.task_pool import Workbench
from waxseal.core.errors import JobError
from waxseal.core.job.autosave import forget, keep
from waxseal.core.job.edits import Edit
from waxseal.core.job.history import History
from waxseal.core.job.job_file import load, save, stamp_of
from waxseal.core.job.model import Job, change
from waxseal.core.plan.programme import Programme, programme
from waxseal.core.process_identity import process_name
from waxseal.core.progress import CancelToken, Report

__all__ = ["Document", "prepared"]

AUTOSAVE_MS = 1500


class ReadJob(NamedTuple):
    """A job that was read, and not opened yet."""

    path: Path
    job: Job
    stamp: str
    planned: Programme | None


class Document(QObject):
    """Edits come in, jobs go out.

    job_changed: the new job. refused: a sentence, when an edit or a file was not possible.
    """

    acting = Signal()  # the user does something: what was said before is of the past
    job_begun = Signal()  # another job: before it is shown
    job_changed = Signal(object)
    refused = Signal(str)

    def __init__(self, parent: QObject, autosaves: Path, bench: Workbench) -> None:
        super().__init__(parent)
        self._bench = bench
        self._history = History(Job())
        self._planned: Programme | None = None
        self.autosaves = autosaves
        self._saved = self._history.job
        self.path: Path | None = None
        self.stamp = ""  # of the job's file, as it was read or written last
        self.number = 0  # another for each job that was put here: late results ask for it
        self._origin: tuple[tuple[Path | None, int], str] | None = None  # of a path and a number
        self._is_closed = False
        self._timer = QTimer(self, singleShot=True, interval=AUTOSAVE_MS)
        self._timer.timeout.connect(self._autosave_elsewhere)

    @property
    def job(self) -> Job:
        return self._history.job

    @property
    def origin(self) -> str:
        """Where the job comes from: what its deliveries made, they may make again."""
        asked = (self.path, self.number)
        if self._origin is None or self._origin[0] != asked:
            self._origin = (asked, wait_for(partial(origin_of, *asked)))
        return self._origin[1]

    @property
    def history(self) -> History:
        return self._history

    @property
    def planned(self) -> Programme | None:
        """The job's programme, where somebody has worked it out."""
        planned = self._planned
        return planned if planned is not None and planned.timeline.job is self.job else None

    @property
    def is_saved(self) -> bool:
        return self.job == self._saved

    def do(self, edit: Edit) -> None:
        """Apply an edit that the user made."""
        self.acting.emit()
        try:
            self.take(self._history.do(edit))
        except JobError as error:
            self.refused.emit(str(error))
            self.job_changed.emit(self.job)  # fields show again what holds

    def amend(self, edit: Edit) -> None:
        """Apply what was found out, not done: no step of undo."""
        try:
            self.take(self._history.amend(edit))
        except JobError:
            return  # its source has left the job meanwhile

    def settle(self) -> None:
        """A drag or typing is over."""
        self._history = self._history.settle()

    def undo(self) -> None:
        self.acting.emit()
        self.take(self._history.undo())

    def redo(self) -> None:
        self.acting.emit()
        self.take(self._history.redo())

    def begin(
        self,
        job: Job,
        path: Path | None = None,
        *,
        is_saved: bool = True,
        planned: Programme | None = None,
        stamp: str = "",
    ) -> None:
        """Put another job on the desk.

        planned: its programme, where it has been worked out. stamp: of its file.
        """
        self._history, self._planned = History(job), planned
        self.number += 1
        self.path, self.stamp = path, stamp
        self.job_begun.emit()
        self._saved = job if is_saved else Job(name="\0")
        self.job_changed.emit(job)

    def read(self, path: Path) -> ReadJob | None:
        """A job from its file; None where it cannot be read, which is said."""
        try:
            return ReadJob(path, *wait_for(partial(read, path)))
        except JobError as error:
            self.refused.emit(str(error))
            return None

    def begin_read(self, there: ReadJob) -> None:
        self.begin(there.job, there.path, planned=there.planned, stamp=there.stamp)

    def open(self, path: Path) -> bool:
        there = self.read(path)
        if there is not None:
            self.begin_read(there)
        return there is not None

    def take_what_is_on_disk(self) -> bool:
        """Take the job from its file, which something else wrote. Undo brings ours back."""
        if self.path is None:
            return False
        number = self.number
        try:
            job, stamp, _ = wait_for(partial(read, self.path))
        except JobError as error:
            self.refused.emit(str(error))
            return False
        if number != self.number:
            return False  # another job came meanwhile
        self._saved, self.stamp = job, stamp
        self.do(Edit(self.tr(window_texts.TAKE_THE_JOB_ON_DISK), lambda _: job))
        return True

    def save(self, path: Path) -> bool:
        if self.job.name == "Untitled":
            named = change(self.job, name=path.stem)
            self._history = History(named, self._history.past, self._history.future)
        # What is found out while it is written is not in the file.
        job, number = self.job, self.number
        try:
            stamp = wait_for(partial(write, job, path, self.origin))
        except JobError as error:
            self.refused.emit(str(error))
            return False
        if number == self.number:  # else another job came while this one was written
            self.path, self._saved, self.stamp = path, job, stamp
            self.job_changed.emit(self.job)
        return True

    def _autosave_elsewhere(self) -> None:
        """A large job takes a second to be written: not on the window's thread."""
        if self.is_saved:
            forget(self.autosaves)
        else:
            work = partial(autosave_now, self.job, self.autosaves, self.path, self.stamp)
            self._bench.start(work, failed=self._not_kept)

    def _not_kept(self, error: Exception) -> None:
        reason = getattr(error, "strerror", None) or str(error)
        self.refused.emit(self.tr(window_texts.THE_AUTOSAVE_CANNOT_BE_WRITTEN).format(reason))

    def autosave(self) -> None:
        """Keep the job now: when this returns, it is written."""
        if self.is_saved:
            forget(self.autosaves)
            return
        to_keep = partial(keep, self.job, folder=self.autosaves, origin=self.path, stamp=self.stamp)
        try:
            wait_for(to_keep)
        except OSError as error:
            self._not_kept(error)

    def close(self, *, is_orderly: bool) -> None:
        """The end. After one that nobody ordered, what is not saved comes back."""
        self._timer.stop()
        if self._is_closed:
            return
        self._is_closed = True
        if is_orderly:
            forget(self.autosaves)
        else:
            self.autosave()

    def take(self, history: History, planned: Programme | None = None) -> None:
        """Take over the history that an edit made.

        planned: the programme of its job, where it has been worked out.
        """
        if history is self._history:
            return
        is_another = history.job is not self._history.job
        self._history, self._planned = history, planned
        self._timer.start()
        if is_another:
            self.job_changed.emit(history.job)


def read(path: Path) -> tuple[Job, str, Programme | None]:
    """A job from its file, the stamp of the file, and the job's programme. Raises JobError."""
    stamp = stamp_of(path)  # before: what comes after it was not read
    job = load(path)
    return job, stamp, prepared(job)


def prepared(job: Job) -> Programme | None:
    """Work out the programme of a job, and what its cards show: then the window need not."""
    for one in job.sequences:
        _ = one.to_rerender, one.health  # each keeps them
    try:
        return programme(job)
    except JobError:
        return None  # the reel is empty


def origin_of(path: Path | None, number: int) -> str:
    """The job's file; of a job that has none, the window and its number there."""
    return os.path.realpath(path) if path is not None else f"{process_name()} {number}"


def write(job: Job, path: Path, origin: str) -> str:
    """Write a job into its file; returns the stamp of the file. Raises JobError.

    origin: of the job until now.
    """
    from waxseal.core.deliver.publish.overwrite_check import hand_on

    save(job, path)
    hand_on(job, before=origin, after=origin_of(path, 0))
    return stamp_of(path)


def autosave_now(
    job: Job,
    autosaves: Path,
    origin: Path | None,
    stamp: str,
    _report: Report,
    _token: CancelToken,
) -> None:
    keep(job, folder=autosaves, origin=origin, stamp=stamp)
