"""What is wrong with a source: the re-render list, what is missing, what was found where."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QVBoxLayout, QWidget

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.widgets import button, label, row_of
from waxseal.app.tray import tray_texts
from waxseal.core.job.model import FindingKind, Sequence
from waxseal.core.timing.ranges import write_frames

__all__ = ["Findings"]

MOST_FINDINGS = 6


class Findings(QWidget):
    frame_asked = Signal(str, int)

    def __init__(self, sequence: Sequence, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self._sequence = sequence
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(4)
        self._show_list()
        self._show_findings()

    def _show_list(self) -> None:
        again = write_frames(self._sequence.to_rerender)
        if again:
            listed = label(again, "name", wraps=True)
            listed.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            copy = button(self.tr("Copy"), partial(self._copy, again))
            copy.setToolTip(self.tr(tray_texts.COPY_THE_RE_RENDER_LIST))
            self._column.addLayout(row_of(label(self.tr("Re-render"), "quiet"), listed, 1, copy))
        gone = write_frames(self._sequence.missing)
        if gone:
            one = len(self._sequence.missing) == 1
            words = self.tr("{0} is missing") if one else self.tr("{0} are missing")
            self._column.addWidget(label(words.format(gone), "bad", wraps=True))

    def _show_findings(self) -> None:
        findings = self._sequence.findings
        for finding in findings[:MOST_FINDINGS]:
            tone = "bad" if finding.kind is FindingKind.DAMAGED else "heed"
            go = button(str(finding.frame), partial(self._go, finding.frame), "word")
            go.setToolTip(self.tr("Show this frame"))
            go.setAccessibleName(self.tr("Show frame {0}").format(finding.frame))
            row = row_of(go, label(finding.what, tone, wraps=True), gap=4)
            row.setStretch(1, 1)
            self._column.addLayout(row)
        if len(findings) > MOST_FINDINGS:
            rest = self.tr("and {0} more").format(len(findings) - MOST_FINDINGS)
            self._column.addWidget(label(rest, "bad"))

    def _go(self, frame: int) -> None:
        self.frame_asked.emit(self._sequence.id, frame)

    def _copy(self, text: str) -> None:
        QGuiApplication.clipboard().setText(text)
        self._pen.complained.emit(self.tr(tray_texts.COPIED_FOR_THE_RENDERER).format(text))
