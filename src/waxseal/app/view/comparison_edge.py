"""The movable edge between what the reel gives and what the file shows."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPen

from waxseal.app.look.palette import current

__all__ = ["Edge"]

NEAR = 9.0  # pixels around it that take hold of it
STEP = 0.02  # of the picture's width, for a key


class Edge:
    """share: of the picture's width that is the reel's, on the left."""

    def __init__(self) -> None:
        self.share = 0.5
        self.is_held = False

    def place(self, room: QRectF) -> float:
        return room.x() + self.share * room.width()

    def is_near(self, at: QPointF, room: QRectF) -> bool:
        return abs(at.x() - self.place(room)) <= NEAR

    def move_to(self, at: QPointF, room: QRectF) -> None:
        self._set((at.x() - room.x()) / room.width())

    def step(self, by: int) -> None:
        self._set(self.share + by * STEP)

    def _set(self, share: float) -> None:
        self.share = min(1.0, max(0.0, share))

    def draw(
        self, painter: QPainter, room: QRectF, image: QImage, words: tuple[str, str], seen: QRectF
    ) -> None:
        """image: the reel's picture above the file's. words: what each of them is called."""
        tall = image.height() / 2
        left, wide = self.share * room.width(), self.share * image.width()
        sides = (
            (QRectF(room.x(), room.y(), left, room.height()), QRectF(0, 0, wide, tall)),
            (
                QRectF(room.x() + left, room.y(), room.width() - left, room.height()),
                QRectF(wide, tall, image.width() - wide, tall),
            ),
        )
        for side, source in sides:
            if side.width() > 0:
                painter.drawImage(side, image, source)
        at = self.place(room)
        for colour, width in ((Qt.GlobalColor.black, 3), (Qt.GlobalColor.white, 1)):
            painter.setPen(QPen(colour, width))
            painter.drawLine(QPointF(at, room.top()), QPointF(at, room.bottom()))
        self._draw_words(painter, at, room.intersected(seen), words)

    def _draw_words(
        self, painter: QPainter, at: float, shown: QRectF, words: tuple[str, str]
    ) -> None:
        metrics = painter.fontMetrics()
        painter.setPen(current().colour("on_surround"))
        for text, is_left in zip(words, (True, False), strict=True):
            box = QRectF(0, 0, metrics.horizontalAdvance(text) + 12, metrics.height() + 4)
            box.moveTop(shown.top() + 8 + 1.5 * metrics.height())  # under the words of the picture
            box.moveLeft(at - 8 - box.width() if is_left else at + 8)
            if shown.contains(box):
                painter.fillRect(box, current().colour("surround", 0.92))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
