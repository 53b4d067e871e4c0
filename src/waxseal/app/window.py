"""The window: three lanes, a header, a foot. It connects; what happens, happens elsewhere."""

from __future__ import annotations

import shutil
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, QSettings, Qt, QTimer, QUrl
from PySide6.QtGui import (
    QCloseEvent,
    QDesktopServices,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
)
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QMessageBox,
    QSplitter,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from waxseal import __version__
from waxseal.app.actions import ActionList, Actions
from waxseal.app.arriving import Arriving
from waxseal.app.desk import Desk
from waxseal.app.look.palette import Look, current, set_look
from waxseal.app.look.sheet import apply_look
from waxseal.app.look.small import Elided, button, label, row_of
from waxseal.app.menus import make_menus
from waxseal.app.outbox.lane import Outbox
from waxseal.app.outbox.sending import Sending
from waxseal.app.picture.player import Player
from waxseal.app.picture.transport import Transport
from waxseal.app.picture.viewer import Viewer
from waxseal.app.pictures import Pictures
from waxseal.app.reel.ledger import Ledger
from waxseal.app.reel.rule import Rule
from waxseal.app.reel.waveform import Peaks
from waxseal.app.tray.lane import Tray
from waxseal.app.work import Workbench
from waxseal.core.folders import autosave_folder, demo_folder
from waxseal.core.job.autosave import forget, leftovers
from waxseal.core.job.edits import Edit, lay_sound, mark, put_on_reel, remove_source, set_ground
from waxseal.core.job.model import DeliveryState, Job, Origin, Outcome, Sequence
from waxseal.core.plan.recipe import Programme
from waxseal.core.progress import CancelToken, Progress, Report
from waxseal.core.timing.ranges import write_frames
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import length_words
from waxseal.core.words import bytes_words, counted

__all__ = ["Window"]

RECENT = 8
WARM_MS = 1500  # after the window stands


