"""Files that were moved: a folder is searched, what matches is shown, and taken or left."""

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

from waxseal.app.desk import Desk
from waxseal.app.look.small import label
from waxseal.app.work import Workbench
from waxseal.core.arrive.relink import Match, find_again
from waxseal.core.job.edits import Edit, relink
from waxseal.core.job.model import Job
from waxseal.core.progress import CancelToken, Report
from waxseal.core.words import counted, plain

__all__ = ["MatchList", "Relinking"]


class MatchList(QDialog):
    """What would be linked to where; each can be left out."""

    def __init__(self, parent: QWidget, matches: tuple[Match, ...]) -> None:
        super().__init__(parent)
        self.setObjectName("matches")
        self.setWindowTitle(self.tr("Found again"))
        self.resize(560, 320)
        column = QVBoxLayout(self)
        column.addWidget(
            label(self.tr("These sources have files of the same names there:"), wraps=True)
        )
        self._list = QListWidget()
        self._list.setAccessibleName(self.tr("Sources that were found again"))
        for match in matches:
            item = QListWidgetItem(words_for(match))
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            item.setData(Qt.ItemDataRole.UserRole, match)
            item.setToolTip(plain(match.folder))
            self._list.addItem(item)
        column.addWidget(self._list)
        buttons = QDialogButtonBox()
        link = buttons.addButton(self.tr("Use these files"), QDialogButtonBox.ButtonRole.AcceptRole)
        link.setObjectName("link")
        buttons.addButton(self.tr("Leave all as it is"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def chosen(self) -> tuple[Match, ...]:
        items = [self._list.item(row) for row in range(self._list.count())]
        return tuple(
            item.data(Qt.ItemDataRole.UserRole)
            for item in items
            if item.checkState() is Qt.CheckState.Checked
        )


def words_for(match: Match) -> str:
    """`sh010: 94 of 96 frames in …/renders/sh010`."""
    name, where = match.source.name, plain(match.folder)
    if match.known == 1:
        return f"{name}  →  {where}"
    return f"{name}  →  {where}: {match.there} of {counted(match.known, 'frame')}"


class Relinking(QObject):
    """said: a sentence. linked: ids of sources whose files are elsewhere now."""

    said = Signal(str)
    linked = Signal(list)

    def __init__(self, window: QWidget, desk: Desk, bench: Workbench) -> None:
        super().__init__(desk)
        self._window, self._desk, self._bench = window, desk, bench
        self._number = 0
        self.dialog: MatchList | None = None

    def ask(self, source: str = "") -> None:
        """Let a folder be chosen, and search it for all sources, or for one."""
        name = QFileDialog.getExistingDirectory(self._window, self.tr("Where are the files now?"))
        if name:
            self.search(Path(name), source)

    def search(self, folder: Path, source: str = "") -> None:
        self._number = self._desk.number
        self.said.emit(self.tr("Searching {0}…").format(plain(folder)))
        work = partial(search_folder, self._desk.job, folder, source)
        self._bench.start(work, finished=self._found, failed=self._failed)

    def _found(self, matches: tuple[Match, ...]) -> None:
        if self._number != self._desk.number:
            return
        if not matches:
            self.said.emit(self.tr("There are no files of the sources' names and numbers in it."))
            return
        self.said.emit("")
        self.dialog = MatchList(self._window, matches)
        self.dialog.accepted.connect(self._take)
        self.dialog.open()

    def _take(self) -> None:
        matches = self.dialog.chosen() if self.dialog is not None else ()
        if not matches or self._number != self._desk.number:
            return
        sources = tuple(match.source for match in matches)
        words = self.tr("use the files of {0} elsewhere").format(counted(len(sources), "source"))
        self._desk.do(Edit(words, partial(relink, sources=sources)))
        self.linked.emit([source.id for source in sources])

    def _failed(self, error: Exception) -> None:
        self.said.emit(str(error))


def search_folder(
    job: Job, folder: Path, source: str, _report: Report, token: CancelToken
) -> tuple[Match, ...]:
    return find_again(job, folder, only=[source] if source else None, token=token)
