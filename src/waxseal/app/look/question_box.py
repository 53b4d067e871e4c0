"""A question beside what it is about, not in a pop-up: some words, and two answers."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QVBoxLayout, QWidget

from waxseal.app.look.widgets import button, label, rename, row_of

__all__ = ["Question"]


class Question(QWidget):
    """Hidden while there is nothing to ask. yes: the first answer; other: the second."""

    def __init__(self, yes: Callable[[], object], other: Callable[[], object]) -> None:
        super().__init__()
        self._words = label("", "heed", wraps=True)
        self.yes = button("", yes)
        self.other = button("", other, "word")
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 4, 8, 6)
        column.setSpacing(4)
        column.addWidget(self._words)
        column.addLayout(row_of(self.yes, self.other, 1))
        self.hide()

    def ask(self, words: str, yes: str, other: str) -> None:
        self._words.setText(words)
        rename(self.yes, yes)
        rename(self.other, other)
        self.show()
