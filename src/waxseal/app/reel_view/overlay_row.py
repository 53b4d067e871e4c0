"""A row of the ledger for an overlay: its place over the reel, and its docket."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.palette import current
from waxseal.app.look.text_scale import px
from waxseal.app.pictures import Pictures
from waxseal.app.reel_view.laid_row import LaidRow
from waxseal.core.job.edits import Edit, change_overlay
from waxseal.core.job.model import Job
from waxseal.core.plan.frame_picks import source_recipe
from waxseal.core.plan.timeline import Timeline

__all__ = ["OverlayRow"]


class OverlayRow(LaidRow):
    """looked_at: a reel frame."""

    looked_at = Signal(int)

    def __init__(self, overlay: str, pictures: Pictures, pen: Pen) -> None:
        bar = OverBar()
        super().__init__(overlay, "▱", bar, pictures, pen)
        self.bar = bar
        self._shown: tuple[object, ...] = ()
        self.bar.moved.connect(self._move)
        self.bar.settled.connect(pen.settled)

    def show_timeline(self, timeline: Timeline, *, is_open: bool) -> None:
        overlay = timeline.job.overlay(self.laid)
        source = timeline.sources[overlay.source]
        shown = (overlay, source, timeline.length, timeline.rate, timeline.size, is_open)
        if shown == self._shown and self._docket is None:
            return
        self._shown = shown
        self._name.say(source.name)
        part = timeline.overlay_part(self.laid)
        span = part.span
        words = self.tr("Overlay {0} from frame {1}")
        self.setAccessibleName(words.format(source.name, span.first))
        self.bar.show_overlay(span.first, span.last, timeline.length)
        self.cells.show_part(part, timeline)
        self.show_picture(partial(source_recipe, source, overlay.first))
        self.show_docket(overlay, timeline, is_open=is_open)

    def _move(self, at: int) -> None:
        words = self.tr("move {0}").format(self._name.whole)

        def apply(job: Job) -> Job:
            return change_overlay(job, overlay=self.laid, at=max(1, at))

        self._pen.asked.emit(Edit(words, apply, merges=f"at {self.laid}"))
        self.looked_at.emit(max(1, at))


class OverBar(QWidget):
    """The reel's whole length with the overlay on it; dragged, it moves."""

    moved = Signal(int)
    settled = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._first, self._last, self._whole = 1, 1, 1
        self._grip: int | None = None
        self.setFixedHeight(px(26))
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
