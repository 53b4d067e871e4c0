"""Texts that do not fit: found by asking each widget how much room it has, and needs."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QCheckBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QScrollArea,
    QWidget,
)

from waxseal.app.look.key_widgets import Choice
from waxseal.app.look.widgets import Elided

__all__ = ["cut_texts"]

TOLERANCE = 1  # pixels


def cut_texts(window: QWidget) -> list[str]:
    """What is cut by its own widget, or by what the widget is in; one line each."""
    found = []
    for widget in window.findChildren(QWidget):
        if not widget.isVisible() or not text_of(widget):
            continue
        wide, tall = needed(widget)
        if wide > widget.width() + TOLERANCE or tall > widget.height() + TOLERANCE:
            room = f"{widget.width()} × {widget.height()}"
            found.append(f"{text_of(widget)!r}: {room} for {wide} × {tall}")
        elif leaves(widget, window):
            found.append(f"{text_of(widget)!r} is cut by what it is in")
    return found


def text_of(widget: QWidget) -> str:
    if isinstance(widget, Elided | Choice) or getattr(widget, "_may_shrink", False):
        return ""  # shortened with an ellipsis, the whole in its tool tip
    if isinstance(widget, QLabel | QAbstractButton):
        return widget.text().replace("&", "")
    if isinstance(widget, QLineEdit):
        return widget.text() or widget.placeholderText()
    return widget.currentText() if isinstance(widget, QComboBox) else ""


def needed(widget: QWidget) -> tuple[int, int]:
    """The room that a text needs, in pixels."""
    if isinstance(widget, QLabel) and widget.wordWrap():
        return 0, widget.heightForWidth(widget.width())
    if isinstance(widget, QLineEdit):
        metrics = widget.fontMetrics()
        return metrics.horizontalAdvance(text_of(widget)) + 8, metrics.height()
    if isinstance(widget, QComboBox):
        metrics = widget.fontMetrics()
        return metrics.horizontalAdvance(widget.currentText()) + 22, metrics.height()
    if isinstance(widget, QCheckBox | QLabel):
        return widget.sizeHint().width(), 0
    return widget.minimumSizeHint().width(), 0


def leaves(widget: QWidget, window: QWidget) -> bool:
    """Whether it reaches sideways out of something around it."""
    inside = QRect(widget.mapTo(window, QPoint()), widget.size())
    around = widget.parentWidget()
    while around is not None and around is not window:
        room = QRect(around.mapTo(window, QPoint()), around.size())
        if inside.left() < room.left() - TOLERANCE or inside.right() > room.right() + TOLERANCE:
            return True
        if isinstance(around.parentWidget(), QScrollArea):
            area = around.parentWidget()
            assert isinstance(area, QScrollArea)
            if area.horizontalScrollBarPolicy() is not Qt.ScrollBarPolicy.ScrollBarAlwaysOff:
                return False
        around = around.parentWidget()
    return inside.right() > window.width() + TOLERANCE
