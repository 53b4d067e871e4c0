"""Lines a sound of the reel up with its picture, away from the window's thread."""

from __future__ import annotations

from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from waxseal.app.document import Document
from waxseal.app.task_pool import Workbench
from waxseal.core.job.edits import Edit
from waxseal.core.plan.sound_ties import nudge_sound
from waxseal.core.plan.timeline import Timeline, timeline_of
from waxseal.core.progress import CancelToken, Report

if TYPE_CHECKING:
    from waxseal.core.sound.clap_finder import ClapsAndFlashes

__all__ = ["LineUp"]

STEP = 48_000  # a sound is moved by whole parts of a second of this size


class LineUp(QObject):
    """said: a sentence."""

    said = Signal(str)

    def __init__(self, document: Document, bench: Workbench, measures: Path) -> None:
        super().__init__(document)
        self._document, self._bench, self._measures = document, bench, measures

    def line_up(self, laid: str) -> None:
        """Find the clap and the flash of a sound of the reel, and bring them together."""
        timeline = timeline_of(self._document.job)
        work = partial(find, timeline, laid, self._measures)
        self.said.emit(self.tr("Looking for the clap and the flash…"))
        self._bench.start(work, finished=partial(self._move, timeline, laid), failed=self._fail)

    def _move(self, timeline: Timeline, laid: str, found: ClapsAndFlashes) -> None:
        from waxseal.core.plan.clap_offset import line_up_words

        job = self._document.job
        if job.reel is not timeline.job.reel and job.reel != timeline.job.reel:
            self.said.emit(self.tr("The reel has changed meanwhile: ask again."))
            return
        if found.late:
            by = Fraction(-round(found.late * STEP), STEP)
            change = partial(nudge_sound, sound=laid, seconds=by)
            self._document.do(Edit(self.tr("line a sound up"), change))
        self.said.emit(line_up_words(found, timeline.rate))

    def _fail(self, error: Exception) -> None:
        self.said.emit(str(error))


def find(
    timeline: Timeline, laid: str, measures: Path, _report: Report, token: CancelToken
) -> ClapsAndFlashes:
    from waxseal.core.arrive.measure_cache import MeasureCache
    from waxseal.core.plan.clap_offset import line_up

    return line_up(timeline, timeline.job.laid_sound(laid), MeasureCache(measures), token)
