"""Jobs and their files: new, open, save, the recent ones, and what a crash left over."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from waxseal.app import window_texts
from waxseal.app.document import Document
from waxseal.app.intake import Intake
from waxseal.app.modal_wait import wait_for
from waxseal.app.outbox.delivery_runner import DeliveryRunner
from waxseal.app.task_pool import Workbench
from waxseal.app.window_settings import Settings
from waxseal.core.folders import demo_folder
from waxseal.core.job.autosave import Leftover, forget, leftovers, put_broken_aside
from waxseal.core.job.job_file import stamp_of
from waxseal.core.job.model import Job
from waxseal.core.plan.filestates import GONE, state_of
from waxseal.core.progress import CancelToken, Progress, Report
from waxseal.core.text_format import counted, left_words, plain

__all__ = ["JobFiles"]


class JobFiles(QObject):
    """said: a sentence. leftovers_changed: whether a job waits to be brought back."""

    said = Signal(str)
    leftovers_changed = Signal(bool)

    def __init__(
        self,
        window: QWidget,
        document: Document,
        *,
        arriving: Intake,
        sending: DeliveryRunner,
        settings: Settings,
    ) -> None:
        super().__init__(window)
        self._window, self._document, self._arriving = window, document, arriving
        self._sending = sending
        self._settings = settings
        self._bench = Workbench(self, threads=1)
        self._leftovers: tuple[Leftover, ...] = ()

    def close(self) -> None:
        self._bench.close()

    def new_job(self) -> None:
        if self.may_leave():
            self._document.begin(Job())
            self.said.emit("")

    def choose_job(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self._window, self.tr("Open a job"), self._last_folder(), self.tr("Jobs (*.waxseal)")
        )
        if name:
            self.open_job(Path(name))

    def open_one_of(self, jobs: list[Path]) -> bool:
        """Open the first of the jobs that were brought, and say so where there are more."""
        if not self.open_job(jobs[0]):
            return False
        if len(jobs) > 1:
            self.said.emit(self.tr(window_texts.ONE_JOB_AT_A_TIME).format(jobs[0].name))
        return True

    def open_job(self, path: Path) -> bool:
        """What is opened is read before anything asks about the job that is open."""
        there = self._document.read(path.absolute())
        if there is None or not self.may_leave():
            return False
        self._document.begin_read(there)
        self._remember(path)
        self.said.emit("")
        self._arriving.look_again(self._document.job)
        return True

    def save(self) -> bool:
        path = self._document.path
        if path is None:
            return self.save_as()
        stamp = wait_for(partial(stamp_of, path))
        if stamp == self._document.stamp:
            return self._document.save(path)
        return self._save_over_another(path) if stamp else self._save_again(path)

    def _save_over_another(self, path: Path) -> bool:
        """Something else wrote the job's file: neither goes without a word."""
        box = self._box(self.tr("Changed meanwhile"), window_texts.IT_WAS_CHANGED_SINCE, path)
        roles = QMessageBox.ButtonRole
        mine = box.addButton(self.tr("Keep mine"), roles.DestructiveRole)
        theirs = box.addButton(self.tr("Take theirs"), roles.AcceptRole)
        other = box.addButton(self.tr("Save as…"), roles.ActionRole)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        answer = box.clickedButton()
        if answer is mine:
            return self._document.save(path)
        if answer is theirs and self._document.take_what_is_on_disk():
            self._arriving.look_again(self._document.job)
            return True
        return answer is other and self.save_as()

    def _save_again(self, path: Path) -> bool:
        box = self._box(self.tr("Gone"), window_texts.IT_IS_GONE, path)
        here = box.addButton(self.tr("Save it there"), QMessageBox.ButtonRole.AcceptRole)
        other = box.addButton(self.tr("Save as…"), QMessageBox.ButtonRole.ActionRole)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        if box.clickedButton() is here:
            return self._document.save(path)
        return box.clickedButton() is other and self.save_as()

    def _box(self, title: str, words: str, path: Path) -> QMessageBox:
        box = QMessageBox(self._window)
        box.setWindowTitle(title)
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setText(self.tr(words).format(plain(path.name)))
        return box

    def save_as(self) -> bool:
        job = self._document.job
        start = Path(self._last_folder()) / f"{job.name}.waxseal"
        name, _ = QFileDialog.getSaveFileName(
            self._window, self.tr("Save the job"), str(start), self.tr("Jobs (*.waxseal)")
        )
        if not name:
            return False
        path = Path(name)
        if path.suffix != ".waxseal":
            path = path.with_name(f"{path.name}.waxseal")
        if not self._document.save(path):
            return False
        self._remember(path)
        return True

    def may_leave(self) -> bool:
        """Ask before a job is put away that is being delivered, or was not saved.

        Nothing happens before the last question is answered.
        """
        if not (self._may_stop() and self._may_lose()):
            return False
        self._sending.stop_all()
        return True

    def _may_stop(self) -> bool:
        if not self._sending.is_busy:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle(self.tr("Still encoding"))
        box.setText(self.tr(window_texts.A_DELIVERY_IS_BEING_MADE))
        leave = box.addButton(self.tr("Stop it"), QMessageBox.ButtonRole.DestructiveRole)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        return box.clickedButton() is leave

    def _may_lose(self) -> bool:
        """What would be lost is said."""
        if self._document.is_saved or not self._document.job.sources:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle(self.tr("Not saved"))
        steps = len(self._document.history.past)
        what = counted(steps, self.tr("change")) if steps else self.tr("deliveries")
        words = self.tr(window_texts.HAS_NOT_SAVED_YET)
        box.setText(words.format(self._document.job.name, what))
        buttons = QMessageBox.StandardButton
        box.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        answer = box.exec()
        if answer == buttons.Save:
            return self.save()
        return answer == buttons.Discard

    def _remember(self, path: Path) -> None:
        self._settings.remember(path)

    def recent(self) -> list[Path]:
        """The jobs that were open last and are still there."""
        kept = self._settings.recent
        return [Path(one) for one in kept if state_of(one).size_bytes != GONE]

    def open_recent(self, path: Path) -> None:
        self.open_job(path)

    def _last_folder(self) -> str:
        recent = self._settings.recent
        return str(Path(recent[0]).parent) if recent else str(Path.home())

    def open_demo(self) -> None:
        if self.may_leave():
            self.said.emit(self.tr(window_texts.THE_DEMO_IS_BEING_TRACED))
            self._bench.start(
                make_the_demo,
                finished=self._demo_made,
                failed=self._demo_failed,
                progressed=self._demo_progressed,
            )

    def _demo_progressed(self, progress: Progress) -> None:
        until = left_words(progress.seconds_left, ", ")
        words = self.tr(window_texts.THE_DEMO_SO_FAR)
        self.said.emit(words.format(progress.done, progress.total, until))

    def _demo_made(self, job_file: Path) -> None:
        self.open_job(job_file)

    def _demo_failed(self, error: Exception) -> None:
        self.said.emit(self.tr(window_texts.THE_DEMO_COULD_NOT_BE_MADE).format(error))

    def offer_recovery(self) -> None:
        """Say that a job was left over by a crash, where there is one."""
        broken, self._leftovers = wait_for(partial(look_for_leftovers, self._document.autosaves))
        if broken:
            self.said.emit(self.tr(window_texts.AN_AUTOSAVE_IS_BROKEN).format(plain(broken[0])))
        self.leftovers_changed.emit(bool(self._leftovers))
        if self._leftovers:
            name = self._leftovers[0].job.name
            words = self.tr(window_texts.WAS_OPEN_AT_A_CRASH)
            self.said.emit(words.format(name))

    def bring_back(self) -> None:
        left = self._leftovers[0]
        if self.may_leave():
            # What came to its file since is not known: the stamp is of then.
            self._document.begin(left.job, left.origin, is_saved=False, stamp=left.stamp)
            self._document.autosave()
            self._arriving.look_again(left.job)
            self.let_go()

    def let_go(self) -> None:
        """The left over job is not wanted any more; is there another?"""
        forget(self._document.autosaves, self._leftovers[0].file)
        self.said.emit("")
        self.offer_recovery()


def look_for_leftovers(folder: Path) -> tuple[tuple[Path, ...], tuple[Leftover, ...]]:
    """The autosaves that cannot be read, renamed, and the jobs that can be brought back."""
    return put_broken_aside(folder), leftovers(folder)


def make_the_demo(report: Report, token: CancelToken) -> Path:
    from waxseal.demo.making import make_demo

    folder = demo_folder()
    folder.mkdir(parents=True, exist_ok=True)
    return make_demo(folder, report=report, token=token)
