"""Every action by name: the menus, their shortcuts, and a list to search them all."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

__all__ = ["ActionList", "Actions"]


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


class ActionList(QDialog):
    """All actions with their shortcuts; typing searches, Return does it."""

    def __init__(self, window: QWidget, actions: Actions) -> None:
        super().__init__(window)
        self.setWindowTitle(self.tr("All actions"))
        self.resize(440, 480)
        column = QVBoxLayout(self)
        self._search = QLineEdit()
        self._search.setPlaceholderText(self.tr("Search"))
        self._search.setAccessibleName(self.tr("Search the actions"))
        self._list = QListWidget()
        self._list.setAccessibleName(self.tr("Actions"))
        column.addWidget(self._search)
        column.addWidget(self._list)
        for action in actions.by_name.values():
            keys = action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            words = action.text().replace("&", "")
            item = QListWidgetItem(f"{words}    {keys}" if keys else words)
            item.setData(Qt.ItemDataRole.UserRole, action)
            self._list.addItem(item)
        self._search.textChanged.connect(self._narrow)
        self._search.returnPressed.connect(self._do)
        self._list.itemActivated.connect(self._do)
        self._narrow("")

    def _narrow(self, text: str) -> None:
        wanted = text.casefold().split()
        first = None
        for row in range(self._list.count()):
            item = self._list.item(row)
            fits = all(word in item.text().casefold() for word in wanted)
            item.setHidden(not fits)
            if fits and first is None:
                first = item
        if first is not None:
            self._list.setCurrentItem(first)

    def _do(self, *_args: object) -> None:
        item = self._list.currentItem()
        if item is not None:
            self.accept()
            item.data(Qt.ItemDataRole.UserRole).trigger()
