"""The file of the job that is open: whether something else writes it, said when it happens."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.app import window_texts
from waxseal.app.document import Document
from waxseal.app.modal_wait import is_waiting
from waxseal.app.task_pool import Workbench
from waxseal.core.job.job_file import stamp_of
from waxseal.core.progress import CancelToken, Report
from waxseal.core.text_format import plain

__all__ = ["JobWatch"]

EVERY_MS = 3000


class JobWatch(QObject):
    said = Signal(str)

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self._document = document
        self._bench = Workbench(self, threads=1)
        self._said = ""  # the stamp that was spoken of
        self._timer = QTimer(self, interval=EVERY_MS)
        self._timer.timeout.connect(self.look)
        self._timer.start()

    def close(self) -> None:
        self._timer.stop()
        self._bench.close()

    def look(self) -> None:
        if self._document.path is not None:
            look = partial(stamped, self._document.path, self._document.stamp)
            self._bench.start(look, finished=self._seen)

    def _seen(self, seen: tuple[Path, str, str]) -> None:
        path, before, now = seen
        if (path, before) != (self._document.path, self._document.stamp):
            return  # saved, or another job, meanwhile
        if is_waiting():
            return  # it may be our own save, which is not over
        if now != before and now != self._said:
            words = window_texts.CHANGED_ON_DISK if now else window_texts.GONE_FROM_DISK
            self.said.emit(self.tr(words).format(plain(path.name)))
        self._said = now


def stamped(path: Path, before: str, _report: Report, _token: CancelToken) -> tuple[Path, str, str]:
    return path, before, stamp_of(path)
