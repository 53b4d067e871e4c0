"""The close look at every source, by itself and in the background: one source after the other.

It waits while the reel plays or a delivery is made, so that it takes nothing
from what the user is waiting for.
"""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.app.background_edits import BackgroundEdits
from waxseal.app.document import Document
from waxseal.app.task_pool import Task, Workbench
from waxseal.core.job.edits import Edit, refresh_sources
from waxseal.core.job.model import Job, Sequence
from waxseal.core.progress import CancelToken, Progress, Report

__all__ = ["DeepScan"]

# How long results are gathered: each change of the job is drawn by the whole window.
MOMENT_MS, CROWD_MS = 20, 1000
CROWD = 150  # sources


class DeepScan(QObject):
    """looking: a source's id and how far, empty when it is over. said: a sentence."""

    looking = Signal(str, str)
    said = Signal(str)

    def __init__(self, document: Document, memory: Path, elsewhere: BackgroundEdits) -> None:
        super().__init__(document)
        self._elsewhere = elsewhere
        self._document, self._memory = document, memory
        self._bench = Workbench(self, threads=1)
        self._waiting: dict[str, bool] = {}  # source ids, and whether all is decoded afresh
        self._task: Task | None = None
        self._source = ""
        self._is_held = False
        self._found: list[Sequence] = []  # looked at, and not yet in the job
        self._timer = QTimer(self, singleShot=True)
        self._timer.timeout.connect(self._put_in)
        document.job_begun.connect(self.forget)

    @property
    def is_busy(self) -> bool:
        is_put_in = self._timer.isActive() or self._elsewhere.is_busy
        return self._task is not None or bool(self._waiting) or is_put_in

    def want(self, source: str) -> None:
        """Look at a source whose files were just looked at quickly."""
        self._put(source, afresh=False)

    def want_all_afresh(self, job: Job) -> None:
        """Decode every frame of every sequence, whatever is remembered."""
        for source in job.sequences:
            self._put(source.id, afresh=True)

    def hold(self, held: bool) -> None:
        """Wait, or go on."""
        self._is_held = held
        if self._task is not None:
            (self._task.token.hold if held else self._task.token.go_on)()

    def forget(self) -> None:
        """Another job: nothing of the old one is looked at any more."""
        self._waiting.clear()
        self._found.clear()
        if self._task is not None:
            self._task.token.cancel()

    def close(self) -> None:
        self._timer.stop()
        self._waiting.clear()
        self._bench.close()

    def _put(self, source: str, *, afresh: bool) -> None:
        self._waiting[source] = afresh or self._waiting.get(source, False)
        if source == self._source and self._task is not None:
            self._task.token.cancel()  # its files are others by now: from the beginning
        self._next()

    def _next(self) -> None:
        if self._task is not None or not self._waiting:
            return
        sequences = {source.id: source for source in self._document.job.sequences}
        while self._task is None and self._waiting:
            name = next(iter(self._waiting))
            afresh = self._waiting.pop(name)
            source = sequences.get(name)
            if source is None or not source.found.format:
                continue
            self._source = name
            self._number = self._document.number
            self._task = self._bench.start(
                partial(look_closely, source, self._memory, afresh),
                finished=self._finished,
                failed=self._failed,
                progressed=self._progressed,
                stopped=self._over,
            )
            if self._is_held:
                self._task.token.hold()

    def _progressed(self, progress: Progress) -> None:
        if progress.done < progress.total:
            self.looking.emit(self._source, f"{progress.done} / {progress.total}")

    def _finished(self, source: Sequence) -> None:
        is_asked_again = self._source in self._waiting
        if self._number == self._document.number and not is_asked_again:
            self._found.append(source)
            if not self._timer.isActive():
                is_crowd = len(self._document.job.sources) > CROWD
                self._timer.start(CROWD_MS if is_crowd else MOMENT_MS)
        self._over()

    def _put_in(self) -> None:
        """Take what was found within a moment into the job, all at once."""
        asked_again = {*self._waiting, self._source}
        found = [one for one in self._found if one.id not in asked_again]
        self._found.clear()
        if found:
            amend = Edit("", partial(refresh_sources, sources=found))
            self._elsewhere.amend(amend)

    def _failed(self, error: Exception) -> None:
        self.said.emit(str(error))
        self._over()

    def _over(self) -> None:
        self.looking.emit(self._source, "")
        self._task, self._source = None, ""
        self._next()


def look_closely(
    source: Sequence,
    memory: Path,
    afresh: bool,
    report: Report,
    token: CancelToken,
) -> Sequence:
    from waxseal.core.arrive.decode_check import (
        look_deep,  # NumPy: not in the window's first second
    )
    from waxseal.core.arrive.measure_cache import MeasureCache

    return look_deep(
        source, memory=MeasureCache(memory), afresh=afresh, workers=1, report=report, token=token
    )
