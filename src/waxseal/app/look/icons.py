"""Our icons: SVG files in one line weight, drawn in the colour of the text."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QByteArray, QRectF, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

from waxseal.app.look.palette import current

__all__ = ["icon", "icon_file"]

FOLDER = Path(__file__).parent / "icons"
SCALE = 3  # drawn larger than shown: sharp at 200 %


def icon_file(name: str) -> Path:
    return FOLDER / f"{name}.svg"


def icon(name: str, colour: str = "text", size: int = 18) -> QIcon:
    """An icon in one of the palette's colours."""
    drawing = icon_file(name).read_text().replace("currentColor", getattr(current(), colour))
    renderer = QSvgRenderer(QByteArray(drawing.encode()))
    pixmap = QPixmap(QSize(size, size) * SCALE)
    pixmap.fill(Qt.GlobalColor.transparent)
    with QPainter(pixmap) as painter:
        renderer.render(painter, QRectF(0, 0, size * SCALE, size * SCALE))
    pixmap.setDevicePixelRatio(SCALE)
    return QIcon(pixmap)
