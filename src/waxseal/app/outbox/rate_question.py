"""What has to be known before anything is delivered: asked above the button, not in a pop-up."""

from __future__ import annotations

from PySide6.QtCore import Signal

from waxseal.app.look.question_box import Question
from waxseal.app.outbox import outbox_texts
from waxseal.core.job.model import Sequence
from waxseal.core.timing.rates import rate_words

__all__ = ["RateQuestion"]


class RateQuestion(Question):
    """confirmed: the rate that was guessed. show_asked: the source that it was guessed for."""

    confirmed = Signal(object)
    show_asked = Signal(str)

    def __init__(self) -> None:
        super().__init__(self._confirm, self._show_source)
        self._guessed: Sequence | None = None

    def show_guess(self, guessed: Sequence | None) -> None:
        """guessed: the source whose guessed rate the reel runs at; None for no question."""
        self._guessed = guessed
        if guessed is None:
            self.hide()
            return
        rate = rate_words(guessed.reading.rate.value)
        self.ask(
            self.tr(outbox_texts.IS_A_GUESS).format(rate),
            self.tr("Confirm {0}").format(rate),
            self.tr("Show {0}").format(guessed.name),
        )

    def _confirm(self) -> None:
        if self._guessed is not None:
            self.confirmed.emit(self._guessed.reading.rate.value)

    def _show_source(self) -> None:
        if self._guessed is not None:
            self.show_asked.emit(self._guessed.id)
