"""A card of the outbox: a delivery, its seal, how far it is, its docket."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QMimeData, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget
from typing_extensions import override

from waxseal.app.look.card_frame import CardWithMenu
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.idle_steps import IdleSteps
from waxseal.app.look.text_scale import px
from waxseal.app.look.widgets import (
    Elided,
    button,
    empty,
    keeping_focus,
    label,
    rename,
    restyle,
    row_of,
)
from waxseal.app.outbox import outbox_texts
from waxseal.app.outbox.delivery_docket import DeliveryDocket
from waxseal.app.outbox.progress_line import ProgressLine
from waxseal.app.outbox.seal_drawing import SealDrawing
from waxseal.core.deliver.codecs import CODECS
from waxseal.core.deliver.format.delivery_settings import bytes_of, reel_key_of, stretch_of
from waxseal.core.deliver.format.output_path import container_of, path_of
from waxseal.core.deliver.queue.delivery_queue import ChangesSince, Status, changed_since
from waxseal.core.errors import JobError
from waxseal.core.filenames import MOVIE_SUFFIXES
from waxseal.core.job.model import (
    Delivery,
    DeliveryState,
    Sequence,
)
from waxseal.core.plan.filestates import state_of
from waxseal.core.plan.programme import Programme
from waxseal.core.text_format import bytes_words, counted, left_words, lines_text, plain
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import length_words

__all__ = ["CROWD", "DeliveryCard"]

CHANGED = {
    ChangesSince.REEL: outbox_texts.THE_REEL_HAS_CHANGED_SINCE,
    ChangesSince.SETTINGS: outbox_texts.ITS_SETTINGS_HAVE_CHANGED_SINCE,
    ChangesSince.FRAMES: outbox_texts.FRAMES_HAVE_CHANGED_SINCE,
}
INDENT = 44  # pixels of a seal and the room beside it
CROWD = 100  # shots: to say what happens to each takes longer than a frame of the screen


class DeliveryCard(CardWithMenu):
    toggled = Signal(str)
    send_asked = Signal(str)
    overwrite_asked = Signal(str)
    stop_asked = Signal(str)
    hold_asked = Signal(str, bool)
    await_asked = Signal(str)
    stepped = Signal(str, int)  # its id, and how many places up (less than 0) or down
    show_asked = Signal(str)
    remove_asked = Signal(str)
    proof_asked = Signal(str)
    poster_asked = Signal(str)
    predict_asked = Signal(str)
    compare_asked = Signal(str, str)  # its id, and a movie that was dropped on it
    look_asked = Signal(str)
    hear_asked = Signal(str)
    source_asked = Signal(str)  # the source whose frames hold the delivery up

    def __init__(self, delivery: Delivery, pen: Pen) -> None:
        super().__init__(delivery.id)
        self._pen = pen
        self.delivery = delivery.id
        self.setAcceptDrops(True)
        self.opened.connect(self._toggle)
        self._shown = delivery
        self._programme: Programme | None = None
        self._docket: DeliveryDocket | None = None
        self._is_running = self._shows_notes = False
        self._docket_of: tuple[object, ...] = ()
        self._told: Programme | None = None  # what the docket was last told of
        self._telling = IdleSteps(self, self._tell_docket)
        self._shows_settings: bool | None = None  # until somebody says
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 2, 8, 2)
        column.setSpacing(2)
        self.seal = SealDrawing()
        self._name = Elided("", "name", middle=True)
        self._what = Elided("", "quiet")
        self._state = Elided("", "quiet")
        self._more = button("", self._toggle_notes, "word")
        self._why = label("", "bad", wraps=True)
        self._notes = label("", "", wraps=True)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(self._name)
        self._bar = ProgressLine()
        line = row_of(self._state, self._more)
        line.setStretch(0, 1)
        words.addLayout(line)
        head = row_of()
        head.addWidget(self.seal, 0, Qt.AlignmentFlag.AlignTop)
        head.addLayout(words, 1)
        column.addLayout(head)
        column.addWidget(self._bar)
        for widget in (self._what, self._why, self._notes):
            widget.setContentsMargins(px(INDENT), 0, 0, 0)
            column.addWidget(widget)
        self._actions = QWidget()
        self._action_row = QVBoxLayout(self._actions)
        self._action_row.setContentsMargins(px(INDENT), 0, 0, 4)
        column.addWidget(self._actions)
        self._frame = QWidget()
        self._frame.setObjectName("docket")
        self._frame.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._inside = QVBoxLayout(self._frame)
        self._inside.setContentsMargins(0, 8, 0, 0)
        self._inside.setSpacing(6)
        column.addWidget(self._frame)

    def _toggle(self) -> None:
        self.toggled.emit(self.delivery)

    def _toggle_notes(self) -> None:
        self._shows_notes = not self._shows_notes
        self._notes.setVisible(self._shows_notes)

    def show_delivery(
        self,
        delivery: Delivery,
        status: Status,
        programme: Programme | None,
        *,
        film_key: str,
        is_open: bool,
        common: frozenset[str] = frozenset(),
    ) -> None:
        """film_key: of what the reel is made of now; empty where nobody has looked yet.

        common: reasons that are said once for several deliveries.
        """
        self._name.say(plain(path_of(delivery).name))
        self.setAccessibleName(f"{path_of(delivery).name}, {status.state.value}")
        self.spoken = status.state.value
        self._what.say(self._what_words(delivery, programme))
        progress = status.progress
        share = progress.done / progress.total if progress and progress.total else 0.0
        outcome, since = status.outcome, ChangesSince.NOTHING
        if programme is not None and outcome is not None:
            since = changed_since(
                delivery, outcome, reel_key=reel_key_of(programme, delivery), film_key=film_key
            )
        is_past = status.state is DeliveryState.SEALED and since is not ChangesSince.NOTHING
        self.seal.show_state(status.state, share, is_past=is_past)
        words, tone = self._words(delivery, status, programme, since)
        short, _, why = words.partition("\n")
        self._state.say(short)
        self._state.setObjectName(tone)
        restyle(self._state)
        own = [one for one in why.split("\n") if one not in common]
        self._why.setText("\n".join(own))
        self._why.setVisible(any(own))
        if self._why.objectName() != tone:
            self._why.setObjectName(tone)
            restyle(self._why)
        notes = status.outcome.notes if status.outcome else ()
        self._notes.setText(lines_text(notes))
        self._notes.setVisible(bool(notes) and self._shows_notes)
        rename(self._more, counted(len(notes), self.tr("note")))
        self._more.setVisible(bool(notes))
        self._what.setVisible(is_open)
        self._show_actions(delivery, status, programme, is_open=is_open)
        self.say_open(is_open=is_open)
        self._frame.setVisible(is_open)
        self._shown, self._programme = delivery, programme
        self._is_running = status.is_running
        self._bar.show_share(share if progress is not None else None)
        if is_open:
            self._show_docket(is_running=status.is_running, programme=programme)

    def _what_words(self, delivery: Delivery, programme: Programme | None) -> str:
        """Its spec, or codec and container; its size, length and rate."""
        if delivery.codec not in CODECS:
            return self.tr("{0}, not known here").format(delivery.codec)
        try:
            kind = delivery.spec or f"{delivery.codec} · {container_of(delivery).name}"
            if programme is None:
                return kind
            stretch = stretch_of(programme.timeline, delivery)
        except JobError:
            return delivery.codec
        size = f" · {delivery.size}" if delivery.size is not None else ""
        length = length_words(stretch.shown.count, stretch.rate)
        return f"{kind}{size} · {length} {self.tr('at')} {rate_words(stretch.rate)}"

    def _words(
        self, delivery: Delivery, status: Status, programme: Programme | None, since: ChangesSince
    ) -> tuple[str, str]:
        outcome, progress = status.outcome, status.progress
        if status.state is DeliveryState.DRAFT:
            if programme is None:
                return self.tr(outbox_texts.NOTHING_ON_THE_REEL_YET), "quiet"
            if delivery.codec not in CODECS:
                return self.tr("draft"), "quiet"
            try:
                about = bytes_of(programme.timeline, delivery)
            except JobError as error:
                return f"{self.tr('draft')}\n{error}", "bad"
            return self.tr(outbox_texts.DRAFT_UP_TO_ABOUT).format(bytes_words(about)), "quiet"
        if status.state is DeliveryState.WAITING:
            if status.is_awaiting:
                return self.tr(outbox_texts.WAITS_UNTIL_EVERY_FRAME_IS_THERE), "quiet"
            return self.tr("waits"), "quiet"
        if progress is not None:
            state = self.tr("paused") if status.is_held else self._stage_words(progress.stage)
            words = self.tr("{0} {1} of {2}").format(state, progress.done, progress.total)
            if status.is_held:
                return words, "quiet"
            if progress.per_second:
                words += f" · {progress.per_second:.1f} f/s"
            return words + left_words(progress.seconds_left, " · "), "quiet"
        if outcome is None:
            return self.tr("encoding"), "quiet"
        if outcome.state is DeliveryState.SEALED:
            sealed = self.tr("sealed and signed") if outcome.signed_by else self.tr("sealed")
            words = f"{sealed} · {bytes_words(outcome.size_bytes)}"
            if since is ChangesSince.NOTHING:
                return words, "good"
            return f"{words}\n{self.tr(CHANGED[since])}", "heed"
        if outcome.state is DeliveryState.STOPPED:
            return self.tr(outbox_texts.STOPPED_NOTHING_WAS_LEFT_BEHIND), "quiet"
        return f"{outcome.state.value}\n" + lines_text(outcome.reasons), "bad"

    def _stage_words(self, stage: str) -> str:
        """What an encoding process is at; what it waits for it says itself."""
        known = {"checking": self.tr("checking"), "encoding": self.tr("encoding")}
        return known.get(stage, stage)

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dropped_movie(event.mimeData()):
            event.acceptProposedAction()

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        event.acceptProposedAction()
        self.compare_asked.emit(self.delivery, dropped_movie(event.mimeData()))

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, alt = event.key(), event.modifiers() & Qt.KeyboardModifier.AltModifier
        if alt and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.stepped.emit(self.delivery, -1 if key == Qt.Key.Key_Up else 1)
        elif key == Qt.Key.Key_Delete and self.hasFocus() and not self._is_running:
            self.remove_asked.emit(self.delivery)
        else:
            super().keyPressEvent(event)

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Dragged up or down over others, a card takes their place; else it opens."""
        at = event.position().toPoint()
        if self.rect().contains(at) or event.button() is not Qt.MouseButton.LeftButton:
            super().mouseReleaseEvent(event)
            return
        away = at.y() if at.y() < 0 else at.y() - self.height()
        step = -1 if away < 0 else 1
        self.stepped.emit(self.delivery, step * (1 + abs(away) // max(1, self.height())))

    def _show_actions(
        self,
        delivery: Delivery,
        status: Status,
        programme: Programme | None,
        *,
        is_open: bool,
    ) -> None:
        wanted: list[tuple[str, Callable[[], None]]] = []
        if status.is_running:
            if status.progress is not None or status.is_held:
                words = self.tr("Go on") if status.is_held else self.tr("Pause")
                hold = partial(self.hold_asked.emit, self.delivery, not status.is_held)
                wanted.append((words, hold))
            wanted.append((self.tr("Stop"), partial(self.stop_asked.emit, self.delivery)))
        elif status.state is DeliveryState.SEALED and is_open:
            show = partial(self.show_asked.emit, self.delivery)
            words = self.tr(outbox_texts.COMPARE_WITH_ITS_FILE)
            wanted.append((words, partial(self.look_asked.emit, self.delivery)))
            wanted.append((self.tr("Show in folder"), show))
        elif status.state is DeliveryState.REFUSED:
            missing = lacking(programme)
            if missing is not None:
                go = partial(self.source_asked.emit, missing.id)
                wanted.append((self.tr("Show {0}").format(missing.name), go))
            elif state_of(path_of(delivery)).is_there:
                over = partial(self.overwrite_asked.emit, self.delivery)
                wanted.append((self.tr("Overwrite"), over))
        if not status.is_running and programme is not None and is_coming(programme):
            wait = partial(self.await_asked.emit, self.delivery)
            wanted.append((self.tr("When complete"), wait))
        texts = [text for text, _ in wanted]
        if texts == self._actions.property("texts"):
            return
        self._actions.setProperty("texts", texts)
        empty(self._action_row)
        self._action_row.addLayout(row_of(*(button(text, act) for text, act in wanted), 1))
        self._actions.setVisible(bool(wanted))

    def _show_docket(self, *, is_running: bool, programme: Programme | None) -> None:
        delivery = self._shown
        shows = self._shows_settings
        if shows is None:  # who chose no spec wants the fields
            shows = not delivery.spec
        state = (delivery, is_running, shows)
        if self._docket is None or state != self._docket_of:
            with keeping_focus(self._frame):
                empty(self._inside)
                docket = DeliveryDocket(
                    delivery, self._pen, is_running=is_running, shows_settings=shows
                )
                docket.send_asked.connect(partial(self.send_asked.emit, self.delivery))
                docket.remove_asked.connect(partial(self.remove_asked.emit, self.delivery))
                docket.proof_asked.connect(partial(self.proof_asked.emit, self.delivery))
                docket.look_asked.connect(partial(self.look_asked.emit, self.delivery))
                docket.hear_asked.connect(partial(self.hear_asked.emit, self.delivery))
                docket.poster_asked.connect(partial(self.poster_asked.emit, self.delivery))
                docket.predict_asked.connect(partial(self.predict_asked.emit, self.delivery))
                docket.settings_asked.connect(self._show_settings)
                self._docket = docket
                self._inside.addWidget(docket)
            self._docket_of, self._told = state, programme
            if programme is not None and len(programme.timeline.shots) > CROWD:
                self._telling.start()  # its table is long work: after the fields, not with them
            else:
                self._tell_docket()
        # Where only how far it is has changed, the match table costs too much.
        elif programme is not self._told:
            self._told = programme
            self._telling.start()

    def _tell_docket(self) -> bool:
        if self._docket is not None:
            self._docket.show_programme(self._told)
        return False

    def forget_docket(self) -> None:
        """The docket is out of date: it is made anew when the card is shown again."""
        self._docket = None

    def _show_settings(self, shows: bool) -> None:
        self._shows_settings = shows
        if self._docket is not None:
            self._show_docket(is_running=bool(self._docket_of[1]), programme=self._programme)


def dropped_movie(data: QMimeData) -> str:
    """The one movie that is dropped; empty for anything else, which is a source."""
    files = [one.toLocalFile() for one in data.urls() if one.isLocalFile()]
    is_movie = len(files) == 1 and Path(files[0]).suffix.lower() in MOVIE_SUFFIXES
    return files[0] if is_movie else ""


def lacking(programme: Programme | None) -> Sequence | None:
    """A source with frames missing that nothing stands in for."""
    missing = programme.missing() if programme is not None else ()
    return next((one.sequence for one in missing if not one.is_stood_in), None)


def is_coming(programme: Programme) -> bool:
    """Whether frames that somebody expects are not there yet."""
    return any(
        one.is_arriving or (one.expected is not None and one.missing)
        for one in programme.timeline.used_sequences
    )
