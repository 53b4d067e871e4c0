"""What dockets and rows write with: edits and complaints that go straight to the desk."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from waxseal.core.job.edits import Edit

__all__ = ["Pen"]


class Pen(QObject):
    """asked: an Edit. asked_of_many: one of many sources at once.

    settled: a drag or typing is over. complained: a sentence.
    """

    asked = Signal(object)
    asked_of_many = Signal(object)
    settled = Signal()
    complained = Signal(str)

    def ask(self, words: str, change: object, merges: str = "") -> None:
        """Ask for a change, a function from job to job, by the name that undo shows."""
        self.asked.emit(Edit(words, change, merges))  # type: ignore[arg-type]

    def ask_of_many(self, words: str, change: object) -> None:
        """The same for a change of many sources at once."""
        self.asked_of_many.emit(Edit(words, change))  # type: ignore[arg-type]
