"""The list of all actions, to be searched."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import (
    QDialog,
    QHeaderView,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from waxseal.app.actions import Actions

__all__ = ["ActionList"]


class ActionList(QDialog):
    """All actions, their shortcuts in a column of their own; typing searches, Return does it."""

    def __init__(self, window: QWidget, actions: Actions) -> None:
        super().__init__(window)
        self.setWindowTitle(self.tr("All actions"))
        self.resize(440, 480)
        column = QVBoxLayout(self)
        self._search = QLineEdit()
        self._search.setPlaceholderText(self.tr("Search"))
        self._search.setAccessibleName(self.tr("Search the actions"))
        self._list = QTreeWidget()
        self._list.setAccessibleName(self.tr("Actions"))
        self._list.setColumnCount(2)
        self._list.setHeaderHidden(True)
        self._list.setRootIsDecorated(False)
        column.addWidget(self._search)
        column.addWidget(self._list)
        self._items: list[QTreeWidgetItem] = []
        actions.show_switches()
        for action in actions.by_name.values():
            keys = action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            item = QTreeWidgetItem([action.text().replace("&", ""), keys])
            item.setData(0, Qt.ItemDataRole.UserRole, action)
            if action.isCheckable():
                is_on = Qt.CheckState.Checked if action.isChecked() else Qt.CheckState.Unchecked
                item.setCheckState(0, is_on)
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsUserCheckable)
            self._items.append(item)
        self._list.addTopLevelItems(self._items)
        header = self._list.header()
        header.setStretchLastSection(False)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self._search.textChanged.connect(self._narrow)
        self._search.returnPressed.connect(self._do)
        self._list.itemActivated.connect(self._do)
        self._narrow("")

    def _narrow(self, text: str) -> None:
        wanted = text.casefold().split()
        first = None
        for item in self._items:
            said = f"{item.text(0)} {item.text(1)}".casefold()
            fits = all(word in said for word in wanted)
            item.setHidden(not fits)
            if fits and first is None:
                first = item
        if first is not None:
            self._list.setCurrentItem(first)

    def _do(self, *_args: object) -> None:
        item = self._list.currentItem()
        if item is not None:
            self.accept()
            item.data(0, Qt.ItemDataRole.UserRole).trigger()
