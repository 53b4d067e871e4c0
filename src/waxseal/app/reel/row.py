"""A row of the ledger: one shot, its trim bar, and its docket when it is open."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QFocusEvent, QKeyEvent, QMouseEvent, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout
from typing_extensions import override

from waxseal.app.look.card import Card
from waxseal.app.look.small import (
    Elided,
    Strip,
    label,
    restyled,
)
from waxseal.app.pictures import Pictures, ScreenKey
from waxseal.app.reel.docket import LaidDocket
from waxseal.app.reel.trimbar import TrimBar
from waxseal.core.job.model import Job, Order, Sequence, Shot, Timing
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.recipe import Recipe
from waxseal.core.timing.timecode import length_words

__all__ = ["COLUMNS", "ShotRow"]

COLUMNS = {"number": 18, "picture": 52, "name": 92, "used": 78, "length": 62, "marks": 76}
DRAGGED = 6  # pixels before a press becomes a drag


class ShotRow(Card):
    """moved: shot, global y of a drag. dropped: shot. stepped: shot, -1 or 1, to change places."""

    edit_asked = Signal(object)
    settled = Signal()
    looked_at = Signal(str, int)
    toggled = Signal(str)
    moved = Signal(str, int)
    dropped = Signal(str)
    stepped = Signal(str, int)
    remove_asked = Signal(str)
    menu_asked = Signal(str, object)
    complained = Signal(str)

    def __init__(self, programme: Programme, number: int, pictures: Pictures) -> None:
        super().__init__()
        self.setObjectName("row")
        self.opened.connect(self._toggle)
        self.shot = programme.job.reel.shots[number].id
        self._pictures = pictures
        self._thumb: ScreenKey | None = None
        self._pressed: QPoint | None = None
        self._is_dragging = False
        self._is_open = False
        self._shown: tuple[object, ...] = ()
        self._recipe: Recipe | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(2)
        line = QHBoxLayout()
        line.setSpacing(8)
        column.addLayout(line)
        self._number = label("", "quiet")
        self._number.setFixedWidth(COLUMNS["number"])
        self._strip = Strip(1, height=26)
        self._strip.setFixedWidth(COLUMNS["picture"])
        self._name = Elided("", "name")
        self._name.setFixedWidth(COLUMNS["name"])
        self.bar = TrimBar(programme.job, self.shot)
        self.bar.setObjectName(f"trim {self.shot}")
        self.bar.edit_asked.connect(self.edit_asked)
        self.bar.settled.connect(self.settled)
        self.bar.looked_at.connect(self._look)
        self.used = label("")
        self.length = label("")
        self._marks = Elided("", "heed")
        for widget, name in ((self.used, "used"), (self.length, "length"), (self._marks, "marks")):
            widget.setFixedWidth(COLUMNS[name])
            widget.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        for left in (self._number, self._strip, self._name):
            line.addWidget(left)
        line.addWidget(self.bar, 1)
        for right in (self.used, self.length, self._marks):
            line.addWidget(right)
        self._column = column
        self._docket: LaidDocket | None = None
        pictures.made.connect(self._made)
        self.show_programme(programme, number, is_open=False)

    def show_programme(self, programme: Programme, number: int, *, is_open: bool) -> None:
        """Draw the shot again, if anything about it is another."""
        job = programme.job
        shot = job.reel.shots[number]
        source = programme.sources[shot.source]
        span = programme.span(number)
        recipe = programme.recipe(span.first)
        shown = (shot, source, span, number, is_open, programme.size, programme.rate, recipe)
        if shown == self._shown and self._docket is None:
            return
        self._shown = shown
        self._number.setText(str(number + 1))
        self._name.say(source.name)
        self.setAccessibleName(self.tr("Shot {0}, {1}").format(number + 1, source.name))
        self.bar.show_job(job)
        used = shot.range.count - holes_in(source, shot)
        self.used.setText(self.tr("{0} of {1}").format(used, source.range.count))
        self.length.setText(length_words(span.count, programme.rate))
        self._marks.say(self._marks_of(job, shot, programme))
        self._recipe, self._thumb = recipe, None
        self.update()
        self._is_open = is_open
        restyled(self, chosen=is_open or self.hasFocus())
        self._show_docket(shot, source.name, programme, is_open=is_open)

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        if self._thumb is None and self._recipe is not None:  # only rows in sight are decoded
            height, recipe = 26, self._recipe
            width = max(1, min(COLUMNS["picture"], height * recipe.width // recipe.height))
            self._thumb = self._pictures.ask(recipe, width, height)
            self._made(self._thumb)
        super().paintEvent(event)

    def _marks_of(self, job: Job, shot: Shot, programme: Programme) -> str:
        source = job.sequence(shot.source)
        holes = holes_in(source, shot)
        if holes:
            return self.tr("1 hole") if holes == 1 else self.tr("{0} holes").format(holes)
        if shot.finish.working:
            return ", ".join(one.label for one in shot.finish.working)
        if shot.timing != Timing():
            return self.tr("retimed")
        if source.reading.order.value is Order.REVERSED:
            return self.tr("reversed")
        if source.reading.rate.value * 2 == programme.rate:
            return self.tr("twos")
        if source.reading.rate.value != programme.rate:
            return self.tr("other rate")
        return str(shot.framing.value) if source.shown_size != programme.size else ""

    def _show_docket(self, shot: Shot, name: str, programme: Programme, *, is_open: bool) -> None:
        if not is_open:
            if self._docket is not None:
                self._docket.hide()
                self._docket.deleteLater()
                self._docket = None
            return
        if self._docket is None:
            self._docket = LaidDocket(shot, name)
            self._docket.setContentsMargins(26, 2, 0, 6)
            self._docket.edit_asked.connect(self.edit_asked)
            self._docket.settled.connect(self.settled)
            self._docket.complained.connect(self.complained)
            self._column.addWidget(self._docket)
        self._docket.show_laid(shot, programme)

    def _toggle(self) -> None:
        self.toggled.emit(self.shot)

    def _look(self, frame: int) -> None:
        self.looked_at.emit(self.shot, frame)

    def _made(self, key: ScreenKey) -> None:
        if key == self._thumb:
            self._strip.show_image(0, self._pictures.get(key))

    # ---- order, by drag and by key ---------------------------------------------------------

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = event.globalPosition().toPoint()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        place = event.globalPosition().toPoint()
        if self._is_dragging or abs(place.y() - self._pressed.y()) > DRAGGED:
            self._is_dragging = True
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.moved.emit(self.shot, place.y())

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._is_dragging:
            self._is_dragging = False
            self.unsetCursor()
            self.dropped.emit(self.shot)
        elif self._pressed is not None:
            super().mouseReleaseEvent(event)
        self._pressed = None

    @override
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_asked.emit(self.shot, event.globalPos())

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, alt = event.key(), event.modifiers() & Qt.KeyboardModifier.AltModifier
        if alt and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.stepped.emit(self.shot, -1 if key == Qt.Key.Key_Up else 1)
        elif key == Qt.Key.Key_Delete:
            self.remove_asked.emit(self.shot)
        else:
            super().keyPressEvent(event)

    @override
    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        restyled(self, chosen=self._is_open)  # an open row stays marked


def holes_in(source: Sequence, shot: Shot) -> int:
    """How many frames of a shot are not there or not whole."""
    return sum(1 for frame in source.to_come_again if frame in shot.range)
