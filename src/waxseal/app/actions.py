"""Every action by name, for the menus and their shortcuts."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QWidget

__all__ = ["Actions"]


class Actions(QObject):
    """The actions of a window, by a short name. acting: one is about to be done."""

    acting = Signal()

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self.by_name: dict[str, QAction] = {}
        self._switches: list[tuple[QAction, Callable[[], bool]]] = []

    def add(
        self,
        name: str,
        words: str,
        act: Callable[[], object],
        keys: str | QKeySequence.StandardKey | tuple[str, ...] | None = None,
        is_on: Callable[[], bool] | None = None,
    ) -> QAction:
        """is_on: of one that switches something on and off."""
        action = QAction(words, self._window)
        if is_on is not None:
            action.setCheckable(True)
            self._switches.append((action, is_on))
        action.triggered.connect(self.acting)
        action.triggered.connect(lambda *_: act())
        if isinstance(keys, tuple):
            action.setShortcuts([QKeySequence(one) for one in keys])
        elif keys is not None:
            action.setShortcut(QKeySequence(keys))
        self.by_name[name] = action
        return action

    def show_switches(self) -> None:
        """Tick what is on; asked before a menu or the list of all actions is shown."""
        for action, is_on in self._switches:
            action.setChecked(is_on())

    def __getitem__(self, name: str) -> QAction:
        return self.by_name[name]
