"""The loudness of the whole reel, measured on request and again when its sound has changed."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.app.reel_view import reel_texts
from waxseal.app.task_pool import Task, Workbench
from waxseal.core.errors import WaxSealError
from waxseal.core.plan.sound_pieces import sound_plan
from waxseal.core.plan.timeline import Timeline
from waxseal.core.progress import CancelToken, Report
from waxseal.core.text_format import numbered
from waxseal.core.timing.ranges import FrameRange

if TYPE_CHECKING:  # they bring codecs along: imported when something is to be measured
    from waxseal.core.sound.loudness_course import LoudnessCourse
    from waxseal.core.sound.mix_plan import SoundPlan

__all__ = ["LoudnessLine"]

RESTS_MS = 600  # that the reel has to stay as it is before it is measured again


class LoudnessLine(QObject):
    """changed: the course to be drawn, or None. said: a sentence."""

    changed = Signal(object)
    said = Signal(str)

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self._bench = bench
        self._timeline: Timeline | None = None
        self._plan: SoundPlan | None = None
        self._task: Task | None = None
        self.is_on = False
        self.course: LoudnessCourse | None = None
        self._soon = QTimer(self, singleShot=True, interval=RESTS_MS)
        self._soon.timeout.connect(self._measure)

    def show_timeline(self, timeline: Timeline | None) -> None:
        self._timeline = timeline
        if self.is_on:
            self._soon.start()

    def toggle(self) -> None:
        self.is_on = not self.is_on
        self._plan = None
        if not self.is_on:
            self._forget()
            return
        if not self._measure():  # said once, not after each edit
            self.said.emit(self.tr(reel_texts.NO_SOUND_TO_MEASURE))

    def _forget(self) -> None:
        self._soon.stop()
        if self._task is not None:
            self._task.token.cancel()
            self._task = None
        self.course = None
        self.changed.emit(None)

    def _measure(self) -> bool:
        """Unless the sound is as it was when it was measured. False: there is none."""
        try:
            plan = self._plan_now()
        except WaxSealError as error:
            self._fail(error)
            return True
        if plan is not None and plan == self._plan:
            return True
        self._forget()
        self._plan = plan
        if plan is None:
            return False
        self._task = self._bench.start(
            partial(measure_course, plan), finished=self._show, failed=self._fail
        )
        return True

    def _plan_now(self) -> SoundPlan | None:
        timeline = self._timeline
        if timeline is None:
            return None
        return sound_plan(timeline, FrameRange(1, timeline.length))

    def _show(self, made: tuple[SoundPlan, LoudnessCourse]) -> None:
        plan, course = made
        if not self.is_on or plan is not self._plan:
            return
        self._task, self.course = None, course
        self.changed.emit(course)
        self.said.emit(self._words(course))

    def _words(self, course: LoudnessCourse) -> str:
        if course.is_silent:
            return self.tr(reel_texts.REEL_IS_SILENT)
        figures = (numbered(one, 1) for one in (course.integrated, course.true_peak))
        words = [self.tr(reel_texts.REEL_LOUDNESS).format(*figures)]
        words += [f"{one.what[:1].upper()}{one.what[1:]}." for one in course.findings]
        return " ".join(words)

    def _fail(self, error: Exception) -> None:
        self._forget()
        self.said.emit(str(error))


def measure_course(
    plan: SoundPlan, _report: Report, token: CancelToken
) -> tuple[SoundPlan, LoudnessCourse]:
    from waxseal.core.sound.loudness_course import course_of

    return plan, course_of(plan, token)
