"""Files that were moved: a folder is searched, what is found again is shown, and taken or left."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from waxseal.app import window_texts
from waxseal.app.document import Document
from waxseal.app.task_pool import Workbench
from waxseal.core.job.edits import Edit, relink
from waxseal.core.job.model import Job
from waxseal.core.progress import CancelToken, Report
from waxseal.core.text_format import counted, plain

if TYPE_CHECKING:
    from waxseal.app.refoundlist import RefoundList
    from waxseal.core.arrive.relink import RelinkOffer

__all__ = ["Relinking"]


class Relinking(QObject):
    """said: a sentence. linked: ids of sources whose files are elsewhere now."""

    said = Signal(str)
    linked = Signal(list)

    def __init__(self, window: QWidget, document: Document, bench: Workbench) -> None:
        super().__init__(document)
        self._window, self._document, self._bench = window, document, bench
        self._number = 0
        self.dialog: RefoundList | None = None

    def ask(self, source: str = "") -> None:
        """Let a folder be chosen, and search it for all sources, or for one."""
        name = QFileDialog.getExistingDirectory(
            self._window, self.tr(window_texts.WHERE_ARE_THE_FILES_NOW)
        )
        if name:
            self.search(Path(name), source)

    def search(self, folder: Path, source: str = "") -> None:
        self._number = self._document.number
        self.said.emit(self.tr("Searching {0}…").format(plain(folder)))
        work = partial(search_folder, self._document.job, folder, source)
        self._bench.start(work, finished=self._found, failed=self._failed)

    def _found(self, refound_all: tuple[RelinkOffer, ...]) -> None:
        if self._number != self._document.number:
            return
        if not refound_all:
            self.said.emit(self.tr(window_texts.NO_FILES_THERE_MATCH))
            return
        self.said.emit("")
        from waxseal.app.refoundlist import RefoundList

        self.dialog = RefoundList(self._window, refound_all)
        self.dialog.accepted.connect(self._take)
        self.dialog.open()

    def _take(self) -> None:
        refound_all = self.dialog.chosen() if self.dialog is not None else ()
        if not refound_all or self._number != self._document.number:
            return
        sources = tuple(refound.source for refound in refound_all)
        words = self.tr(window_texts.USE_THE_FILES_OF_ELSEWHERE).format(
            counted(len(sources), "source")
        )
        self._document.do(Edit(words, partial(relink, sources=sources)))
        self.linked.emit([source.id for source in sources])

    def _failed(self, error: Exception) -> None:
        self.said.emit(str(error))


def search_folder(
    job: Job, folder: Path, source: str, _report: Report, token: CancelToken
) -> tuple[RelinkOffer, ...]:
    from waxseal.core.arrive.relink import find_again  # not at the start

    return find_again(job, folder, only=[source] if source else None, token=token)