class Window(QMainWindow):
    def __init__(self, settings: QSettings, autosaves: Path | None = None) -> None:
        super().__init__()
        self._settings = settings
        self.autosaves = autosaves or autosave_folder()
        self.setObjectName("window")
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.bench = Workbench(self)
        self.pictures = Pictures(self)
        self.desk = Desk(self, self.autosaves)
        self.arriving = Arriving(self.desk, self.bench)
        self.sending = Sending(self.desk)
        self.player = Player(self, self.pictures)
        self.peaks = Peaks(self.bench)
        self.tray = Tray(self.pictures)
        self.viewer = Viewer(self.player, self.pictures)
        self.transport = Transport(self.player)
        self.rule = Rule(self.pictures, self.peaks)
        self.ledger = Ledger(self.pictures, self.peaks)
        self.outbox = Outbox(self.sending)
        self.actions_ = Actions(self)
        self._lay_out()
        self.recent_menu = make_menus(self, self.actions_)
        self.recent_menu.aboutToShow.connect(self._fill_recent)
        self._connect()
        self._restore()
        self._show_job(self.desk.job)
        self.viewer.setFocus()
        QTimer.singleShot(WARM_MS, self.pictures.warm)

    # ---- layout ----------------------------------------------------------------------------

    def _lay_out(self) -> None:
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._header())
        self._middle = QSplitter(Qt.Orientation.Vertical)
        self._middle.setHandleWidth(1)
        above = QWidget()
        inner = QVBoxLayout(above)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(0)
        inner.addWidget(self.viewer, 1)
        inner.addWidget(self.transport)
        inner.addWidget(self.rule)
        self._middle.addWidget(above)
        self._middle.addWidget(self.ledger)
        self._middle.setStretchFactor(0, 1)
        self._middle.setSizes([470, 240])
        self._lanes = QSplitter(Qt.Orientation.Horizontal)
        self._lanes.setHandleWidth(1)
        for lane in (self.tray, self._middle, self.outbox):
            self._lanes.addWidget(lane)
        self._lanes.setStretchFactor(1, 1)
        self._lanes.setSizes([296, 690, 294])
        self.tray.setMinimumWidth(292)
        self.outbox.setMinimumWidth(260)
        column.addWidget(self._lanes, 1)
        column.addWidget(self._footer())
        self.setCentralWidget(whole)

    def _header(self) -> QFrame:
        header = QFrame()
        header.setObjectName("header")
        header.setFixedHeight(36)
        row = QHBoxLayout(header)
        row.setContentsMargins(14, 0, 14, 0)
        row.setSpacing(14)
        self._job_name = label("", "jobName")
        self._saved = label("", "quiet")
        self._summary = label("", "quiet")
        row.addWidget(self._job_name)
        row.addWidget(self._saved)
        row.addStretch(1)
        row.addWidget(self._summary)
        return header

    def _footer(self) -> QFrame:
        footer = QFrame()
        footer.setObjectName("footer")
        footer.setFixedHeight(26)
        self._message = Elided("")
        self._bring_back = button(self.tr("Bring it back"), self._recover, "word")
        self._let_go = button(self.tr("Let it go"), self._discard, "word")
        self._free = label("", "quiet")
        row = row_of(self._message, self._bring_back, self._let_go, self._free)
        row.setStretch(0, 1)
        row.setContentsMargins(14, 0, 14, 0)
        footer.setLayout(row)
        self._bring_back.hide()
        self._let_go.hide()
        return footer

    def _connect(self) -> None:
        desk = self.desk
        desk.job_changed.connect(self._show_job)
        desk.refused.connect(self.say)
        for part in (self.tray, self.ledger, self.outbox):
            part.edit_asked.connect(desk.do)
            part.complained.connect(self.say)
        self.ledger.settled.connect(desk.settle)
        self.ledger.looked_at.connect(self._look_at_cut)
        self.ledger.menu_asked.connect(self._shot_menu)
        self.tray.add_asked.connect(self.add_folder)
        self.tray.demo_asked.connect(self.open_demo)
        self.tray.menu_asked.connect(self._source_menu)
        self.tray.chosen.connect(self._go_to_source)
        self.arriving.said.connect(self.say)
        self.arriving.looking.connect(self.tray.note)
        self.outbox.show_asked.connect(self.show_delivery)
        self.sending.ended.connect(self._delivery_ended)
        self.sending.status_changed.connect(self._show_summary)
        self.player.moved.connect(self.rule.show_frame)
        self.player.programme_changed.connect(self._show_programme)
        self.rule.frame_asked.connect(self._go_by_rule)
        self.viewer.size_wanted.connect(self.player.show_size)

    def _restore(self) -> None:
        for name, splitter in (("lanes", self._lanes), ("middle", self._middle)):
            state = self._settings.value(f"layout/{name}")
            if state:
                splitter.restoreState(state)
        geometry = self._settings.value("layout/window")
        if geometry:
            self.restoreGeometry(geometry)

    # ---- showing ---------------------------------------------------------------------------

    def _show_job(self, job: Job) -> None:
        self.tray.show_job(job)
        self.player.show_job(job)
        self._show_edit_names()
        self._show_title(job)
        self._show_summary()

    def _show_programme(self, programme: Programme | None) -> None:
        self.rule.show_programme(programme)
        self.ledger.show_programme(programme, self.desk.job)
        self.outbox.show_job(self.desk.job, programme)

    def _show_title(self, job: Job) -> None:
        self._job_name.setText(self.tr("Untitled") if job.name == "Untitled" else job.name)
        is_saved = self.desk.is_saved and (self.desk.path is not None or not job.sources)
        words = "" if not job.sources and self.desk.path is None else self.tr("not saved yet")
        if is_saved and self.desk.path is not None:
            words = self.tr("saved")
        elif self.desk.path is not None:
            words = self.tr("changed")
        self._saved.setText(words)
        self.setWindowTitle(f"{self._job_name.text()} – Wax Seal")

    def _show_edit_names(self) -> None:
        history = self.desk.history
        undo, redo = self.actions_["undo"], self.actions_["redo"]
        undo.setEnabled(bool(history.past))
        redo.setEnabled(bool(history.future))
        undo.setText(self.tr("&Undo") + (f": {history.undo_name}" if history.undo_name else ""))
        redo.setText(self.tr("&Redo") + (f": {history.redo_name}" if history.redo_name else ""))

    def _show_summary(self, _delivery: str = "") -> None:
        job, programme = self.desk.job, self.player.programme
        parts = []
        if job.sources:
            parts.append(counted(len(job.sources), self.tr("source")))
        guesses = sum(
            1
            for one in job.sequences
            if one.reading.rate.origin is Origin.GUESS and one.kind == "sequence"
        )
        if guesses:
            parts.append(self.tr("{0} to confirm").format(counted(guesses, self.tr("rate"))))
        if programme is not None:
            length = length_words(programme.length, programme.rate)
            parts.append(self.tr("reel {0} at {1}").format(length, rate_words(programme.rate)))
        states = [self.sending.status(one).state for one in job.deliveries]
        for state, words in (
            (DeliveryState.SEALED, self.tr("sealed")),
            (DeliveryState.REFUSED, self.tr("refused")),
        ):
            if states.count(state):
                parts.append(f"{states.count(state)} {words}")
        self._summary.setText("   ·   ".join(parts))
        if job.deliveries:
            try:
                free = shutil.disk_usage(job.deliveries[0].folder).free
            except OSError:
                self._free.setText("")
            else:
                self._free.setText(self.tr("{0} free").format(bytes_words(free)))

    def say(self, words: str) -> None:
        """One line at the foot of the window."""
        self._message.say(words)

    @property
    def message(self) -> str:
        return self._message.whole

    # ---- jobs ------------------------------------------------------------------------------

    def new_job(self) -> None:
        if self._may_leave():
            self.desk.begin(Job())
            self.say("")

    def choose_job(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, self.tr("Open a job"), self._last_folder(), self.tr("Jobs (*.waxseal)")
        )
        if name and self._may_leave():
            self.open_job(Path(name))

    def open_job(self, path: Path) -> None:
        if self.desk.open(path.absolute()):
            self._remember(path)
            self.say("")
            self.arriving.look_again(self.desk.job)

    def save(self) -> bool:
        if self.desk.path is None:
            return self.save_as()
        return self.desk.save(self.desk.path)

    def save_as(self) -> bool:
        job = self.desk.job
        start = Path(self._last_folder()) / f"{job.name}.waxseal"
        name, _ = QFileDialog.getSaveFileName(
            self, self.tr("Save the job"), str(start), self.tr("Jobs (*.waxseal)")
        )
        if not name:
            return False
        path = Path(name)
        if path.suffix != ".waxseal":
            path = path.with_name(f"{path.name}.waxseal")
        if not self.desk.save(path):
            return False
        self._remember(path)
        return True

    def _may_leave(self) -> bool:
        """Ask before a job that was not saved is put away. What would be lost is said."""
        if self.desk.is_saved or not self.desk.job.sources:
            return True
        box = QMessageBox(self)
        box.setWindowTitle(self.tr("Not saved"))
        steps = len(self.desk.history.past)
        what = counted(steps, self.tr("change")) if steps else self.tr("deliveries")
        words = self.tr("“{0}” has {1} that its file does not hold yet.")
        box.setText(words.format(self.desk.job.name, what))
        buttons = QMessageBox.StandardButton
        box.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        answer = box.exec()
        if answer == buttons.Save:
            return self.save()
        return answer == buttons.Discard

    def _remember(self, path: Path) -> None:
        recent = [str(path.absolute()), *self._recent_jobs()]
        self._settings.setValue("recent", list(dict.fromkeys(recent))[:RECENT])

    def _recent_jobs(self) -> list[str]:
        kept = self._settings.value("recent")
        return [kept] if isinstance(kept, str) else [str(one) for one in kept or []]

    def _fill_recent(self) -> None:
        self.recent_menu.clear()
        jobs = [one for one in self._recent_jobs() if Path(one).is_file()]
        for one in jobs:
            self.recent_menu.addAction(Path(one).stem, partial(self._open_recent, one)).setToolTip(
                one
            )
        if not jobs:
            self.recent_menu.addAction(self.tr("none yet")).setEnabled(False)

    def _open_recent(self, path: str) -> None:
        if self._may_leave():
            self.open_job(Path(path))

    def _last_folder(self) -> str:
        recent = self._recent_jobs()
        return str(Path(recent[0]).parent) if recent else str(Path.home())

    def open_demo(self) -> None:
        if self._may_leave():
            self.say(self.tr("The demo is being traced…"))
            self.bench.start(
                make_the_demo,
                finished=self._demo_made,
                failed=self._demo_failed,
                progressed=self._demo_progressed,
            )

    def _demo_progressed(self, progress: Progress) -> None:
        left = progress.seconds_left
        until = self.tr(", {0} s left").format(round(left)) if left else ""
        words = self.tr("The demo is being traced: {0} of {1} frames{2}")
        self.say(words.format(progress.done, progress.total, until))

    def _demo_made(self, job_file: Path) -> None:
        self.open_job(job_file)

    def _demo_failed(self, error: Exception) -> None:
        self.say(self.tr("The demo could not be made: {0}").format(error))

    # ---- recovery --------------------------------------------------------------------------

    def offer_recovery(self) -> None:
        """Say that a job was left over by a crash, where there is one."""
        self._left_over = leftovers(self.autosaves)
        is_there = bool(self._left_over)
        self._bring_back.setVisible(is_there)
        self._let_go.setVisible(is_there)
        if is_there:
            name = self._left_over[0].job.name
            self.say(self.tr("“{0}” was open when Wax Seal ended unexpectedly.").format(name))

    def _recover(self) -> None:
        left = self._left_over[0]
        if self._may_leave():
            self.desk.begin(left.job, left.origin, is_saved=False)
            self.desk.autosave()
            self.arriving.look_again(left.job)
            self._discard()

    def _discard(self) -> None:
        forget(self.autosaves, self._left_over[0].file)
        self.say("")
        self.offer_recovery()

    # ---- sources ---------------------------------------------------------------------------

    def add_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, self.tr("Add a folder of frames"))
        if name:
            self.take([Path(name)])

    def add_files(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self, self.tr("Add frames or sounds"))
        if names:
            self.take([Path(name) for name in names])

    def take(self, paths: list[Path]) -> None:
        """Whatever was dropped: a job is opened, everything else comes in."""
        jobs = [path for path in paths if path.suffix == ".waxseal" and path.is_file()]
        if jobs:
            if self._may_leave():
                self.open_job(jobs[0])
        elif paths:
            self.arriving.take(paths)

    def look_again(self) -> None:
        self.arriving.look_again(self.desk.job)

    def copy_lists(self) -> None:
        lists = [
            f"{source.name} {write_frames(source.to_come_again)}"
            for source in self.desk.job.sequences
            if source.to_come_again
        ]
        QGuiApplication.clipboard().setText("\n".join(lists))
        nothing = self.tr("Nothing has to come again.")
        self.say(self.tr("Copied: {0}").format("; ".join(lists)) if lists else nothing)

    def _source_menu(self, source: str, place: QPoint) -> None:
        menu = QMenu(self)
        one = self.desk.job.source(source)
        if isinstance(one, Sequence):
            put = Edit(
                self.tr("put {0} on the reel").format(one.name), partial(put_on_reel, source=source)
            )
            menu.addAction(self.tr("Put on the reel"), partial(self.desk.do, put))
        else:
            lay = Edit(self.tr("lay {0}").format(one.name), partial(lay_sound, source=source))
            menu.addAction(self.tr("Lay from the reel's start"), partial(self.desk.do, lay))
        take_out = Edit(
            self.tr("take {0} out").format(one.name), partial(remove_source, source=source)
        )
        menu.addAction(self.tr("Take out of the in-tray"), partial(self.desk.do, take_out))
        menu.popup(place)

    def _shot_menu(self, shot: str, place: QPoint) -> None:
        menu = QMenu(self)
        menu.addAction(self.tr("Move up\tAlt+Up"), partial(self.ledger.step, shot, -1))
        menu.addAction(self.tr("Move down\tAlt+Down"), partial(self.ledger.step, shot, 1))
        menu.addAction(self.tr("Take off the reel\tDel"), partial(self.ledger.remove, shot))
        menu.popup(place)

    def _go_to_source(self, source: str) -> None:
        programme = self.player.programme
        if programme is None:
            return
        for number, shot in enumerate(programme.job.reel.shots):
            if shot.source == source:
                self.player.go(programme.starts[number])
                return

    def _look_at_cut(self, shot: str, frame: int) -> None:
        """Show the frame at the cut while it is dragged."""
        programme = self.player.programme
        if programme is None:
            return
        number = [one.id for one in programme.job.reel.shots].index(shot)
        one, span = programme.job.reel.shots[number], programme.span(number)
        self.player.stop()
        self.player.go(span.last if frame >= one.last else span.first)

    # ---- the reel --------------------------------------------------------------------------

    def to_first(self) -> None:
        self.player.stop()
        self.player.go(self.player.first)

    def to_last(self) -> None:
        self.player.stop()
        self.player.go(self.player.last)

    def toggle_loop(self) -> None:
        self.player.loops = not self.player.loops
        self.transport.show_loop()

    def _go_by_rule(self, frame: int) -> None:
        self.player.stop()
        self.player.go(frame)

    def mark_head(self) -> None:
        self._mark(self.player.frame, self.player.last)

    def mark_tail(self) -> None:
        self._mark(self.player.first, self.player.frame)

    def _mark(self, first: int, last: int) -> None:
        if self.player.programme is not None:
            words = self.tr("mark {0} to {1}").format(min(first, last), max(first, last))
            self.desk.do(Edit(words, partial(mark, first=first, last=last)))

    def unmark(self) -> None:
        self.desk.do(Edit(self.tr("take the mark away"), partial(mark, first=None, last=None)))

    def choose_ground(self) -> None:
        from PySide6.QtGui import QColor
        from PySide6.QtWidgets import QColorDialog

        before = QColor(self.desk.job.reel.ground)
        colour = QColorDialog.getColor(before, self, self.tr("Ground colour"))
        if colour.isValid():
            ground = partial(set_ground, colour=colour.name())
            self.desk.do(Edit(self.tr("ground colour"), ground))

    # ---- deliveries ------------------------------------------------------------------------

    def stop_all(self) -> None:
        for delivery in self.desk.job.deliveries:
            self.sending.stop(delivery.id)

    def _delivery_ended(self, delivery: str, outcome: Outcome) -> None:
        name = self.desk.job.delivery(delivery).path.name
        words = " ".join(outcome.reasons)
        self.say(f"{name}: {outcome.state.value}. {words}".strip())
        if not self.sending.is_busy:
            QApplication.beep()
            QApplication.alert(self)

    def show_delivery(self, delivery: str) -> None:
        folder = self.desk.job.delivery(delivery).folder
        QDesktopServices.openUrl(QUrl.fromLocalFile(folder))

    def show_last(self) -> None:
        sealed = [
            one
            for one in self.desk.job.deliveries
            if one.outcome is not None and one.outcome.state is DeliveryState.SEALED
        ]
        if sealed:
            self.show_delivery(sealed[-1].id)
        else:
            self.say(self.tr("Nothing is sealed yet."))

    # ---- looks -----------------------------------------------------------------------------

    def use_look(self, look: Look) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            apply_look(app, set_look(look))
        self._settings.setValue("look", look.value)
        self.transport.draw_icons()
        self.update()

    def fold(self, lane: QWidget) -> None:
        lane.setVisible(not lane.isVisible())

    def toggle_full(self) -> None:
        if self.isFullScreen():
            self.showNormal()
        else:
            self.showFullScreen()

    def show_actions(self) -> None:
        ActionList(self, self.actions_).open()

    def show_about(self) -> None:
        QMessageBox.about(
            self,
            self.tr("About Wax Seal"),
            self.tr(
                "Wax Seal {0}\n\nRendered frame sequences in, checked and sealed delivery "
                "videos out.\n\nFree software under the GNU General Public License, "
                "version 3 or later."
            ).format(__version__),
        )

    # ---- dropping and leaving --------------------------------------------------------------

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        urls = event.mimeData().urls()
        paths = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
        event.acceptProposedAction()
        self.take(paths)

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        self._settings.setValue("layout/lanes", self._lanes.saveState())
        self._settings.setValue("layout/middle", self._middle.saveState())
        self._settings.setValue("layout/window", self.saveGeometry())
        self.end(is_orderly=True)
        event.accept()

    def end(self, *, is_orderly: bool = False) -> None:
        """Stop everything that still runs. What is not saved comes back unless it is orderly."""
        self.player.stop()
        self.sending.close()
        self.bench.close()
        self.pictures.close()
        self.desk.close(is_orderly=is_orderly)

    @property
    def palette_in_force(self) -> Look:
        return current().look


def make_the_demo(report: Report, token: CancelToken) -> Path:
    from waxseal.demo.making import make_demo

    folder = demo_folder()
    folder.mkdir(parents=True, exist_ok=True)
    return make_demo(folder, report=report, token=token)
