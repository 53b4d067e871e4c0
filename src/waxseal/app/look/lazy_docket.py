"""A docket that is made when it is first opened: until then it costs nothing."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

from PySide6.QtWidgets import QVBoxLayout, QWidget
from shiboken6 import delete

__all__ = ["LazySection"]

W = TypeVar("W", bound=QWidget)


class LazySection(QWidget, Generic[W]):
    """Closed at first. make: makes what is inside; show: brings it up to date."""

    def __init__(self, make: Callable[[], W], show: Callable[[W], None]) -> None:
        super().__init__()
        self._make, self._show = make, show
        self._inside: W | None = None
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self.hide()

    def toggle(self) -> None:
        if self._inside is None:
            self._inside = self._make()
            self._column.addWidget(self._inside)
        self.setVisible(self.isHidden())
        self.refresh()

    def forget(self) -> None:
        """A closed docket is made afresh when it is opened again: another look costs it nothing."""
        if self._inside is not None and self.isHidden():
            self._column.removeWidget(self._inside)
            delete(self._inside)
            self._inside = None

    def refresh(self) -> None:
        """Bring what is inside up to date; a closed docket waits until it is opened."""
        if self._inside is not None and not self.isHidden():
            self._show(self._inside)
