"""What is drawn over the picture on request: safe areas, scopes, a pixel's path."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFont, QImage, QPainter, QPen

from waxseal.app.look.palette import current
from waxseal.app.look.text_scale import px

if TYPE_CHECKING:
    from waxseal.core.picture.inspection.colour_path import PathStep
    from waxseal.core.picture.inspection.scopes import Scopes

__all__ = [
    "SAFE_AREAS",
    "draw_clipped",
    "draw_path",
    "draw_safe_areas",
    "draw_scopes",
    "scope_words",
]

SAFE_AREAS = (0.93, 0.90)  # action and title: SMPTE ST 2046-1
GAP = 8
SCOPE = (208, 52, 104)  # the width of both, the heights of histogram and waveform


def draw_safe_areas(painter: QPainter, room: QRectF) -> None:
    painter.save()
    for share, style in zip(SAFE_AREAS, (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine), strict=True):
        inside = QRectF(0, 0, room.width() * share, room.height() * share)
        inside.moveCenter(room.center())
        for colour, width in ((Qt.GlobalColor.black, 3), (Qt.GlobalColor.white, 1)):
            pen = QPen(colour, width, style)
            painter.setPen(pen)
            painter.drawRect(inside)
    painter.restore()


def draw_clipped(painter: QPainter, scopes: Scopes, room: QRectF) -> None:
    """Hatch what is at black, and cover what is at white, in the picture itself."""
    painter.drawImage(room, image_with_alpha(scopes.clipped))


def image_with_alpha(pixels: object) -> QImage:
    height, width = pixels.shape[:2]  # type: ignore[attr-defined]
    return QImage(pixels.data, width, height, width * 4, QImage.Format.Format_ARGB32)  # type: ignore[attr-defined]


def scope_words(scopes: Scopes) -> str:
    return f"black {scopes.at_black * 100:.1f} %   white {scopes.at_white * 100:.1f} %"


def draw_scopes(painter: QPainter, scopes: Scopes, corner: QPointF) -> None:
    """Histogram above waveform, with their upper right corner at a place."""
    line = painter.fontMetrics().height() + 4
    wide, low, tall = SCOPE
    size = (wide + 2 * GAP, low + tall + line + 3 * GAP)
    box = QRectF(corner.x() - size[0], corner.y(), *size)
    painter.fillRect(box, current().colour("surround", 0.92))
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.setPen(current().colour("on_surround", 0.35))
    top = QRectF(box.x() + GAP, box.y() + GAP, wide, low)
    below = QRectF(top.x(), top.bottom() + GAP, wide, tall)
    for room in (top, below):
        painter.drawRect(room)
    painter.drawImage(top, image_with_alpha(scopes.histogram))
    painter.drawImage(below, image_with_alpha(scopes.waveform))
    painter.setPen(current().colour("on_surround"))
    words = QRectF(top.x(), below.bottom() + 4, wide, line)
    painter.drawText(words, Qt.AlignmentFlag.AlignLeft, scope_words(scopes))


def draw_path(painter: QPainter, steps: tuple[PathStep, ...], corner: QPointF) -> None:
    """A pixel's steps, a line each, with their lower left corner at a place."""
    if not steps:
        return
    painter.save()
    font = QFont(painter.font())
    font.setPixelSize(px(12))
    painter.setFont(font)
    metrics = painter.fontMetrics()
    tall = metrics.height() + 3
    lines = [(step.words, values_words(step.values)) for step in steps]
    left = max(metrics.horizontalAdvance(words) for words, _ in lines) + 16
    right = max(metrics.horizontalAdvance(values) for _, values in lines)
    box = QRectF(corner.x(), 0, left + right + 2 * GAP, tall * len(lines) + 2 * GAP)
    box.moveBottom(corner.y())
    painter.fillRect(box, current().colour("surround", 0.92))
    painter.setPen(current().colour("on_surround"))
    for number, (words, values) in enumerate(lines):
        y = box.y() + GAP + number * tall
        place = QRectF(box.x() + GAP, y, left, tall)
        painter.drawText(place, Qt.AlignmentFlag.AlignLeft, words)
        place.moveLeft(box.x() + GAP + left)
        place.setWidth(right + 4)
        painter.drawText(place, Qt.AlignmentFlag.AlignLeft, values)
    painter.restore()


def values_words(values: tuple[float, ...]) -> str:
    """Codes as whole numbers, light with three decimals."""
    if values and all(value == int(value) and value > 1 for value in values):
        return "   ".join(f"{value:.0f}" for value in values)
    return "  ".join(f"{value:.3f}" for value in values)
