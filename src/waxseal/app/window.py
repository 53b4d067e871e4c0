"""The window: three lanes, a header, a foot. It connects; what happens, happens elsewhere."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import cast

from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QColor, QDragEnterEvent, QDropEvent, QKeyEvent
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QMainWindow,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from waxseal import __version__
from waxseal.app import window_texts
from waxseal.app.actions import Actions
from waxseal.app.background_edits import BackgroundEdits
from waxseal.app.cardmenus import CardMenus
from waxseal.app.deep_scan import DeepScan
from waxseal.app.document import Document
from waxseal.app.folder_watch import FolderWatch
from waxseal.app.generate_media import MediaGenerator
from waxseal.app.header_footer import Footer, Header
from waxseal.app.intake import Intake
from waxseal.app.jobfiles import JobFiles
from waxseal.app.jobwatch import JobWatch
from waxseal.app.lanes import Lanes
from waxseal.app.line_up import LineUp
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.lazy_docket import LazySection
from waxseal.app.look.palette import Look, set_look
from waxseal.app.look.style_sheet import apply_look, dress
from waxseal.app.look.taborder import focus_next
from waxseal.app.look.waveform import Peaks
from waxseal.app.menu_acts import acts_of, switches_of
from waxseal.app.menus import make_menus
from waxseal.app.modal_wait import is_waiting, wait_for
from waxseal.app.navigation import Navigation
from waxseal.app.outbox.delivery_runner import DeliveryRunner
from waxseal.app.outbox.outbox_lane import Outbox
from waxseal.app.outbox.previews import Previews, open_file
from waxseal.app.pass_compare import PassCompare
from waxseal.app.pictures import Pictures
from waxseal.app.proxies import ProxyMaker
from waxseal.app.reel_view.ledger import Ledger
from waxseal.app.reel_view.loudness_line import LoudnessLine
from waxseal.app.reel_view.rule import Rule
from waxseal.app.relinking import Relinking
from waxseal.app.rerenderlists import RerenderLists
from waxseal.app.task_pool import Workbench
from waxseal.app.tray.tray_lane import Tray
from waxseal.app.view.file_view_bar import BesideBar
from waxseal.app.view.player import Player
from waxseal.app.view.transport import Transport
from waxseal.app.view.viewer import Viewer
from waxseal.app.window_settings import Settings
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.folders import autosave_folder, measures_folder
from waxseal.core.job.edits import Edit, set_ground, take_every_version
from waxseal.core.job.model import DeliveryState, Job, Outcome
from waxseal.core.picture.target import Aspect
from waxseal.core.plan.programme import Programme

__all__ = ["Window"]

WARM_MS = 1500  # after the window is shown


class Window(QMainWindow):
    def __init__(self, settings: QSettings, autosaves: Path | None = None) -> None:
        super().__init__()
        self._settings = Settings(settings)
        self.autosaves = autosaves or autosave_folder()
        self.setObjectName("window")
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.bench = Workbench(self)
        self.pictures = Pictures(self)
        self.document = Document(self, self.autosaves, self.bench)
        self.elsewhere = BackgroundEdits(self.document)
        self.arriving = Intake(self.document, self.bench, self.elsewhere)
        self.closely = DeepScan(self.document, measures_folder(), self.elsewhere)
        self.watching = FolderWatch(self.document, self.bench)
        self.lists = RerenderLists(self, self.document)
        self.relinking = Relinking(self, self.document, self.bench)
        self.comparing = PassCompare(self.document, self.bench)
        self.lining_up = LineUp(self.document, self.bench, measures_folder())
        self.sending = DeliveryRunner(self.document)
        self.player = Player(self, self.pictures)
        self.player.sounding.listen(self._settings.listening)
        self.going = Navigation(self.document, self.player)
        self.generating = MediaGenerator(self.document, self.player, self.bench, self)
        self.copying = ProxyMaker(self, self.pictures, self.closely)
        self.peaks = Peaks(self.bench)
        self.pen = Pen(self)
        self.tray = Tray(self.pictures, self.pen)
        self.viewer = Viewer(self.player, self.pictures)
        self.transport = Transport(self.player)
        self.rule = Rule(self.pictures, self.peaks)
        self.loudness = LoudnessLine(self.bench)
        self.ledger = Ledger(self.pictures, self.peaks, self.pen)
        self.outbox = Outbox(self.sending, self.pen, self.bench)
        self.proving = Previews(self.document, self.player, self)
        self.header = Header()
        self.footer = Footer(self.bench)
        self.menus = CardMenus(self, self.document, self.player, self.ledger, self.relinking)
        self.files = JobFiles(
            self,
            self.document,
            arriving=self.arriving,
            sending=self.sending,
            settings=self._settings,
        )
        self.jobwatch = JobWatch(self.document)
        self.actions_ = Actions(self)
        self._lay_out()
        self.recent_menu = make_menus(self, self.actions_, acts_of(self), switches_of(self))
        self.recent_menu.aboutToShow.connect(self._fill_recent)
        self._connect()
        dress()
        self.restoreGeometry(self._settings.layout("window"))
        self._show_job(self.document.job)
        self.viewer.setFocus()
        QTimer.singleShot(WARM_MS, self.pictures.warm)

    # ---- layout ----------------------------------------------------------------------------

    def _lay_out(self) -> None:
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.header)
        picture = (self.viewer, BesideBar(self.player), self.transport, self.rule)
        self._lanes = Lanes(self.tray, picture, self.ledger, self.outbox, self._settings)
        self.middle = self._lanes.middle
        column.addWidget(self._lanes, 1)
        column.addWidget(self.footer)
        self.setCentralWidget(whole)

    def _connect(self) -> None:
        document = self.document
        document.job_changed.connect(self._show_job)
        document.refused.connect(self.say)
        document.job_begun.connect(partial(self.say, ""))
        for acts in (document, self.actions_):
            acts.acting.connect(partial(self.say, ""))
        self.jobwatch.said.connect(self.say)
        for part in (self.tray, self.ledger, self.outbox):
            document.job_begun.connect(part.close_all)
            part.opened.connect(partial(self._give_room, part))
        self.loudness.changed.connect(self.rule.show_loudness)
        self.loudness.said.connect(self.say)
        self.pen.asked.connect(document.do)
        self.pen.asked_of_many.connect(self.elsewhere.act)
        self.pen.settled.connect(document.settle)
        self.pen.complained.connect(self.say)
        self.tray.compare_asked.connect(self.comparing.compare)
        self.tray.see_asked.connect(partial(self.see, Aspect.DIFFERENCE))
        self.comparing.compared.connect(self.tray.say_compared)
        self.ledger.looked_at.connect(self.going.to_cut)
        self.ledger.menu_asked.connect(self.menus.shot)
        self.ledger.overlay_menu_asked.connect(self.menus.overlay)
        self.ledger.frame_asked.connect(self.going.to_frame)
        self.ledger.listen_asked.connect(self.player.listen_to)
        self.ledger.line_up_asked.connect(self.lining_up.line_up)
        self.lining_up.said.connect(self.say)
        self.tray.add_asked.connect(self.add_folder)
        self.tray.demo_asked.connect(self.files.open_demo)
        self.files.said.connect(self.say)
        self.files.leftovers_changed.connect(self.footer.offer)
        self.footer.wanted.connect(self.files.bring_back)
        self.footer.unwanted.connect(self.files.let_go)
        self.tray.menu_asked.connect(self.menus.source)
        self.tray.chosen.connect(self.going.to_source)
        self.tray.frame_asked.connect(self.going.to_source_frame)
        self.tray.poster_asked.connect(self.outbox.ask_for_poster)
        self.arriving.said.connect(self.say)
        self.arriving.looking.connect(self.tray.note)
        self.arriving.looked.connect(self.closely.want)
        self.arriving.looked.connect(self.tray.look_anew)
        self.arriving.brought.connect(self._offer)
        self.arriving.renewed.connect(self.peaks.forget)
        self.watching.changed.connect(self.arriving.look_again_at)
        self.watching.changed.connect(self.sending.look_at_files)
        self.watching.said.connect(self.say)
        self.arriving.dropped.connect(self.watching.watch)
        self.watching.came.connect(partial(self.arriving.take_beside, is_watched=True))
        self.watching.arriving.connect(self.tray.note_coming)
        self.lists.said.connect(self.say)
        self.relinking.said.connect(self.say)
        self.relinking.linked.connect(self.arriving.look_again_at)
        self.closely.said.connect(self.say)
        self.generating.said.connect(self.say)
        self.going.said.connect(self.say)
        self.generating.made.connect(self.take)
        self.generating.card_made.connect(self.arriving.take_beside)
        self.generating.written.connect(self.ledger.write_on)
        self.closely.looking.connect(self.tray.note)
        self.copying.copying.connect(self.tray.note)
        self.copying.said.connect(self.say)
        self.player.programme_changed.connect(self.copying.show_programme)
        self.outbox.show_asked.connect(self.show_delivery)
        self.proving.serve(self.outbox)
        self.pictures.compiling.connect(partial(self.say, self.tr(window_texts.COMPILING)))
        self.pictures.learned.connect(self.outbox.files_changed)
        self.proving.said.connect(self.say)
        self.proving.made.connect(open_file)
        for asks in (self.outbox, self.header):
            asks.source_asked.connect(self.tray.show_docket)
        self.sending.ended.connect(self._delivery_ended)
        self.sending.status_changed.connect(self._show_summary)
        self.sending.status_changed.connect(self._let_others_work)
        self.player.moved.connect(self.rule.show_frame)
        self.player.playing_changed.connect(self._let_others_work)
        self.player.sounding.complained.connect(self.say)
        self.player.sounding.changed.connect(self._heard_otherwise)
        self.player.programme_changed.connect(self._show_programme)
        self.rule.frame_asked.connect(self.going.to_frame)
        self.viewer.size_wanted.connect(self.player.show_size)
        self.viewer.cut_dragged.connect(self.going.drag_subject)
        self.viewer.cut_let_go.connect(document.settle)

    def _give_room(self, part: QWidget, is_open: bool) -> None:
        """One docket is open at a time, and its lane has the room."""
        if is_open:
            for other in (self.tray, self.ledger, self.outbox):
                if other is not part:
                    other.close_docket()
        self._lanes.give_room(part if is_open else None)
        if part is self.outbox:
            self.proving.show_open(self.outbox.open_delivery)

    def _heard_otherwise(self) -> None:
        sounding = self.player.sounding
        self._settings.keep_listening(sounding.listening)
        self.ledger.show_listening(sounding.muted, sounding.solo)

    def _offer(self, fresh: frozenset[str]) -> None:
        self.ledger.offer.offer(self.document.job, fresh)

    # ---- showing ---------------------------------------------------------------------------

    def _show_job(self, job: Job) -> None:
        self.tray.show_job(job)
        self.player.show_job(job, self.document.planned)
        self._show_edit_names()
        self.header.show_job(self.document)
        self._show_title()
        self._show_summary()

    def _let_others_work(self) -> None:
        held = self.player.is_playing or self.sending.is_busy
        self.closely.hold(held)
        self.copying.hold(held)

    def _show_title(self) -> None:
        """With how far the delivery is that is being made."""
        share = self.sending.share()
        before = f"{round(100 * share)} % · " if share is not None else ""
        self.setWindowTitle(f"{before}{self.header.name} – Wax Seal")

    def _show_summary(self, _delivery: str = "") -> None:
        self._show_title()
        states = [self.sending.status(one).state for one in self.document.job.deliveries]
        self.header.show_summary(self.document.job, self.player.timeline, states)
        self.footer.show_space(self.document.job)

    def _show_programme(self, programme: Programme | None) -> None:
        self.sending.show_programme(programme)
        self.rule.show_programme(programme)
        self.loudness.show_timeline(programme.timeline if programme is not None else None)
        self.ledger.show_programme(programme, self.document.job)
        self.outbox.show_job(self.document.job, programme)

    def _show_edit_names(self) -> None:
        history = self.document.history
        undo, redo = self.actions_["undo"], self.actions_["redo"]
        undo.setEnabled(bool(history.past))
        redo.setEnabled(bool(history.future))
        undo.setText(self.tr("&Undo") + (f": {history.undo_name}" if history.undo_name else ""))
        redo.setText(self.tr("&Redo") + (f": {history.redo_name}" if history.redo_name else ""))

    def say(self, words: str) -> None:
        """One line at the foot of the window."""
        self.footer.say(words)

    @property
    def message(self) -> str:
        return self.footer.message

    def _fill_recent(self) -> None:
        self.recent_menu.clear()
        jobs = self.files.recent()
        for one in jobs:
            action = self.recent_menu.addAction(one.stem, partial(self.files.open_recent, one))
            action.setToolTip(str(one))
        if not jobs:
            self.recent_menu.addAction(self.tr("none yet")).setEnabled(False)

    # ---- sources ---------------------------------------------------------------------------

    def add_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, self.tr(window_texts.ADD_A_FOLDER_OF_FRAMES))
        if name:
            self.take([Path(name)])

    def add_files(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self, self.tr(window_texts.ADD_FRAMES_OR_SOUNDS))
        if names:
            self.take([Path(name) for name in names])

    def take(self, paths: list[Path]) -> None:
        """Whatever was dropped: a job is opened, everything else comes in, into that job."""
        if is_waiting():
            self.say(self.tr(window_texts.BRING_IT_AGAIN))
            return
        named = [path for path in paths if path.suffix == ".waxseal"]
        jobs = wait_for(partial(filter_files, named)) if named else []
        rest = [path for path in paths if path not in jobs]
        if jobs and not self.files.open_one_of(jobs):
            return
        if rest:
            self.arriving.take(rest)

    def look_again(self) -> None:
        self.arriving.look_again(self.document.job)

    def take_versions(self) -> None:
        """Let every newer version in the in-tray take the place of the one on the reel."""
        self.document.do(Edit(self.tr(window_texts.TAKE_ALL_VERSIONS), take_every_version))

    def toggle_watching(self) -> None:
        self.watching.switch(not self.watching.is_on)
        on, off = (
            self.tr(window_texts.THE_FOLDERS_ARE_WATCHED),
            self.tr(window_texts.THE_FOLDERS_ARE_NOT_WATCHED),
        )
        self.say(on if self.watching.is_on else off)

    def toggle_copies(self) -> None:
        on = not self.copying.is_on
        self.copying.switch(on=on)
        self.player.may_be_light = on
        made = self.tr(window_texts.LIGHT_COPIES_ARE_ON)
        self.say(made if on else self.tr(window_texts.LIGHT_COPIES_ARE_OFF))

    def look_deep(self) -> None:
        """Decode every frame of every source again, away from the window."""
        self.closely.want_all_afresh(self.document.job)

    # ---- the reel --------------------------------------------------------------------------

    def toggle_loop(self) -> None:
        self.player.loops = not self.player.loops
        self.transport.show_loop()

    def toggle_before(self) -> None:
        """Before and after: without any finish, and with it."""
        self.player.show_before(not self.player.shows_before)

    def see(self, aspect: Aspect) -> None:
        """Look at the alpha, at a difference; the second time at the picture again."""
        self.player.see(Aspect.PICTURE if self.player.aspect is aspect else aspect)

    def choose_ground(self) -> None:
        from PySide6.QtWidgets import QColorDialog

        before = QColor(self.document.job.reel.ground)
        colour = QColorDialog.getColor(before, self, self.tr("Ground colour"))
        if colour.isValid():
            ground = partial(set_ground, colour=colour.name())
            self.document.do(Edit(self.tr("ground colour"), ground))

    # ---- deliveries ------------------------------------------------------------------------

    def _delivery_ended(self, delivery: str, outcome: Outcome) -> None:
        name = path_of(self.document.job.delivery(delivery)).name
        words = " ".join(outcome.reasons)
        self.say(f"{name}: {outcome.state.value}. {words}".strip())
        if not self.sending.is_busy:
            is_good = outcome.state is DeliveryState.SEALED
            from waxseal.app.notifications import announce

            words = f"{name}: {outcome.state.value}"
            announce(self, self.player.sounding, words, is_good=is_good)

    def show_delivery(self, delivery: str) -> None:
        open_file(self.document.job.delivery(delivery).folder)

    def show_last(self) -> None:
        sealed = [
            one
            for one in self.document.job.deliveries
            if one.outcome is not None and one.outcome.state is DeliveryState.SEALED
        ]
        if sealed:
            self.show_delivery(sealed[-1].id)
        else:
            self.say(self.tr(window_texts.NOTHING_IS_SEALED_YET))

    # ---- looks -----------------------------------------------------------------------------

    def use_look(self, look: Look) -> None:
        for docket in self.findChildren(LazySection):
            docket.forget()
        apply_look(cast(QApplication, QApplication.instance()), set_look(look))
        self._settings.look = look
        self.transport.draw_icons()
        self.update()

    def fold(self, lane: QWidget) -> None:
        lane.setVisible(not lane.isVisible())

    def toggle_full(self) -> None:
        (self.showNormal if self.isFullScreen() else self.showFullScreen)()

    def show_actions(self) -> None:
        from waxseal.app.actionlist import ActionList

        ActionList(self, self.actions_).open()

    def show_about(self) -> None:
        from PySide6.QtWidgets import QMessageBox

        words = self.tr(window_texts.ABOUT).format(__version__)
        QMessageBox.about(self, self.tr("About Wax Seal"), words)

    @override
    def focusNextPrevChild(self, forwards: bool) -> bool:
        return focus_next(self, forwards=forwards)

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
        if len(paths) < len(urls):
            self.say(self.tr(window_texts.ONLY_FILES_OF_THIS_MACHINE))

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape that nothing else has a use for closes what is open."""
        if event.key() == Qt.Key.Key_Escape:
            for part in (self.tray, self.ledger, self.outbox):
                part.close_docket()
        else:
            super().keyPressEvent(event)

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        self._lanes.keep()
        self._settings.keep_layout("window", self.saveGeometry())
        self.hide()  # at once; what still runs is stopped behind it
        QApplication.processEvents()
        self.end(is_orderly=True)
        event.accept()

    def end(self, *, is_orderly: bool = False) -> None:
        """Stop everything that still runs. What is not saved comes back unless it is orderly."""
        self.player.stop()
        self.player.sounding.close()
        self.watching.close()
        self.jobwatch.close()
        self.sending.close()
        self.proving.close()
        self.files.close()
        self.closely.close()
        self.copying.close()
        self.elsewhere.close()
        self.bench.close()
        self.viewer.looking.close()
        self.pictures.close()
        self.document.close(is_orderly=is_orderly)


def filter_files(paths: list[Path]) -> list[Path]:
    return [path for path in paths if path.is_file()]
