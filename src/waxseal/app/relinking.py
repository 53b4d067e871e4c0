"""Files that were moved: a folder is searched, what is found again is shown, and taken or left."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from waxseal.app import sentences
from waxseal.app.desk import Desk
from waxseal.app.look.small import label
from waxseal.app.work import Workbench
from waxseal.core.arrive.relink import Refound, find_again
from waxseal.core.job.edits import Edit, relink
from waxseal.core.job.model import Job
from waxseal.core.progress import CancelToken, Report
from waxseal.core.words import counted, plain

__all__ = ["RefoundList", "Relinking"]


class RefoundList(QDialog):
    """What would be linked to where; each can be left out."""

    def __init__(self, parent: QWidget, refound_all: tuple[Refound, ...]) -> None:
        super().__init__(parent)
        self.setObjectName("refound")
        self.setWindowTitle(self.tr("Found again"))
        self.resize(560, 320)
        column = QVBoxLayout(self)
        column.addWidget(label(self.tr(sentences.MATCHING_FILES_WERE_FOUND), wraps=True))
        self._list = QListWidget()
        self._list.setAccessibleName(self.tr(sentences.SOURCES_THAT_WERE_FOUND_AGAIN))
        for refound in refound_all:
            item = QListWidgetItem(words_for(refound))
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            item.setData(Qt.ItemDataRole.UserRole, refound)
            item.setToolTip(plain(refound.folder))
            self._list.addItem(item)
        column.addWidget(self._list)
        buttons = QDialogButtonBox()
        link = buttons.addButton(self.tr("Use these files"), QDialogButtonBox.ButtonRole.AcceptRole)
        link.setObjectName("link")
        buttons.addButton(self.tr("Change nothing"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def chosen(self) -> tuple[Refound, ...]:
        items = [self._list.item(row) for row in range(self._list.count())]
        return tuple(
            item.data(Qt.ItemDataRole.UserRole)
            for item in items
            if item.checkState() is Qt.CheckState.Checked
        )


def words_for(refound: Refound) -> str:
    """`sh010: 94 of 96 frames in …/renders/sh010`."""
    name, where = refound.source.name, plain(refound.folder)
    if refound.known == 1:
        return f"{name}  →  {where}"
    return f"{name}  →  {where}: {refound.there} of {counted(refound.known, 'frame')}"


class Relinking(QObject):
    """said: a sentence. linked: ids of sources whose files are elsewhere now."""

    said = Signal(str)
    linked = Signal(list)

    def __init__(self, window: QWidget, desk: Desk, bench: Workbench) -> None:
        super().__init__(desk)
        self._window, self._desk, self._bench = window, desk, bench
        self._number = 0
        self.dialog: RefoundList | None = None

    def ask(self, source: str = "") -> None:
        """Let a folder be chosen, and search it for all sources, or for one."""
        name = QFileDialog.getExistingDirectory(
            self._window, self.tr(sentences.WHERE_ARE_THE_FILES_NOW)
        )
        if name:
            self.search(Path(name), source)

    def search(self, folder: Path, source: str = "") -> None:
        self._number = self._desk.number
        self.said.emit(self.tr("Searching {0}…").format(plain(folder)))
        work = partial(search_folder, self._desk.job, folder, source)
        self._bench.start(work, finished=self._found, failed=self._failed)

    def _found(self, refound_all: tuple[Refound, ...]) -> None:
        if self._number != self._desk.number:
            return
        if not refound_all:
            self.said.emit(self.tr(sentences.NO_FILES_THERE_MATCH))
            return
        self.said.emit("")
        self.dialog = RefoundList(self._window, refound_all)
        self.dialog.accepted.connect(self._take)
        self.dialog.open()

    def _take(self) -> None:
        refound_all = self.dialog.chosen() if self.dialog is not None else ()
        if not refound_all or self._number != self._desk.number:
            return
        sources = tuple(refound.source for refound in refound_all)
        words = self.tr(sentences.USE_THE_FILES_OF_ELSEWHERE).format(
            counted(len(sources), "source")
        )
        self._desk.do(Edit(words, partial(relink, sources=sources)))
        self.linked.emit([source.id for source in sources])

    def _failed(self, error: Exception) -> None:
        self.said.emit(str(error))


def search_folder(
    job: Job, folder: Path, source: str, _report: Report, token: CancelToken
) -> tuple[Refound, ...]:
    return find_again(job, folder, only=[source] if source else None, token=token)
