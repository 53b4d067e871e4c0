"""Light copies, made by themselves once nothing else is wanted for a while."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.app import window_texts
from waxseal.app.deep_scan import DeepScan
from waxseal.app.pictures import Pictures
from waxseal.app.task_pool import Task, Workbench
from waxseal.core.plan.programme import Programme
from waxseal.core.progress import CancelToken, Progress, Report

__all__ = ["ProxyMaker"]

QUIET_MS = 4000  # without a change of the reel


class ProxyMaker(QObject):
    """copying: a source's id and how far, empty when it is over. said: a sentence."""

    copying = Signal(str, str)
    said = Signal(str)

    def __init__(self, parent: QObject, pictures: Pictures, closely: DeepScan) -> None:
        super().__init__(parent)
        self._pictures, self._closely = pictures, closely
        self._bench = Workbench(self, threads=1)
        self._programme: Programme | None = None
        self._done: Programme | None = None
        self._task: Task | None = None
        self._source = ""
        self._is_held = False
        self.is_on = True
        self._timer = QTimer(self, singleShot=True, interval=QUIET_MS)
        self._timer.timeout.connect(self._begin)

    @property
    def is_busy(self) -> bool:
        return self._task is not None

    def show_programme(self, programme: Programme | None) -> None:
        """Another reel: what is being copied is looked at anew, after a while."""
        self._programme = programme
        if self._task is not None:
            self._task.token.cancel()
        if self.is_on and programme is not None:
            self._timer.start()

    def switch(self, *, on: bool) -> None:
        self.is_on = on
        if on:
            self._done = None
            self._timer.start(0)
        else:
            self._timer.stop()
            if self._task is not None:
                self._task.token.cancel()

    def hold(self, held: bool) -> None:
        """Wait, or go on."""
        self._is_held = held
        if self._task is not None:
            (self._task.token.hold if held else self._task.token.go_on)()

    def close(self) -> None:
        self._timer.stop()
        self.is_on = False
        self._bench.close()

    def _begin(self) -> None:
        programme = self._programme
        if programme is None or programme is self._done or self._task is not None:
            return
        if self._is_held or self._closely.is_busy:
            self._timer.start()
            return
        self._task = self._bench.start(
            partial(make_copies, programme, self._pictures),
            finished=self._finished,
            failed=self._failed,
            progressed=self._progressed,
            stopped=self._over,
        )

    def _progressed(self, progress: Progress) -> None:
        if progress.stage != self._source and self._source:
            self.copying.emit(self._source, "")
        self._source = progress.stage
        if progress.total > 1:  # of a still it is over before anyone reads it
            words = self.tr("light copy {0} / {1}").format(progress.done, progress.total)
            self.copying.emit(self._source, words)

    def _finished(self, programme: Programme) -> None:
        self._done = programme
        self._over()

    def _failed(self, error: Exception) -> None:
        reason = getattr(error, "strerror", None) or str(error)
        self.said.emit(self.tr(window_texts.LIGHT_COPIES_STOPPED).format(reason))
        self.is_on = False
        self._over()

    def _over(self) -> None:
        if self._source:
            self.copying.emit(self._source, "")
        self._task, self._source = None, ""
        if self.is_on and self._programme is not self._done:
            self._timer.start()


def make_copies(
    programme: Programme, pictures: Pictures, report: Report, token: CancelToken
) -> Programme:
    from waxseal.core.picture.copies.proxy_writer import (
        copy_heavy,  # NumPy: not in the first second
    )

    pictures.ready_kernels()  # compiling would make every frame look heavy
    copy_heavy(programme.film(), pictures.copies(), report=report, token=token)
    return programme
