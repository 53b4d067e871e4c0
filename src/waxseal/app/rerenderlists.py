"""The re-render lists of all sources: copied, and saved as text."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog, QWidget

from waxseal.app import window_texts
from waxseal.app.document import Document
from waxseal.core.atomic_write import save_safely
from waxseal.core.job.pass_mismatches import misfits
from waxseal.core.job.rerender_list import frames_to_rerender, rerender_text
from waxseal.core.text_format import plain

__all__ = ["RerenderLists"]


class RerenderLists(QObject):
    """said: a sentence."""

    said = Signal(str)

    def __init__(self, window: QWidget, document: Document) -> None:
        super().__init__(document)
        self._window, self._document = window, document

    def copy(self) -> None:
        odd = misfits(self._document.job)
        lists = [
            f"{source.name} {again}"
            for source in self._document.job.sequences
            if (again := frames_to_rerender(source, odd.get(source.id)))
        ]
        QGuiApplication.clipboard().setText("\n".join(lists))
        nothing = self.tr(window_texts.NOTHING_TO_RERENDER)
        self.said.emit(self.tr("Copied: {0}").format("; ".join(lists)) if lists else nothing)

    def ask(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self._window, self.tr(window_texts.SAVE_ALL_RE_RENDER_LISTS), self.tr("re-render.txt")
        )
        if name:
            self.save_to(Path(name))

    def save_to(self, path: Path) -> None:
        text = rerender_text(self._document.job.sequences, misfits(self._document.job))
        if not text:
            self.said.emit(self.tr(window_texts.NOTHING_TO_RERENDER))
            return
        try:
            save_safely(path, f"{text}\n".encode("utf-8", "backslashreplace"))
        except OSError as error:
            words = self.tr(window_texts.CANNOT_BE_WRITTEN)
            self.said.emit(words.format(plain(path), error.strerror))
        else:
            self.said.emit(self.tr("Saved: {0}").format(plain(path)))
