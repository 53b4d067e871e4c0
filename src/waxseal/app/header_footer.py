"""The head and the foot of the window: the job, whether it is saved, one line of message."""

from __future__ import annotations

import shutil
from functools import partial

from PySide6.QtCore import QElapsedTimer, Signal
from PySide6.QtWidgets import QFrame

from waxseal.app.document import Document
from waxseal.app.look.text_scale import px
from waxseal.app.look.widgets import Elided, button, label, rename, row_of
from waxseal.app.task_pool import Workbench
from waxseal.core.job.model import DeliveryState, Job, Origin
from waxseal.core.plan.timeline import Timeline
from waxseal.core.progress import CancelToken, Report
from waxseal.core.text_format import bytes_words, counted
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import length_words

__all__ = ["Footer", "Header"]

EVERY_MS = 5000


class Header(QFrame):
    """source_asked: a source whose rate is a guess."""

    source_asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("header")
        self.setFixedHeight(px(36))
        self._name = label("", "jobName")
        self._saved = label("", "quiet")
        self._guessed = button("", self._go, "word")
        self._guessed.hide()
        self._first_guessed = ""
        self._summary = label("", "quiet")
        row = row_of(self._name, self._saved, 1, self._guessed, self._summary, gap=14)
        row.setContentsMargins(14, 0, 14, 0)
        self.setLayout(row)

    @property
    def name(self) -> str:
        return self._name.text()

    def _go(self) -> None:
        self.source_asked.emit(self._first_guessed)

    def show_job(self, document: Document) -> None:
        job = document.job
        self._name.setText(self.tr("Untitled") if job.name == "Untitled" else job.name)
        if document.path is not None:
            self._saved.setText(self.tr("saved") if document.is_saved else self.tr("changed"))
        else:
            self._saved.setText(self.tr("not saved yet") if job.sources else "")

    def show_summary(
        self, job: Job, timeline: Timeline | None, states: list[DeliveryState]
    ) -> None:
        parts = []
        if job.sources:
            parts.append(counted(len(job.sources), self.tr("source")))
        guesses = [
            one.id
            for one in job.sequences
            if one.reading.rate.origin is Origin.GUESS and one.kind == "sequence"
        ]
        self._first_guessed = guesses[0] if guesses else ""
        self._guessed.setVisible(bool(guesses))
        words = counted(len(guesses), self.tr("rate"))
        rename(self._guessed, self.tr("{0} to confirm").format(words))
        if timeline is not None:
            length = length_words(timeline.length, timeline.rate)
            parts.append(self.tr("reel {0} at {1}").format(length, rate_words(timeline.rate)))
        for state, words in (
            (DeliveryState.SEALED, self.tr("sealed")),
            (DeliveryState.REFUSED, self.tr("refused")),
        ):
            if states.count(state):
                parts.append(f"{states.count(state)} {words}")
        self._summary.setText("   ·   ".join(parts))


class Footer(QFrame):
    """wanted, unwanted: what to do with a job that a crash left over."""

    wanted = Signal()
    unwanted = Signal()

    def __init__(self, bench: Workbench) -> None:
        super().__init__()
        self._bench, self._asked = bench, ""
        self._since = QElapsedTimer()
        self.setObjectName("footer")
        self.setFixedHeight(px(26))
        self._message = Elided("")
        self._want = button(self.tr("Restore it"), self.wanted.emit, "word")
        self._not = button(self.tr("Discard it"), self.unwanted.emit, "word")
        self._free = label("", "quiet")
        row = row_of(self._message, self._want, self._not, self._free)
        row.setStretch(0, 1)
        row.setContentsMargins(14, 0, 14, 0)
        self.setLayout(row)
        self.offer(False)

    @property
    def message(self) -> str:
        return self._message.whole

    def say(self, words: str) -> None:
        self._message.say(words)

    def offer(self, is_there: bool) -> None:
        self._want.setVisible(is_there)
        self._not.setVisible(is_there)

    def show_space(self, job: Job) -> None:
        """What is free where the first delivery goes; asked on a thread, and not all the time."""
        folder = job.deliveries[0].folder if job.deliveries else ""
        if not folder:
            self._free.setText("")
        elif folder != self._asked or self._since.hasExpired(EVERY_MS):
            self._since.start()
            self._bench.start(partial(free_in, folder), finished=self._show_free)
        self._asked = folder

    def _show_free(self, found: tuple[str, int]) -> None:
        folder, free = found
        if folder == self._asked:
            self._free.setText(self.tr("{0} free").format(bytes_words(free)) if free else "")


def free_in(folder: str, _report: Report, _token: CancelToken) -> tuple[str, int]:
    """The folder, and the bytes that are free there; 0 where that is not known."""
    try:
        return folder, shutil.disk_usage(folder).free
    except OSError:
        return folder, 0
