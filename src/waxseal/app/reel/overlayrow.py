"""A row of the ledger for an overlay: where it lies over the reel, and its docket."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget
from typing_extensions import override

from waxseal.app.look.card import Card
from waxseal.app.look.palette import current
from waxseal.app.look.small import Elided, Strip, label, restyled
from waxseal.app.pictures import Pictures, ScreenKey
from waxseal.app.reel.docket import LaidDocket
from waxseal.app.reel.row import COLUMNS
from waxseal.core.job.edits import Edit, change_overlay
from waxseal.core.job.model import Job, Overlay
from waxseal.core.plan.programme import Programme, source_recipe
from waxseal.core.timing.timecode import length_words

__all__ = ["OverlayRow"]

THUMB_TALL = 26


class OverlayRow(Card):
    """looked_at: a reel frame. stepped: -1 is lower, 1 higher among the overlays."""

    edit_asked = Signal(object)
    settled = Signal()
    looked_at = Signal(int)
    toggled = Signal(str)
    stepped = Signal(str, int)
    remove_asked = Signal(str)
    menu_asked = Signal(str, object)
    complained = Signal(str)

    def __init__(self, overlay: str, pictures: Pictures) -> None:
        super().__init__()
        self.setObjectName("row")
        self.overlay = overlay
        self._pictures = pictures
        self._thumb: ScreenKey | None = None
        self._docket: LaidDocket | None = None
        self._is_open = False
        self._shown: tuple[object, ...] = ()
        self.opened.connect(self._toggle)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 2, 0, 2)
        self._column.setSpacing(2)
        line = QHBoxLayout()
        line.setSpacing(8)
        self._column.addLayout(line)
        sign = label("▱", "quiet")
        sign.setFixedWidth(COLUMNS["number"])
        self._strip = Strip(1, height=THUMB_TALL)
        self._strip.setFixedWidth(COLUMNS["picture"])
        self._name = Elided("", "name")
        self._name.setFixedWidth(COLUMNS["name"])
        self.bar = OverBar()
        self.bar.moved.connect(self._move)
        self.bar.settled.connect(self.settled)
        self._used = label("")
        self._length = label("")
        self._marks = label("", "heed")
        for widget, name in (
            (self._used, "used"),
            (self._length, "length"),
            (self._marks, "marks"),
        ):
            widget.setFixedWidth(COLUMNS[name])
            widget.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        for left in (sign, self._strip, self._name):
            line.addWidget(left)
        line.addWidget(self.bar, 1)
        for right in (self._used, self._length, self._marks):
            line.addWidget(right)
        pictures.made.connect(self._made)

    def show_programme(self, programme: Programme, *, is_open: bool) -> None:
        overlay = programme.job.overlay(self.overlay)
        source = programme.sources[overlay.source]
        shown = (overlay, source, programme.length, programme.rate, programme.size, is_open)
        if shown == self._shown and self._docket is None:
            return
        self._shown = shown
        self._name.say(source.name)
        span = programme.overlay_span(overlay)
        words = self.tr("Overlay {0} from frame {1}")
        self.setAccessibleName(words.format(source.name, span.first))
        self.bar.show_overlay(span.first, span.last, programme.length)
        self._used.setText(f"{span.first}-{span.last}")
        self._length.setText(length_words(span.count, programme.rate))
        self._marks.setText(marks_of(overlay))
        recipe = source_recipe(source, overlay.first)
        width = max(1, min(COLUMNS["picture"], THUMB_TALL * recipe.width // recipe.height))
        self._thumb = self._pictures.ask(recipe, width, THUMB_TALL)
        self._made(self._thumb)
        self._show_docket(programme, overlay, source.name, is_open=is_open)

    def _show_docket(
        self, programme: Programme, overlay: Overlay, name: str, *, is_open: bool
    ) -> None:
        self._is_open = is_open
        restyled(self, chosen=is_open or self.hasFocus())
        if not is_open:
            if self._docket is not None:
                self._docket.hide()
                self._docket.deleteLater()
                self._docket = None
            return
        if self._docket is None:
            self._docket = LaidDocket(overlay, name)
            self._docket.setContentsMargins(26, 2, 0, 6)
            self._docket.edit_asked.connect(self.edit_asked)
            self._docket.settled.connect(self.settled)
            self._docket.complained.connect(self.complained)
            self._column.addWidget(self._docket)
        self._docket.show_laid(overlay, programme)

    def _toggle(self) -> None:
        self.toggled.emit(self.overlay)

    def _move(self, at: int) -> None:
        words = self.tr("move {0}").format(self._name.whole)

        def apply(job: Job) -> Job:
            return change_overlay(job, overlay=self.overlay, at=max(1, at))

        self.edit_asked.emit(Edit(words, apply, merges=f"at {self.overlay}"))
        self.looked_at.emit(max(1, at))

    def _made(self, key: ScreenKey) -> None:
        if key == self._thumb:
            self._strip.show_image(0, self._pictures.get(key))

    @override
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_asked.emit(self.overlay, event.globalPos())

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, alt = event.key(), event.modifiers() & Qt.KeyboardModifier.AltModifier
        if alt and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.stepped.emit(self.overlay, 1 if key == Qt.Key.Key_Up else -1)
        elif key == Qt.Key.Key_Delete:
            self.remove_asked.emit(self.overlay)
        else:
            super().keyPressEvent(event)

    @override
    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        restyled(self, chosen=self._is_open)


def marks_of(overlay: Overlay) -> str:
    count = len(overlay.finish.working)
    if count:
        return f"{overlay.blend}, {count}"
    return str(overlay.blend.value)


class OverBar(QWidget):
    """The reel's whole length with the overlay on it; dragged, it moves."""

    moved = Signal(int)
    settled = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._first, self._last, self._whole = 1, 1, 1
        self._grip: int | None = None
        self.setFixedHeight(26)
        self.setMinimumWidth(110)
        self.setCursor(Qt.CursorShape.SizeHorCursor)

    def show_overlay(self, first: int, last: int, whole: int) -> None:
        self._first, self._last, self._whole = first, last, max(1, whole)
        self.update()

    def frame_at(self, x: float) -> int:
        return 1 + int(x * self._whole // max(1, self.width()))

    def place_of(self, frame: int) -> float:
        return (frame - 1) * self.width() / self._whole

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._grip = self.frame_at(event.position().x()) - self._first

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None:
            self.moved.emit(self.frame_at(event.position().x()) - self._grip)

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._grip = None
        self.settled.emit()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        palette = current()
        with QPainter(self) as painter:
            middle = self.height() / 2
            painter.setPen(palette.colour("line"))
            painter.drawLine(QPointF(0, middle), QPointF(self.width(), middle))
            left = self.place_of(self._first)
            right = min(float(self.width()), self.place_of(self._last + 1))
            bar = QRectF(left, middle - 4, max(3.0, right - left), 8)
            painter.fillRect(bar, palette.colour("heed"))
