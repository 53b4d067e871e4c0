"""The deliveries that are on their way: one after another, each in a process of its own."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QObject, Signal

from waxseal.app.desk import Desk
from waxseal.app.work import Task, Workbench
from waxseal.core.deliver.run import EncodingProcess
from waxseal.core.job.edits import Edit, record_outcome
from waxseal.core.job.model import Delivery, DeliveryState, Job, Outcome
from waxseal.core.progress import CancelToken, Progress, Report

__all__ = ["Sending", "Status"]


@dataclass(frozen=True, slots=True)
class Status:
    """Where a delivery is: its state, how far, and what it ended with."""

    state: DeliveryState
    progress: Progress | None = None
    outcome: Outcome | None = None


class Sending(QObject):
    """status_changed: a delivery's id. ended: its id and outcome. complained: a sentence."""

    status_changed = Signal(str)
    ended = Signal(str, object)

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._desk = desk
        self._bench = Workbench(self, threads=1)
        self._waiting: list[str] = []
        self._task: Task | None = None
        self._current = ""
        self._number = 0
        self._progress: Progress | None = None

    @property
    def is_busy(self) -> bool:
        return self._task is not None

    def status(self, delivery: Delivery) -> Status:
        if delivery.id == self._current:
            stage = self._progress.stage if self._progress else ""
            state = DeliveryState.CHECKING if stage == "checking" else DeliveryState.ENCODING
            return Status(state, self._progress)
        if delivery.id in self._waiting:
            return Status(DeliveryState.WAITING)
        if delivery.outcome is not None:
            return Status(delivery.outcome.state, None, delivery.outcome)
        return Status(DeliveryState.DRAFT)

    def send(self, delivery: str) -> None:
        """Make a delivery, as soon as those before it are made."""
        if delivery != self._current and delivery not in self._waiting:
            self._waiting.append(delivery)
            self.status_changed.emit(delivery)
        self._start_next()

    def stop(self, delivery: str) -> None:
        if delivery == self._current and self._task is not None:
            self._task.token.cancel()
        elif delivery in self._waiting:
            self._waiting.remove(delivery)
            self.status_changed.emit(delivery)

    def stop_all(self) -> None:
        for delivery in (*self._waiting, self._current):
            self.stop(delivery)

    def _start_next(self) -> None:
        ids = {one.id for one in self._desk.job.deliveries}
        self._waiting = [one for one in self._waiting if one in ids]
        if self._task is not None or not self._waiting:
            return
        self._current = self._waiting.pop(0)
        self._progress = None
        job = self._desk.job
        self._number = self._desk.number
        work = partial(deliver, job, job.delivery(self._current))
        self._task = self._bench.start(
            work,
            finished=self._finished,
            failed=self._failed,
            progressed=self._progressed,
            stopped=self._stopped,
        )
        self.status_changed.emit(self._current)

    def _progressed(self, progress: Progress) -> None:
        self._progress = progress
        self.status_changed.emit(self._current)

    def _finished(self, outcome: Outcome) -> None:
        delivery, self._current, self._task = self._current, "", None
        if self._number == self._desk.number:  # else another job lies on the desk by now
            record = partial(record_outcome, delivery=delivery, outcome=outcome)
            self._desk.amend(Edit("", record))
            self.status_changed.emit(delivery)
            self.ended.emit(delivery, outcome)
        self._start_next()

    def _failed(self, error: Exception) -> None:
        self._finished(Outcome(state=DeliveryState.REFUSED, reasons=(str(error),)))

    def _stopped(self) -> None:
        self._finished(Outcome(state=DeliveryState.STOPPED))

    def close(self) -> None:
        self._waiting.clear()
        self._bench.close()


def deliver(job: Job, delivery: Delivery, report: Report, token: CancelToken) -> Outcome:
    return EncodingProcess().deliver(job, delivery, report=report, token=token)
