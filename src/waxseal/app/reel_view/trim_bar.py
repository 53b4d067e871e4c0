"""The trim bar: a source from its first to its last number, the used part solid."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QColor,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from typing_extensions import override

from waxseal.app.look.accessibility import Acts, DrawnWidget, say_value
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.frame_marks import draw_frame_state
from waxseal.app.look.key_widgets import keeps
from waxseal.app.look.palette import current
from waxseal.app.look.text_scale import px
from waxseal.app.tray.source_words import tr
from waxseal.core.job.edits import Edit, trim_head, trim_tail
from waxseal.core.job.model import Job

__all__ = ["Share", "TrimBar", "trim_edit"]

ENDS = frozenset({Qt.Key.Key_Left, Qt.Key.Key_Right})
BAR_TOP, BAR_TALL, EDGE, REACH = 8, 10, 3, 8


def trim_edit(shot: str, name: str, which: str, frame: int, *, merges: bool = False) -> Edit:
    """The edit that puts a shot's head or tail on a frame; a drag's edits merge into one."""
    if which == "head":
        change, words = partial(trim_head, shot=shot, first=frame), tr("trim {0} head")
    else:
        change, words = partial(trim_tail, shot=shot, last=frame), tr("trim {0} tail")
    return Edit(words.format(name), change, merges=f"{which} {shot}" if merges else "")


@dataclass(frozen=True, slots=True)
class Share:
    """How much of the used part a join takes, 0..1. colour: of a dip; empty of a dissolve."""

    part: float = 0.0
    colour: str = ""


class TrimBar(DrawnWidget):
    """Its ends are dragged, or moved with the arrow keys: head alone, tail with Shift.

    looked_at: the source's frame at the cut.
    """

    looked_at = Signal(int)
    spoken_role = QAccessible.Role.Slider

    def __init__(self, job: Job, shot: str, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self._job, self._shot = job, shot
        self._dragged = ""
        self._joins = (Share(), Share())
        self.setFixedHeight(px(36))
        self.setMinimumWidth(110)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.show_job(job)

    @override
    def event(self, event: QEvent) -> bool:
        return keeps(event, ENDS) or super().event(event)

    @override
    def sizeHint(self) -> QSize:
        return QSize(214, 36)

    def show_job(self, job: Job) -> None:
        self._job = job
        shot = job.laid(self._shot)
        name = job.sequence(shot.source).name
        words = self.tr("Trim {0}: head {1}, tail {2}").format(name, shot.first, shot.last)
        self.setAccessibleName(words)
        say_value(self)
        self.update()

    def show_joins(self, head: Share, tail: Share) -> None:
        if (head, tail) != self._joins:
            self._joins = (head, tail)
            self.update()

    @override
    def spoken_value(self) -> str:
        shot = self._job.laid(self._shot)
        there = self._job.sequence(shot.source).range
        return self.tr("{0} to {1} of {2}").format(shot.first, shot.last, there)

    @override
    def spoken_acts(self) -> Acts:
        return {
            self.tr("head earlier"): partial(self._step, "head", -1),
            self.tr("head later"): partial(self._step, "head", 1),
            self.tr("tail earlier"): partial(self._step, "tail", -1),
            self.tr("tail later"): partial(self._step, "tail", 1),
        }

    def place_of(self, frame: float) -> float:
        """The x where a frame of the source begins."""
        there = self._job.sequence(self._job.laid(self._shot).source).range
        return EDGE + (frame - there.first) * (self.width() - 2 * EDGE) / there.count

    def frame_at(self, x: float) -> int:
        there = self._job.sequence(self._job.laid(self._shot).source).range
        frame = there.first + int((x - EDGE) * there.count // max(1, self.width() - 2 * EDGE))
        return max(there.first, min(frame, there.last))

    def handle(self, which: str) -> QPointF:
        """The middle of the head's or the tail's handle."""
        shot = self._job.laid(self._shot)
        x = self.place_of(shot.first) if which == "head" else self.place_of(shot.last + 1)
        return QPointF(x, BAR_TOP + BAR_TALL / 2)

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        away = {
            which: abs(event.position().x() - self.handle(which).x()) for which in ("head", "tail")
        }
        nearest = min(away, key=lambda which: away[which])
        self._dragged = nearest if away[nearest] <= REACH else ""

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        x = event.position().x()
        if not self._dragged:
            near = any(abs(x - self.handle(which).x()) <= REACH for which in ("head", "tail"))
            self.setCursor(Qt.CursorShape.SizeHorCursor if near else Qt.CursorShape.ArrowCursor)
            return
        # The tail's handle comes after its frame: the frame under it is the one after.
        frame = self.frame_at(x) if self._dragged == "head" else self.frame_at(x - 1)
        self._trim(self._dragged, frame)

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._dragged:
            self._dragged = ""
            self._pen.settled.emit()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        step = steps.get(Qt.Key(event.key()))
        if step is None or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            super().keyPressEvent(event)
            return
        is_tail = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        self._step("tail" if is_tail else "head", step)

    def _step(self, which: str, step: int) -> None:
        shot = self._job.laid(self._shot)
        self._trim(which, (shot.first if which == "head" else shot.last) + step)
        self._pen.settled.emit()

    def _trim(self, which: str, frame: int) -> None:
        name = self._job.sequence(self._job.laid(self._shot).source).name
        self._pen.asked.emit(trim_edit(self._shot, name, which, frame, merges=True))
        self.looked_at.emit(frame)

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        palette = current()
        shot = self._job.laid(self._shot)
        source = self._job.sequence(shot.source)
        there = source.range
        with QPainter(self) as painter:
            whole = QRectF(EDGE, BAR_TOP, self.width() - 2 * EDGE, BAR_TALL)
            painter.fillRect(whole, palette.colour("sunken"))
            left, right = self.place_of(shot.first), self.place_of(shot.last + 1)
            painter.fillRect(QRectF(left, BAR_TOP, right - left, BAR_TALL), palette.colour("good"))
            self._draw_joins(painter, left, right)
            step = whole.width() / there.count
            for state, frames in source.unusable.items():
                for first, last in frames.runs:
                    wide = max(2.0, step * (last - first + 1))
                    hole = QRectF(self.place_of(first), BAR_TOP - 1, wide, BAR_TALL + 2)
                    draw_frame_state(painter, hole, state, "raised")
            pen = QPen(palette.colour("focus" if self.hasFocus() else "text"), 2)
            painter.setPen(pen)
            for x, inwards in ((left, 4), (right, -4)):
                top, bottom = BAR_TOP - 4, BAR_TOP + BAR_TALL + 4
                painter.drawLine(QPointF(x, top), QPointF(x, bottom))
                painter.drawLine(QPointF(x, top), QPointF(x + inwards, top))
                painter.drawLine(QPointF(x, bottom), QPointF(x + inwards, bottom))
            small = QFont(painter.font())
            small.setPixelSize(px(10))
            painter.setFont(small)
            painter.setPen(palette.colour("quiet"))
            line = QRectF(0, self.height() - 13, self.width(), 13)
            painter.drawText(line, Qt.AlignmentFlag.AlignLeft, str(there.first))
            painter.drawText(line, Qt.AlignmentFlag.AlignRight, str(there.last))

    def _draw_joins(self, painter: QPainter, left: float, right: float) -> None:
        """A slant at each end that is joined: the bar comes and goes as the picture does."""
        palette = current()
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for share, end, way in zip(self._joins, (left, right), (1, -1), strict=True):
            if share.part:
                inside = end + way * share.part * (right - left)
                corners = [(end, BAR_TOP), (inside, BAR_TOP), (end, BAR_TOP + BAR_TALL)]
                painter.setBrush(QColor(share.colour) if share.colour else palette.colour("sunken"))
                painter.drawPolygon(QPolygonF([QPointF(*one) for one in corners]))
        painter.restore()
