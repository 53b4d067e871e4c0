"""Drives the queue: makes one delivery after another, each in a process of its own."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.app.document import Document
from waxseal.app.outbox import outbox_texts
from waxseal.app.outbox.await_frames import AwaitFrames
from waxseal.app.outbox.background_encoder import encoder
from waxseal.app.task_pool import Task, Workbench
from waxseal.core.deliver.format.delivery_settings import film_keys, reel_key_of
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.queue.delivery_queue import Queue, Status
from waxseal.core.deliver.queue.running_deliveries import note_running, take_interrupted
from waxseal.core.job.edits import Edit, record_outcome
from waxseal.core.job.model import Delivery, DeliveryState, Job, Outcome
from waxseal.core.plan.programme import Programme
from waxseal.core.progress import CancelToken, Progress, Report
from waxseal.core.text_format import names_words

__all__ = ["DeliveryRunner"]

CALM_MS = 700  # without a change, before files are looked at
TOLD_MS = 50  # from one line of progress to the next: a quick encode reports hundreds a second


class DeliveryRunner(QObject):
    """status_changed: a delivery's id, none for all. ended: an id and outcome. said: a sentence."""

    status_changed = Signal(str)
    ended = Signal(str, object)
    said = Signal(str)

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self._document = document
        self._bench = Workbench(self, threads=1)
        self._looking = Workbench(self, threads=1)
        self._is_looking = False
        self._queue = Queue()
        self._task: Task | None = None
        self._number = 0
        self._over: set[str] = set()  # deliveries that may overwrite a file, this once
        # What each delivery would be made of now, by its id; empty until somebody has looked.
        self.film_keys: dict[str, str] = {}
        self._programme: Programme | None = None
        self._late = QTimer(self, singleShot=True, interval=CALM_MS)
        self._late.timeout.connect(self._look_at_film)
        self._telling = QTimer(self, singleShot=True, interval=TOLD_MS)
        self._telling.timeout.connect(self._tell_progress)
        document.job_changed.connect(self._look_for_interrupted)
        self._awaiting = AwaitFrames(document, self)
        self._awaiting.ready.connect(self.send)
        self._awaiting.changed.connect(self.status_changed)
        self._looked_for = -1  # the number of the job that was looked at

    @property
    def is_busy(self) -> bool:
        return self._is_looking or self._queue.is_busy

    def status(self, delivery: Delivery) -> Status:
        if delivery.id in self._awaiting:
            return Status(DeliveryState.WAITING, is_awaiting=True)
        return self._queue.status(delivery)

    def send_when_complete(self, delivery: str) -> None:
        """Make a delivery as soon as every frame is there; what is whole is encoded meanwhile."""
        self._awaiting.begin(delivery)

    def left(self, frames: Mapping[str, int]) -> tuple[int, float | None]:
        """How many frames and seconds are left of all deliveries; see Queue."""
        return self._queue.left(frames)

    def send_all(self, programme: Programme) -> None:
        """Make every delivery that is not sealed as the reel is now: files are looked at first."""
        if self._is_looking:
            return
        self._is_looking = True
        work = partial(stale, self._document.job.deliveries, programme, self._document.number)
        self._looking.start(work, finished=self._send_stale, failed=self._fail)

    def _send_stale(self, found: tuple[list[str], list[str], int]) -> None:
        self._is_looking = False
        wanted, sealed, number = found
        if number != self._document.number:
            return
        for name in sealed:
            self.said.emit(self.tr(outbox_texts.IS_SEALED_ALREADY).format(name))
        for delivery in wanted:
            self.send(delivery)
        self.status_changed.emit("")

    def _fail(self, error: Exception) -> None:
        self._is_looking = False
        self.said.emit(str(error))

    def _look_for_interrupted(self, job: Job) -> None:
        """Say, once, what of a job was being made when a process ended without a word."""
        if self._looked_for == self._document.number:
            return
        self._looked_for = self._document.number
        names = [path_of(one).name for one in take_interrupted(job)]
        if names:
            words = self.tr(outbox_texts.WAS_BEING_MADE)
            QTimer.singleShot(0, self, partial(self.said.emit, words.format(names_words(names))))

    def _note(self) -> None:
        """What would be lost from sight in a crash."""
        there = {one.id: one for one in self._document.job.deliveries}
        wanted = (self._queue.current, *self._queue.waiting)
        note_running(there[one] for one in wanted if one in there)

    def show_programme(self, programme: Programme | None) -> None:
        """The reel is another: what it is made of is looked at as soon as it is quiet."""
        self._programme, self.film_keys = programme, {}
        self.look_at_files()

    def look_at_files(self) -> None:
        """A file may be another: see whether what is sealed is still of what is there."""
        if any(one.outcome is not None for one in self._document.job.deliveries):
            self._late.start()

    def _look_at_film(self) -> None:
        programme = self._programme
        if programme is None or not any(
            one.outcome is not None and one.outcome.made_from == reel_key_of(programme, one)
            for one in self._document.job.deliveries
        ):
            return  # the reel itself has changed since: that is said anyway
        sealed = [one for one in self._document.job.deliveries if one.outcome is not None]
        self._looking.start(partial(look_at_films, programme, sealed), finished=self._films_seen)

    def _films_seen(self, found: tuple[Programme, dict[str, str]]) -> None:
        programme, keys = found
        if programme is self._programme and keys != self.film_keys:
            self.film_keys = keys
            self.status_changed.emit("")

    def send(self, delivery: str, *, overwrite: bool = False) -> None:
        """Make a delivery, as soon as those before it are made.

        overwrite: whether another file that has its name may go, this once.
        """
        if overwrite:
            self._over.add(delivery)
        queue = self._queue.add(delivery)
        if queue is not self._queue:
            self._queue = queue
            self.status_changed.emit(delivery)
        self._start_next()
        self._note()

    def hold(self, delivery: str, *, held: bool) -> None:
        """Let the delivery that is made now wait, or go on."""
        if delivery != self._queue.current or self._task is None:
            return
        (self._task.token.hold if held else self._task.token.go_on)()
        self._queue = self._queue.hold(held=held)
        self.status_changed.emit(delivery)

    def stop(self, delivery: str) -> None:
        if delivery == self._queue.current and self._task is not None:
            self._task.token.cancel()
        elif delivery in self._awaiting:
            self._awaiting.end(delivery)
        elif delivery in self._queue.waiting:
            self._queue = self._queue.remove(delivery)
            self.status_changed.emit(delivery)

    def stop_all(self) -> None:
        waiting = [one.id for one in self._document.job.deliveries if one.id in self._awaiting]
        for delivery in (*waiting, *self._queue.waiting, self._queue.current):
            self.stop(delivery)

    def _start_next(self) -> None:
        self._queue = self._queue.keep([one.id for one in self._document.job.deliveries])
        delivery = self._queue.next_to_start()
        if not delivery:
            return
        self._queue = self._queue.start(delivery)
        job, may_replace = self._document.job, delivery in self._over
        self._over.discard(delivery)
        self._number = self._document.number
        self._task = self._bench.start(
            partial(
                deliver,
                *(job, job.delivery(delivery), may_replace, self._queue.waiting),
                self._document.origin,
            ),
            finished=self._finished,
            failed=self._failed,
            progressed=self._progressed,
            stopped=self._stopped,
        )
        self.status_changed.emit(delivery)

    def _progressed(self, progress: Progress) -> None:
        self._queue = self._queue.proceed(progress)
        if not self._telling.isActive():
            self._telling.start()

    def share(self) -> float | None:
        """How far the delivery is that is being made, 0..1; None for nothing that runs."""
        progress = self._queue.progress
        if not self._queue.is_busy:
            return None
        return progress.done / progress.total if progress and progress.total else 0.0

    def _tell_progress(self) -> None:
        if self._queue.is_busy:
            self.status_changed.emit(self._queue.current)

    def _finished(self, outcome: Outcome) -> None:
        delivery, self._task = self._queue.current, None
        self._queue = self._queue.end()
        if self._number == self._document.number:  # else another job is on the desk by now
            record = partial(record_outcome, delivery=delivery, outcome=outcome)
            self._document.amend(Edit("", record))
            self.status_changed.emit(delivery)
            self.ended.emit(delivery, outcome)
            self.look_at_files()
        self._start_next()
        self._note()

    def _failed(self, error: Exception) -> None:
        self._finished(Outcome(state=DeliveryState.REFUSED, reasons=(str(error),)))

    def _stopped(self) -> None:
        self._finished(Outcome(state=DeliveryState.STOPPED))

    def close(self) -> None:
        self._late.stop()
        self._telling.stop()
        self._queue = self._queue.clear()
        self._awaiting.close()
        self._looking.close()
        self._bench.close()
        note_running(())


