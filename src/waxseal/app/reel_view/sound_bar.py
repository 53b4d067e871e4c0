"""Where a sound is heard on the reel: its pieces as waveforms, moved and trimmed by hand."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from waxseal.app.look.palette import current
from waxseal.app.look.text_scale import px
from waxseal.app.look.waveform import Drawable, Peaks, drawable_pieces
from waxseal.core.job.model import LaidSound, Sound
from waxseal.core.plan.timeline import Timeline

__all__ = ["SoundBar"]

HANDLE = 8  # pixels at either end of a sound with which it is trimmed


class SoundBar(QWidget):
    """moved: the reel frame at which it shall begin. trimmed: an end, and the seconds of the
    sound that are left out there. settled: a drag is over.
    """

    moved = Signal(int)
    trimmed = Signal(str, object)
    settled = Signal()

    def __init__(self, laid: str, peaks: Peaks) -> None:
        super().__init__()
        self._id, self._peaks = laid, peaks
        self._timeline: Timeline | None = None
        self._pieces: tuple[Drawable, ...] = ()
        self._grip: tuple[str, float, Fraction] | None = None
        self.setFixedHeight(px(26))
        self.setMinimumWidth(110)
        self.setMouseTracking(True)
        peaks.made.connect(self._made)

    def show_timeline(self, timeline: Timeline) -> None:
        self._timeline = timeline
        self._pieces = drawable_pieces(timeline, timeline.job.laid_sound(self._id))
        self.update()

    def _made(self, _path: str) -> None:
        self.update()

    @property
    def _laid(self) -> tuple[LaidSound, Sound] | None:
        if self._timeline is None:
            return None
        laid = self._timeline.job.laid_sound(self._id)
        return laid, self._timeline.job.sound(laid.source)

    def _x(self, seconds: float) -> float:
        whole = float(self._timeline.length / self._timeline.rate) if self._timeline else 1.0
        return seconds / whole * self.width()

    def _seconds(self, pixels: float) -> Fraction:
        if self._timeline is None:
            return Fraction(0)
        whole = self._timeline.length / self._timeline.rate
        return Fraction(round(pixels), max(1, self.width())) * whole

    def _end_at(self, x: float) -> str:
        """Which end is under the pointer; empty in between, and where nothing can be dragged."""
        if not self._pieces or self._timeline is None:
            return ""
        left, right = self._x(self._pieces[0].at), self._x(self._pieces[-1].end)
        if abs(x - left) <= HANDLE and x < (left + right) / 2:
            return "head"
        return "tail" if abs(x - right) <= HANDLE else ""

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        there = self._laid
        if there is None or event.button() is not Qt.MouseButton.LeftButton:
            return
        laid, _ = there
        end = self._end_at(event.position().x())
        if not end and laid.bound:
            event.ignore()  # its frames say where it is
            return
        start = {"head": laid.head, "tail": laid.tail, "": laid.at}[end]
        self._grip = (end, event.position().x(), start)

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is None:
            is_end = bool(self._end_at(event.position().x()))
            shape = Qt.CursorShape.SplitHCursor if is_end else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)
            return
        end, x, start = self._grip
        by = self._seconds(event.position().x() - x)
        if end:
            self.trimmed.emit(end, max(Fraction(0), start + (by if end == "head" else -by)))
        elif self._timeline is not None:
            self.moved.emit(round(start + by * self._timeline.rate))

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._grip is None:
            event.ignore()
            return
        self._grip = None
        self.settled.emit()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        there = self._laid
        if there is None:
            return
        laid, sound = there
        palette = current()
        with QPainter(self) as painter:
            room = QRectF(self.rect()).adjusted(0, 2, 0, -2)
            painter.setPen(palette.colour("line"))
            middle = room.center().y()
            painter.drawLine(QPointF(0, middle), QPointF(self.width(), middle))
            peaks = self._peaks.get(sound.path)
            for piece in self._pieces:
                place = QRectF(self._x(piece.at), room.y(), self._x(piece.count), room.height())
                painter.fillRect(place.adjusted(0, 4, 0, -4), palette.colour("sunken"))
                piece.draw(painter, place, peaks)
            if self._pieces and laid.gain:
                self._draw_gain(painter, room, laid.gain)

    def _draw_gain(self, painter: QPainter, room: QRectF, gain: float) -> None:
        """A line across the sound: in the middle for 0 dB, 24 dB from there to an edge."""
        y = room.center().y() - max(-1.0, min(1.0, gain / 24)) * room.height() / 2
        left, right = self._x(self._pieces[0].at), self._x(self._pieces[-1].end)
        painter.setPen(current().colour("text"))
        painter.drawLine(QPointF(left, y), QPointF(right, y))
