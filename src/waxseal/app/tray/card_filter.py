"""Which cards the in-tray shows, and in which order: folded, narrowed, those in need first."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from waxseal.app.look.widgets import check
from waxseal.app.tray import tray_texts
from waxseal.app.tray.source_words import health_words, kind_words
from waxseal.core.job.model import Job, Sequence, Sound
from waxseal.core.job.pass_groups import families
from waxseal.core.text_format import plain

__all__ = ["CardFilter"]

MANY = 8  # sources: with more, there is something to find
NEEDS = {"bad": 0, "heed": 1, "good": 2}


class CardFilter(QWidget):
    """changed: other cards are to be shown, or in another order."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(6, 0, 14, 0)
        column.setSpacing(4)
        self.wanted = QLineEdit()
        self.wanted.setPlaceholderText(self.tr("Name or state"))
        self.wanted.setAccessibleName(self.tr(tray_texts.FIND_SOURCES))
        self.wanted.setClearButtonEnabled(True)
        self.wanted.textChanged.connect(lambda _text: self.changed.emit())
        self.first = check(
            self.tr(tray_texts.NEEDS_ATTENTION_FIRST), lambda _on: self.changed.emit(), "first"
        )
        column.addWidget(self.wanted)
        column.addWidget(self.first)
        self._open: set[str] = set()  # families that show all their passes
        self._families: dict[str, tuple[str, ...]] = {}
        self._said: dict[str, tuple[Sequence | Sound, str]] = {}  # of each source, as it was
        self.hide()

    def sift(self, job: Job, held: str) -> list[str]:
        """The ids to show, in their order. held: one that is shown whatever it is."""
        has_many = len(job.sources) > MANY
        self.setVisible(has_many)
        self._families = families(job.sequences)
        text = self.wanted.text().casefold().split() if has_many else []
        folded = {
            one
            for lead, others in self._families.items()
            if lead not in self._open and held not in others
            for one in others
        }
        shown: list[Sequence | Sound] = [
            source
            for source in job.sources
            if source.id == held
            or (
                (source.id not in folded or text) and all(self._says(source, word) for word in text)
            )
        ]
        if self.first.isChecked():
            shown.sort(key=need_of)
        return [source.id for source in shown]

    def _says(self, source: Sequence | Sound, word: str) -> bool:
        """Whether a word is in its name, its state, or what it is. The name is asked first: quick.

        The rest is put together once for each source, while somebody types.
        """
        if word in source.name.casefold():
            return True
        known, said = self._said.get(source.id, (None, ""))
        if known is not source:
            said = said_of(source)
            self._said[source.id] = source, said
        return word in said

    def begin(self) -> None:
        """Another job: nothing is looked for, and all is folded."""
        self._open.clear()
        self._said.clear()
        self.first.setChecked(False)
        self.wanted.clear()

    def passes_of(self, source: str) -> tuple[str, ...]:
        """The passes that fold under a source."""
        return self._families.get(source, ())

    def unfold(self, source: str) -> None:
        """Show a family's passes, or fold them again."""
        self._open ^= {source}
        self.changed.emit()


def said_of(source: Sequence | Sound) -> str:
    """What is looked for in: its name, its state, and what it is."""
    if isinstance(source, Sound):
        return f"{plain(source.name)} {source.format}".casefold()
    words = (plain(source.files.pattern), source.name, health_words(source)[0], kind_words(source))
    return " ".join(words).casefold()


def need_of(source: Sequence | Sound) -> int:
    return NEEDS[health_words(source)[1]] if isinstance(source, Sequence) else NEEDS["good"]
