"""What has to be known before anything is delivered: asked above the button, not in a pop-up."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from waxseal.app.look.small import button, label, rename, row_of
from waxseal.app.outbox import sentences
from waxseal.core.job.model import Sequence
from waxseal.core.timing.rates import rate_words

__all__ = ["Asking"]


class Asking(QWidget):
    """confirmed: the rate that was guessed. show_asked: the source that it was guessed for."""

    confirmed = Signal(object)
    show_asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._words = label("", "heed", wraps=True)
        self.confirm = button("", self._confirm)
        self._show = button("", self._show_source, "word")
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 4, 8, 6)
        column.setSpacing(4)
        column.addWidget(self._words)
        column.addLayout(row_of(self.confirm, self._show, 1))
        self._guessed: Sequence | None = None
        self.hide()

    def show_guess(self, guessed: Sequence | None) -> None:
        """guessed: the source whose guessed rate the reel runs at; None for no question."""
        self._guessed = guessed
        self.setVisible(guessed is not None)
        if guessed is not None:
            rate = rate_words(guessed.reading.rate.value)
            self._words.setText(self.tr(sentences.IS_A_GUESS).format(rate))
            rename(self.confirm, self.tr("Confirm {0}").format(rate))
            rename(self._show, self.tr("Show {0}").format(guessed.name))

    def _confirm(self) -> None:
        if self._guessed is not None:
            self.confirmed.emit(self._guessed.reading.rate.value)

    def _show_source(self) -> None:
        if self._guessed is not None:
            self.show_asked.emit(self._guessed.id)
