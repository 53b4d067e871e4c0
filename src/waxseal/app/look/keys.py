"""Widgets that keep keys to themselves which are shortcuts of the window elsewhere.

Space plays, but on a focused button it presses; arrows step, but in a list
they choose.
"""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QComboBox, QPushButton, QToolButton
from typing_extensions import override

__all__ = ["Button", "Choice", "ToolButton", "keeps"]

SPACE = frozenset({Qt.Key.Key_Space})
MOVES = frozenset({Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End})


def keeps(event: QEvent, keys: frozenset[Qt.Key]) -> bool:
    """Whether an event asks if one of these keys is wanted here; accepts it then."""
    if event.type() is not QEvent.Type.ShortcutOverride or not isinstance(event, QKeyEvent):
        return False
    if event.key() not in keys or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
        return False
    event.accept()
    return True


class Button(QPushButton):
    @override
    def event(self, event: QEvent) -> bool:
        return keeps(event, SPACE) or super().event(event)


class ToolButton(QToolButton):
    @override
    def event(self, event: QEvent) -> bool:
        return keeps(event, SPACE) or super().event(event)


class Choice(QComboBox):
    """The wheel chooses only where the focus is: it goes by on its way down a lane."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)  # the wheel brings no focus either

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.hasFocus():
            super().wheelEvent(event)
        else:
            event.ignore()  # the lane takes it

    @override
    def event(self, event: QEvent) -> bool:
        return keeps(event, SPACE | MOVES) or super().event(event)
