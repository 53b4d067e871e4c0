"""Jobs and their files: new, open, save, the recent ones, and what a crash left over."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, QSettings, Signal
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from waxseal.app import sentences
from waxseal.app.arriving import Arriving
from waxseal.app.desk import Desk
from waxseal.app.outbox.sending import Sending
from waxseal.app.work import Workbench
from waxseal.core.folders import demo_folder
from waxseal.core.job.autosave import Leftover, forget, leftovers
from waxseal.core.job.model import Job
from waxseal.core.progress import CancelToken, Progress, Report
from waxseal.core.words import counted, left_words

__all__ = ["JobFiles"]

RECENT = 8


class JobFiles(QObject):
    """said: a sentence. leftovers_changed: whether a job waits to be brought back."""

    said = Signal(str)
    leftovers_changed = Signal(bool)

    def __init__(
        self,
        window: QWidget,
        desk: Desk,
        *,
        arriving: Arriving,
        sending: Sending,
        settings: QSettings,
    ) -> None:
        super().__init__(window)
        self._window, self._desk, self._arriving = window, desk, arriving
        self._sending = sending
        self._settings = settings
        self._bench = Workbench(self, threads=1)
        self._leftovers: tuple[Leftover, ...] = ()

    def close(self) -> None:
        self._bench.close()

    def new_job(self) -> None:
        if self.may_leave():
            self._desk.begin(Job())
            self.said.emit("")

    def choose_job(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self._window, self.tr("Open a job"), self._last_folder(), self.tr("Jobs (*.waxseal)")
        )
        if name and self.may_leave():
            self.open_job(Path(name))

    def open_job(self, path: Path) -> None:
        if self._desk.open(path.absolute()):
            self._remember(path)
            self.said.emit("")
            self._arriving.look_again(self._desk.job)

    def save(self) -> bool:
        if self._desk.path is None:
            return self.save_as()
        return self._desk.save(self._desk.path)

    def save_as(self) -> bool:
        job = self._desk.job
        start = Path(self._last_folder()) / f"{job.name}.waxseal"
        name, _ = QFileDialog.getSaveFileName(
            self._window, self.tr("Save the job"), str(start), self.tr("Jobs (*.waxseal)")
        )
        if not name:
            return False
        path = Path(name)
        if path.suffix != ".waxseal":
            path = path.with_name(f"{path.name}.waxseal")
        if not self._desk.save(path):
            return False
        self._remember(path)
        return True

    def may_leave(self) -> bool:
        """Ask before a job is put away that is being delivered, or was not saved."""
        return self._may_stop() and self._may_lose()

    def _may_stop(self) -> bool:
        if not self._sending.is_busy:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle(self.tr("Still encoding"))
        box.setText(self.tr(sentences.A_DELIVERY_IS_BEING_MADE))
        leave = box.addButton(self.tr("Stop it"), QMessageBox.ButtonRole.DestructiveRole)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        if box.clickedButton() is not leave:
            return False
        self._sending.stop_all()
        return True

    def _may_lose(self) -> bool:
        """What would be lost is said."""
        if self._desk.is_saved or not self._desk.job.sources:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle(self.tr("Not saved"))
        steps = len(self._desk.history.past)
        what = counted(steps, self.tr("change")) if steps else self.tr("deliveries")
        words = self.tr(sentences.HAS_NOT_SAVED_YET)
        box.setText(words.format(self._desk.job.name, what))
        buttons = QMessageBox.StandardButton
        box.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        answer = box.exec()
        if answer == buttons.Save:
            return self.save()
        return answer == buttons.Discard

    def _remember(self, path: Path) -> None:
        recent = [str(path.absolute()), *self._recent()]
        self._settings.setValue("recent", list(dict.fromkeys(recent))[:RECENT])

    def _recent(self) -> list[str]:
        kept = self._settings.value("recent")
        return [kept] if isinstance(kept, str) else [str(one) for one in kept or []]

    def recent(self) -> list[Path]:
        """The jobs that were open last and are still there."""
        return [Path(one) for one in self._recent() if Path(one).is_file()]

    def open_recent(self, path: Path) -> None:
        if self.may_leave():
            self.open_job(path)

    def _last_folder(self) -> str:
        recent = self._recent()
        return str(Path(recent[0]).parent) if recent else str(Path.home())

    def open_demo(self) -> None:
        if self.may_leave():
            self.said.emit(self.tr(sentences.THE_DEMO_IS_BEING_TRACED))
            self._bench.start(
                make_the_demo,
                finished=self._demo_made,
                failed=self._demo_failed,
                progressed=self._demo_progressed,
            )

    def _demo_progressed(self, progress: Progress) -> None:
        until = left_words(progress.seconds_left, ", ")
        words = self.tr(sentences.THE_DEMO_SO_FAR)
        self.said.emit(words.format(progress.done, progress.total, until))

    def _demo_made(self, job_file: Path) -> None:
        self.open_job(job_file)

    def _demo_failed(self, error: Exception) -> None:
        self.said.emit(self.tr(sentences.THE_DEMO_COULD_NOT_BE_MADE).format(error))

    def offer_recovery(self) -> None:
        """Say that a job was left over by a crash, where there is one."""
        self._leftovers = leftovers(self._desk.autosaves)
        self.leftovers_changed.emit(bool(self._leftovers))
        if self._leftovers:
            name = self._leftovers[0].job.name
            words = self.tr(sentences.WAS_OPEN_AT_A_CRASH)
            self.said.emit(words.format(name))

    def bring_back(self) -> None:
        left = self._leftovers[0]
        if self.may_leave():
            self._desk.begin(left.job, left.origin, is_saved=False)
            self._desk.autosave()
            self._arriving.look_again(left.job)
            self.let_go()

    def let_go(self) -> None:
        """The left over job is not wanted any more; is there another?"""
        forget(self._desk.autosaves, self._leftovers[0].file)
        self.said.emit("")
        self.offer_recovery()


def make_the_demo(report: Report, token: CancelToken) -> Path:
    from waxseal.demo.making import make_demo

    folder = demo_folder()
    folder.mkdir(parents=True, exist_ok=True)
    return make_demo(folder, report=report, token=token)
