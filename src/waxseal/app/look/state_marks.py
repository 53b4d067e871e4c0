"""The marks beside rows and sentences: their shape says what they mean, their hue second."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from typing_extensions import override

from waxseal.app.look.accessibility import DrawnWidget
from waxseal.app.look.palette import current
from waxseal.app.look.text_scale import px

__all__ = ["MARK", "StateMark", "draw_mark"]

MARK = 16  # pixels, at the usual size of text


def draw_mark(painter: QPainter, room: QRectF, tone: str) -> None:
    """bad: a sheet with its corner cut off. heed: a lozenge with an eye. Nothing for others."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    side = min(room.width(), room.height()) * 0.8
    box = QRectF(0, 0, side, side)
    box.moveCenter(room.center())
    if tone == "bad":
        colour, cut = current().colour("wrong"), side * 0.62
        left, top, right, bottom = box.left(), box.top(), box.right(), box.bottom()
        sheet = [(left, top), (right, top), (right, top + side - cut), (left + cut, bottom)]
        painter.setPen(QPen(colour, 1))
        painter.setBrush(colour)
        painter.drawPolygon(QPolygonF([QPointF(*one) for one in [*sheet, (left, bottom)]]))
        corner = [(right, bottom), (right, bottom - cut * 0.4), (right - cut * 0.4, bottom)]
        painter.drawPolygon(QPolygonF([QPointF(*one) for one in corner]))
    elif tone == "heed":
        painter.setPen(QPen(current().colour("heed"), 1.6))
        middle, far = box.center(), side / 2
        lozenge = [(0, -far), (far, 0), (0, far), (-far, 0)]
        painter.drawPolygon(QPolygonF([middle + QPointF(*one) for one in lozenge]))
        painter.setBrush(current().colour("heed"))
        painter.drawEllipse(middle, side / 9, side / 9)
    painter.restore()


class StateMark(DrawnWidget):
    """words: what it means, for those who do not see it."""

    def __init__(self, tone: str = "", words: str = "") -> None:
        super().__init__()
        self._tone = tone
        self.setFixedSize(QSize(px(MARK), px(MARK)))
        self.setAccessibleName(words)

    def show_tone(self, tone: str, words: str) -> None:
        self._tone = tone
        self.setAccessibleName(words)
        self.setVisible(bool(tone))
        self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            draw_mark(painter, QRectF(self.rect()), self._tone)
