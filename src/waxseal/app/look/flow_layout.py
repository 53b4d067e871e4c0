"""Widgets one after the other, in as many lines as they need."""

from __future__ import annotations

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem
from typing_extensions import override

__all__ = ["Flow"]


class Flow(QLayout):
    def __init__(self, *, gap: int = 12, leading: int = 4) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._gap, self._leading = gap, leading
        self.setContentsMargins(0, 0, 0, 0)

    @override
    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    @override
    def count(self) -> int:
        return len(self._items)

    @override
    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    @override
    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    @override
    def hasHeightForWidth(self) -> bool:
        return True

    @override
    def heightForWidth(self, width: int) -> int:
        return self._lay(QRect(0, 0, width, 0), moves=False)

    @override
    def setGeometry(self, room: QRect) -> None:
        super().setGeometry(room)
        self._lay(room, moves=True)

    @override
    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    @override
    def minimumSize(self) -> QSize:
        widest = max((item.minimumSize().width() for item in self._items), default=0)
        tallest = max((item.minimumSize().height() for item in self._items), default=0)
        return QSize(widest, tallest)

    @override
    def sizeHint(self) -> QSize:
        width = sum(item.sizeHint().width() + self._gap for item in self._items)
        tallest = max((item.sizeHint().height() for item in self._items), default=0)
        return QSize(width, tallest)

    def _lines(self, width: int) -> list[list[QLayoutItem]]:
        """The items that stand in each line; what is hidden takes no room."""
        lines: list[list[QLayoutItem]] = [[]]
        x = 0
        for item in self._items:
            if item.isEmpty():
                continue
            wide = item.sizeHint().width()
            if lines[-1] and x + wide > width:
                lines.append([])
                x = 0
            lines[-1].append(item)
            x += wide + self._gap
        return lines

    def _lay(self, room: QRect, *, moves: bool) -> int:
        """Place the items, each in the middle of its line; returns the height that they take."""
        y = room.y()
        for line in self._lines(room.width()):
            tall = max((item.sizeHint().height() for item in line), default=0)
            x = room.x()
            for item in line:
                size = item.sizeHint()
                if moves:
                    middle = y + (tall - size.height()) // 2
                    item.setGeometry(QRect(x, middle, size.width(), size.height()))
                x += size.width() + self._gap
            y += tall + self._leading
        return max(0, y - self._leading - room.y())
