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

    def add(
        self,
        name: str,
        words: str,
        act: Callable[[], object],
        keys: str | QKeySequence.StandardKey | None = None,
    ) -> QAction:
        action = QAction(words, self._window)
        action.triggered.connect(self.acting)
        action.triggered.connect(lambda *_: act())
        if keys is not None:
            action.setShortcut(QKeySequence(keys))
        self.by_name[name] = action
        return action

    def __getitem__(self, name: str) -> QAction:
        return self.by_name[name]
