"""Real events for the window's tests: drops, drags, waiting for what is on its way."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from waxseal.app.window import Window

__all__ = ["at_rest", "drag", "drop", "press"]

PATIENCE = 60_000


def at_rest(window: Window) -> bool:
    parts = (window.arriving, window.closely, window.bench, window.pictures)
    return not any(part.is_busy for part in parts)


def drop(window: Window, qtbot: QtBot, *paths: Path) -> None:
    """Drop files on the window as a file manager does, and wait until all is looked at."""
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    place = QPoint(100, 200)
    action, button = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    none = Qt.KeyboardModifier.NoModifier
    QApplication.sendEvent(window, QDragEnterEvent(place, action, mime, button, none))
    QApplication.sendEvent(window, QDropEvent(QPointF(place), action, mime, button, none))
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)


def press(widget: QWidget) -> None:
    QTest.mouseClick(widget, Qt.MouseButton.LeftButton)


def drag(widget: QWidget, start: QPoint, stop: QPoint, *, steps: int = 6) -> None:
    """Press, move in steps, release."""
    QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=start)
    for step in range(1, steps + 1):
        place = start + (stop - start) * step / steps
        QTest.mouseMove(widget, place)
        QApplication.processEvents()
    QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=stop)
    QApplication.processEvents()
