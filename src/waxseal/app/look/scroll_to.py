"""Brings what was just opened to the top of its lane: a docket grows once its layout is through."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QScrollArea, QWidget

__all__ = ["ScrollTo"]

GROWS_FOR_MS = 300


class ScrollTo(QObject):
    """Of one area. Tries again as what is in it grows, for a moment."""

    def __init__(self, area: QScrollArea) -> None:
        super().__init__(area)
        self._area = area
        self._find: Callable[[], QWidget | None] | None = None
        self._over = QTimer(self, singleShot=True, interval=GROWS_FOR_MS)
        self._over.timeout.connect(self._forget)
        area.verticalScrollBar().rangeChanged.connect(self._try)

    def to_top(self, find: Callable[[], QWidget | None]) -> None:
        """find: the widget, once it is there; None where it has gone meanwhile."""
        self._find = find
        self._over.start()
        QTimer.singleShot(0, self._try)

    def _try(self) -> None:
        found = self._find() if self._find is not None else None
        inside = self._area.widget()
        if found is not None and inside is not None:
            top = found.mapTo(inside, found.rect().topLeft()).y()
            self._area.verticalScrollBar().setValue(top)

    def _forget(self) -> None:
        self._find = None
