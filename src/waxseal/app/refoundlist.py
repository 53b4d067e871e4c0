"""What was found again of files that were moved: each is taken, or left."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from waxseal.app import window_texts
from waxseal.app.look.tooltips import set_tip
from waxseal.app.look.widgets import label
from waxseal.core.arrive.relink import RelinkOffer
from waxseal.core.text_format import counted, plain

__all__ = ["RefoundList"]


class RefoundList(QDialog):
    """What would be linked to where; each can be left out."""

    def __init__(self, parent: QWidget, refound_all: tuple[RelinkOffer, ...]) -> None:
        super().__init__(parent)
        self.setObjectName("refound")
        self.setWindowTitle(self.tr("Found again"))
        self.resize(560, 320)
        column = QVBoxLayout(self)
        column.addWidget(label(self.tr(window_texts.MATCHING_FILES_WERE_FOUND), wraps=True))
        self._list = QListWidget()
        self._list.setAccessibleName(self.tr(window_texts.SOURCES_THAT_WERE_FOUND_AGAIN))
        for refound in refound_all:
            item = QListWidgetItem(words_for(refound))
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            item.setData(Qt.ItemDataRole.UserRole, refound)
            set_tip(item, str(refound.folder))
            self._list.addItem(item)
        column.addWidget(self._list)
        buttons = QDialogButtonBox()
        link = buttons.addButton(self.tr("Use these files"), QDialogButtonBox.ButtonRole.AcceptRole)
        link.setObjectName("link")
        buttons.addButton(self.tr("Change nothing"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def chosen(self) -> tuple[RelinkOffer, ...]:
        items = [self._list.item(row) for row in range(self._list.count())]
        return tuple(
            item.data(Qt.ItemDataRole.UserRole)
            for item in items
            if item.checkState() is Qt.CheckState.Checked
        )


def words_for(refound: RelinkOffer) -> str:
    """`sh010: 94 of 96 frames in …/renders/sh010`."""
    name, where = refound.source.name, plain(refound.folder)
    if refound.known == 1:
        return f"{name}  →  {where}"
    return f"{name}  →  {where}: {refound.there} of {counted(refound.known, 'frame')}"
