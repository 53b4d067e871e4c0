"""The in-tray: its cards in order, one docket open, drops anywhere on it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from waxseal.app.look.small import button, label, row_of
from waxseal.app.pictures import Pictures
from waxseal.app.tray.card import SourceCard
from waxseal.core.job.model import Job

__all__ = ["Tray"]


class Tray(QFrame):
    edit_asked = Signal(object)
    add_asked = Signal()
    demo_asked = Signal()
    menu_asked = Signal(str, object)
    chosen = Signal(str)
    complained = Signal(str)

    def __init__(self, pictures: Pictures) -> None:
        super().__init__()
        self.setObjectName("lane")
        self._pictures = pictures
        self._cards: dict[str, SourceCard] = {}
        self._notes: dict[str, str] = {}
        self._job = Job()
        self._open = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 0, 8)
        column.setSpacing(8)
        add = button(self.tr("+ Add &frames"), self.add_asked.emit, "word")
        head = row_of(label(self.tr("IN-TRAY"), "laneTitle"), 1, add)
        head.setContentsMargins(6, 0, 8, 0)
        column.addLayout(head)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inside = QWidget()
        inside.setObjectName("lane")
        self._list = QVBoxLayout(inside)
        self._list.setContentsMargins(0, 0, 8, 0)
        self._list.setSpacing(8)
        self._list.addStretch(1)
        self._scroll.setWidget(inside)
        self._empty = self._empty_state()
        column.addWidget(self._empty)
        column.addWidget(self._scroll, 1)

    def _empty_state(self) -> QWidget:
        empty = QWidget()
        column = QVBoxLayout(empty)
        column.setContentsMargins(6, 24, 14, 8)
        column.setSpacing(12)
        column.addWidget(label(self.tr("Drop a folder of rendered frames."), "strong", wraps=True))
        column.addWidget(
            label(
                self.tr(
                    "EXR, PNG, TIFF and JPEG are read as sequences, in the order of their "
                    "numbers. A WAV or FLAC beside them comes along."
                ),
                "quiet",
                wraps=True,
            )
        )
        column.addLayout(row_of(button(self.tr("Choose a folder…"), self.add_asked.emit), 1))
        column.addLayout(row_of(button(self.tr("Open the demo"), self.demo_asked.emit), 1))
        column.addStretch(1)
        return empty

    @property
    def open_source(self) -> str:
        return self._open

    def show_job(self, job: Job) -> None:
        self._job = job
        ids = [source.id for source in job.sources]
        for gone in set(self._cards) - set(ids):
            card = self._cards.pop(gone)
            self._list.removeWidget(card)
            card.hide()
            card.deleteLater()
        for place, source in enumerate(job.sources):
            card = self._cards.get(source.id) or self._new_card(place)
            self._cards[source.id] = card
            card.show_source(
                source, is_open=source.id == self._open, note=self._notes.get(source.id, "")
            )
            if self._list.indexOf(card) != place:
                self._list.insertWidget(place, card)
        self._empty.setVisible(not ids)
        self._scroll.setVisible(bool(ids))

    def _new_card(self, place: int) -> SourceCard:
        card = SourceCard(self._job.sources[place], self._pictures)
        card.toggled.connect(self.toggle)
        card.chosen.connect(self.chosen)
        card.menu_asked.connect(self.menu_asked)
        card.edit_asked.connect(self.edit_asked)
        card.complained.connect(self.complained)
        self._list.insertWidget(place, card)
        return card

    def note(self, source: str, text: str) -> None:
        """A word on a card for a while: that it is being looked at."""
        if text:
            self._notes[source] = text
        else:
            self._notes.pop(source, None)
        self.show_job(self._job)

    def toggle(self, source: str) -> None:
        """Open a docket in place; the one that was open closes."""
        self._open = "" if self._open == source else source
        self.show_job(self._job)

    def card(self, source: str) -> SourceCard | None:
        return self._cards.get(source)
