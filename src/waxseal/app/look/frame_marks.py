"""Frames that cannot be used, drawn on a line of frames: the shape says why, the hue second."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPen, QPolygonF

from waxseal.app.look.palette import current
from waxseal.core.job.frame_states import FrameState

__all__ = ["draw_frame_state"]

LEAST_SHAPE = 3.0  # pixels


def draw_frame_state(painter: QPainter, frames: QRectF, state: FrameState, ground: str) -> None:
    """Mark the room of frames that follow each other. ground: the colour behind the line.

    Missing: a notch with a foot. Damaged: a slanted tooth in it. Lost: a hatched frame. Not
    read: a notch with a foot of another hue. Still arriving: half as tall. Where there is no room
    for a shape, the hue fills it all, so that one frame among thousands is seen.
    """
    palette = current()
    hue = "heed" if state is FrameState.NOT_READ else "wrong"
    if frames.width() < LEAST_SHAPE and state is not FrameState.ARRIVING:
        painter.fillRect(frames, palette.colour(hue))
        return
    painter.fillRect(frames, palette.colour(ground))
    if state is FrameState.ARRIVING:
        half = frames.height() / 2
        painter.fillRect(frames.adjusted(0, half, 0, 0), palette.colour("good"))
    elif state is FrameState.LOST:
        painter.fillRect(frames, QBrush(palette.colour("wrong"), Qt.BrushStyle.BDiagPattern))
        painter.setPen(QPen(palette.colour("wrong"), 1))
        painter.drawRect(frames.adjusted(0, 0, -1, -1))
    elif state is FrameState.DAMAGED:
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.colour("wrong"))
        corners = [frames.topRight(), frames.bottomRight(), frames.bottomLeft()]
        painter.drawPolygon(QPolygonF(corners))
        painter.restore()
    else:
        painter.fillRect(frames.adjusted(0, frames.height() - 2, 0, 0), palette.colour(hue))
