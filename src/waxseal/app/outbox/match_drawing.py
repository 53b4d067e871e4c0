"""Draws what the match table shows: bars of frames, pictures in frames, a file and its limit."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPen, QPolygonF

from waxseal.app.look.frame_marks import draw_frame_state
from waxseal.app.look.palette import current
from waxseal.core.deliver.match.match_drawings import Blocks, FrameBlock, Level, Tick
from waxseal.core.deliver.match.placed_sizes import Placed

__all__ = ["draw_arrow", "draw_blocks", "draw_level", "draw_placed", "draw_same"]

GAP = 4.0  # pixels between the shots of a bar
REPEAT_STEP = 6.0  # of the pattern of frames that come again
LEAST_BLOCK, LEAST_NOTCH = 1.5, 4.0


def draw_blocks(painter: QPainter, room: QRectF, blocks: Blocks) -> None:
    """The frames of one side: a bar a shot, with what repeats, is missing and stands in."""
    for place, block in enumerate(blocks):
        left = room.x() + block.first * room.width()
        right = room.x() + block.last * room.width()
        is_last = place == len(blocks) - 1
        gap = 0.0 if is_last or blocks[place + 1].slant else GAP
        bar = QRectF(left, room.y(), max(LEAST_BLOCK, right - left - gap), room.height())
        draw_block(painter, bar, block)
        for tick in block.ticks:
            first, last = (room.x() + at * room.width() for at in (tick.first, tick.last))
            draw_tick(painter, first, last - first, bar, tick)


def draw_block(painter: QPainter, bar: QRectF, block: FrameBlock) -> None:
    palette = current()
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    top_left = bar.topLeft() + QPointF(block.slant * bar.width(), 0)
    shape = QPolygonF([top_left, bar.topRight(), bar.bottomRight(), bar.bottomLeft()])
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.colour("good"))
    painter.drawPolygon(shape)
    if block.repeats:
        x = bar.left() + REPEAT_STEP / 2
        while x < bar.right():
            again = QRectF(x, bar.top(), min(REPEAT_STEP / 2, bar.right() - x), bar.height())
            painter.fillRect(again, palette.colour("repeated"))
            x += REPEAT_STEP
    if block.slant:
        painter.setPen(QPen(palette.colour("raised"), 1.5))
        painter.drawLine(bar.bottomLeft(), top_left)
    painter.restore()


def draw_tick(painter: QPainter, left: float, wide: float, bar: QRectF, tick: Tick) -> None:
    """A stand-in is a tick taller than the bar; what cannot be used is a notch in it."""
    palette, x = current(), left + wide / 2
    if tick.state is None:
        painter.fillRect(
            QRectF(x - 2.5, bar.y() - 1, 5, bar.height() + 2), palette.colour("raised")
        )
        painter.fillRect(QRectF(x - 1, bar.y() - 2, 2, bar.height() + 4), palette.colour("heed"))
        return
    wide = max(wide, LEAST_NOTCH)
    notch = QRectF(x - wide / 2, bar.y() + bar.height() * 0.3, wide, bar.height() * 0.7)
    draw_frame_state(painter, notch, tick.state, "raised")


def draw_placed(painter: QPainter, room: QRectF, one: Placed, scale: float) -> float:
    """A picture in its frame, at a scale of pixels; what is cropped is hatched. Returns its width.

    room: where it may be, from its left edge.
    """
    palette = current()
    wide, tall = one.frame[0] * scale, one.frame[1] * scale
    box = QRectF(
        one.box.x * scale, one.box.y * scale, one.box.width * scale, one.box.height * scale
    )
    beyond = max(0.0, -box.left())
    frame = QRectF(room.x() + beyond, room.center().y() - tall / 2, wide, tall)
    picture = box.translated(frame.topLeft())
    painter.save()
    painter.setClipRect(room.adjusted(-1, -1, 1, 1))
    if one.cropped:
        hatch = QBrush(palette.colour("wrong"), Qt.BrushStyle.BDiagPattern)
        painter.fillRect(picture, hatch)
    painter.fillRect(frame, palette.colour("sunken"))
    inside = picture.intersected(frame)
    painter.fillRect(inside, palette.colour("line"))
    painter.setPen(QPen(palette.colour("text"), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(frame)
    painter.restore()
    return max(frame.right(), picture.right()) - room.x()


def draw_level(painter: QPainter, room: QRectF, level: Level) -> None:
    """How much of its limit a file takes; with no limit, a bar alone."""
    palette = current()
    if not level.most:
        return
    painter.fillRect(room, palette.colour("sunken"))
    share = min(1.0, level.about / level.most)
    tone = "good" if level.about <= level.most else "heed"
    painter.fillRect(
        QRectF(room.x(), room.y(), room.width() * share, room.height()), palette.colour(tone)
    )
    painter.fillRect(
        QRectF(room.right() - 2, room.y() - 3, 2, room.height() + 6), palette.colour("text")
    )


def draw_arrow(painter: QPainter, room: QRectF, words: str, tone: str) -> None:
    """What is done between two sides: an arrow, and a word over it."""
    palette = current()
    colour = palette.colour("wrong" if tone == "bad" else "text")
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    y = room.center().y() + (5 if words else 0)
    left, right = room.x() + 6, room.right() - 6
    painter.setPen(QPen(colour, 1))
    painter.drawLine(QPointF(left, y), QPointF(right, y))
    painter.drawPolyline(
        QPolygonF([QPointF(right - 4, y - 3), QPointF(right, y), QPointF(right - 4, y + 3)])
    )
    if words:
        over = QRectF(room.x(), y - 3 - room.height(), room.width(), room.height())
        painter.drawText(over, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom, words)
    painter.restore()


def draw_same(painter: QPainter, room: QRectF) -> None:
    """Two short lines: nothing is done."""
    painter.setPen(QPen(current().colour("quiet"), 1))
    middle = room.center()
    for y in (-2, 2):
        painter.drawLine(middle + QPointF(-5, y), middle + QPointF(5, y))
