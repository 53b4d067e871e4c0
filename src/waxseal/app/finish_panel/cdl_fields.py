"""Files of a finish: CDLs in and out, LUTs."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QInputDialog, QWidget

from waxseal.app.finish_panel import finish_texts
from waxseal.app.look.edit_signals import Pen
from waxseal.core.errors import JobError
from waxseal.core.job.corrections import Cdl
from waxseal.core.job.corrections.fields import FileField

__all__ = ["CdlFiles"]

KINDS = "CDL (*.cdl *.ccc *.cc)"


class CdlFiles(QObject):
    """chosen: a CDL that came from a file."""

    chosen = Signal(object)

    def __init__(self, parent: QWidget, pen: Pen) -> None:
        super().__init__(parent)
        self._pen = pen
        self._parent = parent

    def choose(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self._parent, self.tr("CDL"), "", KINDS)
        if name:
            self.read(Path(name))

    def read(self, path: Path) -> None:
        """Take the correction of a file; of several the one that is chosen by its name."""
        from waxseal.core.picture.colour.cdlfiles import read_cdl  # OCIO: not in the first second

        try:
            found = dict(read_cdl(path))
        except JobError as error:
            self._pen.complained.emit(str(error))
            return
        name = next(iter(found))
        if len(found) > 1:
            name, is_chosen = QInputDialog.getItem(
                self._parent, self.tr("CDL"), self.tr(finish_texts.WHICH_ONE), list(found), 0, False
            )
            if not is_chosen:
                return
        self.chosen.emit(found[name])

    def save(self, cdl: Cdl, name: str) -> None:
        from waxseal.core.picture.colour.cdlfiles import write_cdl

        path, _ = QFileDialog.getSaveFileName(
            self._parent, self.tr("Save the CDL"), f"{name}.ccc", KINDS
        )
        if path:
            try:
                write_cdl(Path(path), {name: cdl})
            except JobError as error:
                self._pen.complained.emit(str(error))

    def choose_for(self, field: FileField) -> str:
        """The path of a file that a correction cannot be without; empty where none is chosen."""
        name, _ = QFileDialog.getOpenFileName(self._parent, field.words, "", field.kinds)
        return name
