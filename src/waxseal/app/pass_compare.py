"""Compares the passes of a stack with its beauty, away from the window's thread."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, Signal

from waxseal.app.document import Document
from waxseal.app.task_pool import Workbench
from waxseal.core.job.model import Job
from waxseal.core.progress import CancelToken, Report

__all__ = ["PassCompare"]

MOST_FRAMES = 24  # evenly over the range: a figure at once, not in an hour


class PassCompare(QObject):
    """compared: a source, and how its passes compare."""

    compared = Signal(str, str)

    def __init__(self, document: Document, bench: Workbench) -> None:
        super().__init__(document)
        self._document, self._bench = document, bench
        self._source = ""

    def compare(self, source: str) -> None:
        self._source = source
        work = partial(compare_passes, self._document.job, source)
        self._bench.start(work, finished=self._say, failed=self._say_trouble)

    def _say(self, words: str) -> None:
        self.compared.emit(self._source, words)

    def _say_trouble(self, error: Exception) -> None:
        self.compared.emit(self._source, str(error))


def compare_passes(job: Job, source: str, _report: Report, token: CancelToken) -> str:
    from waxseal.core.picture.inspection.pass_comparison import compare_stack

    sequence = job.sequence(source)
    whole = [n for n in sequence.range if n not in sequence.unreadable and sequence.files.has(n)]
    step = max(1, -(-len(whole) // MOST_FRAMES))
    return compare_stack(job, source, whole[::step], token=token).words