def deliver(
    job: Job,
    delivery: Delivery,
    may_replace: bool,
    waiting: tuple[str, ...],
    origin: str,
    report: Report,
    token: CancelToken,
) -> Outcome:
    return encoder().deliver(
        *(job, delivery),
        report=report,
        token=token,
        overwrite=may_replace,
        beside=waiting,
        origin=origin,
    )


def look_at_films(
    programme: Programme, deliveries: list[Delivery], _report: Report, _token: CancelToken
) -> tuple[Programme, dict[str, str]]:
    return programme, film_keys(programme, deliveries)


def stale(
    deliveries: tuple[Delivery, ...],
    programme: Programme,
    number: int,
    _report: Report,
    token: CancelToken,
) -> tuple[list[str], list[str], int]:
    """The ids of those to be made, the names of those that are sealed already, and the number."""
    from waxseal.core.deliver.queue.still_sealed import (
        is_still_sealed,  # measures: not at the start
    )

    keys = film_keys(programme, deliveries)
    wanted, sealed = [], []
    for one in deliveries:
        key = keys[one.id]
        if is_still_sealed(one, reel_key=reel_key_of(programme, one), film_key=key, token=token):
            sealed.append(path_of(one).name)
        else:
            wanted.append(one.id)
    return wanted, sealed, number
