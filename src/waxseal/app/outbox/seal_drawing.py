"""The seal, its state drawn as wax. The shape carries the meaning; colour only helps."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from typing_extensions import override

from waxseal.app.look.accessibility import DrawnWidget
from waxseal.app.look.palette import current
from waxseal.app.look.text_scale import px
from waxseal.core.job.model import DeliveryState

__all__ = ["SealDrawing"]

SIZE = 44  # units that it is drawn in
SHOWN = 34  # pixels
LUMPS = (1.00, 0.93, 1.02, 0.94, 0.98, 0.92, 1.03, 0.95, 1.00, 0.91, 1.01, 0.94, 0.99, 0.93)

CRACK = tuple(QPointF(x, y) for x, y in ((3, -20), (-3, -8), (4, 2), (-4, 11), (1, 20)))
INITIAL = tuple(QPointF(x, y) for x, y in ((-6.5, -4), (-3.2, 5), (0, -3), (3.2, 5), (6.5, -4)))


class SealDrawing(DrawnWidget):
    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(px(SHOWN), px(SHOWN))
        self._state, self._share = DeliveryState.DRAFT, 0.0
        self._is_past = False

    def show_state(
        self, state: DeliveryState, share: float = 0.0, *, is_past: bool = False
    ) -> None:
        """share: how far an encode is, 0..1. is_past: something has changed since it was sealed."""
        self._state, self._share, self._is_past = state, share, is_past
        words = self.tr("Seal: {0}, not of what is there now") if is_past else self.tr("Seal: {0}")
        self.setAccessibleName(words.format(state.value))
        self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(px(SHOWN), px(SHOWN))

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        wax, paper = current().colour("wax"), current().colour("raised")
        middle, radius = QPointF(SIZE / 2, SIZE / 2), SIZE / 2 - 3
        blob = wax_shape(middle, radius)
        line = QPen(wax, 1.6)
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.scale(px(SHOWN) / SIZE, px(SHOWN) / SIZE)
            painter.setPen(line)
            state = self._state
            if state is DeliveryState.DRAFT:  # no wax yet
                painter.setPen(QPen(current().colour("edge"), 1.6))
                painter.drawEllipse(middle, radius - 3, radius - 3)
            elif state is DeliveryState.WAITING:
                painter.fillPath(drop_shape(middle), wax)
            elif state is DeliveryState.ENCODING:
                painter.save()
                painter.setClipPath(blob)
                tall = 2 * radius * self._share
                painter.fillRect(QRectF(0, middle.y() + radius - tall, SIZE, tall), wax)
                painter.restore()
                painter.drawPath(blob)
            elif state is DeliveryState.CHECKING:
                painter.fillPath(blob, wax)
                painter.setPen(QPen(paper, 1.6))
                painter.drawRoundedRect(QRectF(middle.x() - 9, middle.y() - 9, 18, 18), 3, 3)
                painter.drawLine(middle - QPointF(0, 15), middle - QPointF(0, 9))
            elif state is DeliveryState.STOPPED:
                box = QRectF(0, 0, 2 * radius - 6, 2 * radius - 6)
                box.moveCenter(middle)
                painter.drawArc(box, 90 * 16, 180 * 16)
            elif state is DeliveryState.REFUSED:
                painter.drawPath(blob)
                painter.drawEllipse(middle, radius * 0.62, radius * 0.62)
                painter.setPen(QPen(paper, 6))
                painter.drawLine(middle + QPointF(-19, 9), middle + QPointF(19, -9))
                painter.setPen(QPen(wax, 3))
                painter.drawLine(middle + QPointF(-19, 9), middle + QPointF(19, -9))
            elif self._is_past:
                painter.drawPath(blob)
                draw_initial(painter, middle, radius)
            else:
                painter.fillPath(blob, wax)
                painter.setPen(QPen(paper, 1.4))
                draw_initial(painter, middle, radius)
                if state is DeliveryState.SEAL_BROKEN:
                    painter.setPen(QPen(paper, 3.2))
                    painter.drawPolyline([middle + point for point in CRACK])


def wax_shape(middle: QPointF, radius: float) -> QPainterPath:
    """A round of wax with lumps at its edge, the same each time."""
    count = len(LUMPS)
    points = [
        middle
        + QPointF(math.cos(2 * math.pi * n / count), math.sin(2 * math.pi * n / count))
        * (radius * LUMPS[n])
        for n in range(count)
    ]
    path = QPainterPath((points[-1] + points[0]) / 2)
    for n in range(count):
        path.quadTo(points[n], (points[n] + points[(n + 1) % count]) / 2)
    path.closeSubpath()
    return path


def drop_shape(middle: QPointF) -> QPainterPath:
    path = QPainterPath(middle + QPointF(0, -13))
    path.cubicTo(middle + QPointF(3, -5), middle + QPointF(9, 0), middle + QPointF(9, 6))
    path.arcTo(QRectF(middle.x() - 9, middle.y() - 3, 18, 18), 0, -180)
    path.cubicTo(middle + QPointF(-9, 0), middle + QPointF(-3, -5), middle + QPointF(0, -13))
    return path


def draw_initial(painter: QPainter, middle: QPointF, radius: float) -> None:
    """The ring and the W in the wax."""
    inner = radius * 0.62
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(middle, inner, inner)
    painter.drawPolyline([middle + point for point in INITIAL])
