"""A docket of lines, one for each of several values."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from typing import TypeVar

from PySide6.QtWidgets import QVBoxLayout, QWidget

from waxseal.app.look.widgets import empty, keeping_focus

__all__ = ["Lines"]

V = TypeVar("V")


class Lines(QWidget):
    """Lines are shown again, not made anew, as long as there are the same: focus stays."""

    def __init__(self, gap: int) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(gap)
        self._lines: list[QWidget] = []
        self._made_for: Hashable = None

    def show_values(
        self,
        values: Sequence[V],
        made_for: Hashable,
        make: Callable[[int, V], QWidget],
        show: Callable[[QWidget, V], None],
    ) -> None:
        """made_for: what lines depend on besides their values' fields; another makes them anew."""
        if made_for == self._made_for and len(values) == len(self._lines):
            for line, value in zip(self._lines, values, strict=True):
                show(line, value)
            return
        self._made_for = made_for
        with keeping_focus(self):
            empty(self._column)
            self._lines = [make(number, value) for number, value in enumerate(values)]
            for line in self._lines:
                self._column.addWidget(line)
