"""Real events for the window's tests: drops, drags, waiting for what is on its way."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QLineEdit, QPushButton, QWidget
from pytestqt.exceptions import TimeoutError as PatienceError
from pytestqt.qtbot import QtBot

from waxseal.app.window import Window

__all__ = [
    "at_rest",
    "button",
    "choice",
    "choose",
    "drag",
    "drop",
    "field",
    "open_dockets",
    "press",
    "put_away",
    "seal_everything",
    "texts",
    "turn_wheel",
    "typed",
    "until_says",
]

PATIENCE = 60_000


def at_rest(window: Window) -> bool:
    parts = (
        *(window.arriving, window.closely, window.bench, window.pictures),
        *(window.tray, window.rule, window.ledger, window.outbox, window.elsewhere),
    )
    return not any(part.is_busy for part in parts)


def seal_everything(window: Window) -> None:
    """Press the one button; where a rate is a guess, confirm it when asked."""
    press(window.outbox.seal_all)
    if window.outbox.asking.isVisible():
        press(window.outbox.asking.yes)


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


def turn_wheel(widget: QWidget, notches: int = -1) -> None:
    """Over the middle of a widget; the focus stays where it is."""
    place = QPointF(widget.rect().center())
    angle, none = QPoint(0, 120 * notches), Qt.KeyboardModifier.NoModifier
    still, phase = Qt.MouseButton.NoButton, Qt.ScrollPhase.NoScrollPhase
    there = widget.mapToGlobal(place)
    inverted = False
    event = QWheelEvent(place, there, QPoint(), angle, still, none, phase, inverted)
    QApplication.sendEvent(widget, event)


def open_dockets(window: Window) -> None:
    """Of the first source, shot and delivery."""
    window.tray.toggle("s1")
    window.ledger.toggle("a1")
    window.outbox.toggle("d1")


def put_away(window: Window) -> None:
    """The end of a window, as when somebody quits."""
    window.end(is_orderly=True)
    window.hide()
    window.deleteLater()
    QApplication.processEvents()


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


def button(parent: QWidget, text: str) -> QPushButton:
    """The button of that text that is on the screen."""
    QApplication.processEvents()
    for one in parent.findChildren(QPushButton):
        if one.text().replace("&", "") == text and one.isVisible():
            return one
    raise AssertionError(f"no button {text!r}")


def field(parent: QWidget, name: str) -> QLineEdit:
    """The newest field of that name: a docket that was drawn again leaves old ones for a moment."""
    QApplication.processEvents()
    return [one for one in parent.findChildren(QLineEdit, name) if one.isVisible()][-1]


def choice(parent: QWidget, name: str) -> QComboBox:
    QApplication.processEvents()
    return [one for one in parent.findChildren(QComboBox, name) if one.isVisible()][-1]


def typed(box: QLineEdit, text: str) -> None:
    box.setFocus()
    box.selectAll()
    QTest.keyClicks(box, text)
    QTest.keyClick(box, Qt.Key.Key_Return)
    QApplication.processEvents()


def texts(parent: QWidget) -> str:
    QApplication.processEvents()  # what has just been put into a layout is shown
    return "\n".join(
        one.accessibleName() or one.text() for one in parent.findChildren(QLabel) if one.isVisible()
    )


def until_says(qtbot: QtBot, parent: QWidget, words: str) -> None:
    """Wait until a widget shows the words; where it does not, say what it shows instead."""
    try:
        qtbot.waitUntil(lambda: words in texts(parent), timeout=PATIENCE)
    except PatienceError:
        pytest.fail(f"{words!r} is not shown, but this:\n{texts(parent)}")


def choose(box: QComboBox, text: str) -> None:
    """Pick an entry by its text, as the list of a choice does."""
    place = box.findText(text)
    assert place >= 0, f"no {text!r} among {[box.itemText(at) for at in range(box.count())]}"
    box.setCurrentIndex(place)
    box.activated.emit(place)
    QApplication.processEvents()
