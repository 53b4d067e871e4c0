"""Deliveries that begin by themselves as soon as every frame is there."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.app.document import Document
from waxseal.app.outbox.background_encoder import encoder
from waxseal.app.task_pool import Workbench
from waxseal.core.deliver.process.worker_messages import Before
from waxseal.core.errors import JobError
from waxseal.core.job.model import Delivery, Job
from waxseal.core.progress import CancelToken, Report

__all__ = ["AwaitFrames"]

PAUSE_MS = 2000  # between two looks


class AwaitFrames(QObject):
    """ready: an id, once nothing is missing. changed: which one waits, or not any more."""

    ready = Signal(str)
    changed = Signal(str)

    def __init__(self, document: Document, parent: QObject) -> None:
        super().__init__(parent)
        self._document = document
        self._wanted: dict[str, int] = {}  # ids, and the number of the job that they are of
        self._bench = Workbench(self, threads=1)
        self._timer = QTimer(self, interval=PAUSE_MS)
        self._timer.timeout.connect(self._look)

    def __contains__(self, delivery: str) -> bool:
        return self._wanted.get(delivery) == self._document.number

    def begin(self, delivery: str) -> None:
        self._wanted[delivery] = self._document.number
        self._timer.start()
        self.changed.emit(delivery)
        self._look()

    def end(self, delivery: str) -> None:
        if self._wanted.pop(delivery, None) is not None:
            self.changed.emit(delivery)

    def _look(self) -> None:
        """See what is there, and encode what is whole, one look at a time."""
        there = {one.id: one for one in self._document.job.deliveries}
        self._wanted = {
            one: number
            for one, number in self._wanted.items()
            if number == self._document.number and one in there
        }
        if not self._wanted:
            self._timer.stop()
        elif not self._bench.is_busy:
            wanted = [there[one] for one in self._wanted]
            work = partial(look_at_all, self._document.job, wanted)
            self._bench.start(work, finished=self._looked)

    def _looked(self, whole: list[str]) -> None:
        for delivery in whole:
            if delivery in self:
                self._wanted.pop(delivery)
                self.ready.emit(delivery)

    def close(self) -> None:
        self._timer.stop()
        self._bench.close()


def look_at_all(
    job: Job, deliveries: list[Delivery], report: Report, token: CancelToken
) -> list[str]:
    """The ids of those that lack nothing; of the others, what is whole is encoded."""
    from waxseal.core.deliver.run.encode_available import (
        sources_awaited,  # encoders: not at the start
    )

    whole = []
    for delivery in deliveries:
        try:
            if not sources_awaited(job, [delivery]):
                whole.append(delivery.id)
                continue
        except JobError:
            continue  # the reel is empty just now
        encoder().deliver(job, delivery, report=report, token=token, before=Before.AHEAD)
    return whole
