"""What cards and rows have in common: they take focus, show it, and open on a click or Return."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
)
from PySide6.QtWidgets import QFrame
from typing_extensions import override

from waxseal.app.look.accessibility import Acts
from waxseal.app.look.widgets import restyle

__all__ = ["Card", "CardWithMenu"]


class Card(QFrame):
    """opened: it was clicked, or Return was pressed on it. spoken: its state, in a few words."""

    opened = Signal()
    spoken_role = QAccessible.Role.ListItem

    def __init__(self) -> None:
        super().__init__()
        self.spoken, self.is_spoken_open = "", False
        self.setObjectName("card")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.say_open(is_open=False)

    def say_open(self, *, is_open: bool) -> None:
        """Show whether its docket is open, and tell it."""
        restyle(self, open=is_open)
        self.is_spoken_open = is_open
        words = self.tr("open; Return closes it") if is_open else self.tr("Return opens it")
        self.setAccessibleDescription(words)

    def spoken_value(self) -> str:
        return self.spoken

    def spoken_acts(self) -> Acts:
        return {QAccessibleActionInterface.toggleAction(): self.opened.emit}

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        inside = self.rect().contains(event.position().toPoint())
        if event.button() is Qt.MouseButton.LeftButton and inside:
            self.opened.emit()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit()
        else:
            super().keyPressEvent(event)

    @override
    def focusInEvent(self, event: QFocusEvent) -> None:
        restyle(self, chosen=True)
        super().focusInEvent(event)

    @override
    def focusOutEvent(self, event: QFocusEvent) -> None:
        restyle(self, chosen=False)
        super().focusOutEvent(event)


class CardWithMenu(Card):
    """menu_asked: for the menu of what it shows, by its id, at a place of the screen."""

    menu_asked = Signal(str, object)

    def __init__(self, shown: str) -> None:
        super().__init__()
        self._menu_of = shown

    @override
    def spoken_acts(self) -> Acts:
        middle = self.mapToGlobal(self.rect().center())
        menu = partial(self.menu_asked.emit, self._menu_of, middle)
        return super().spoken_acts() | {QAccessibleActionInterface.showMenuAction(): menu}

    @override
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_asked.emit(self._menu_of, event.globalPos())
