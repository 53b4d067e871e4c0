"""The in-tray: its cards in order, one docket open, drops anywhere on it."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QCoreApplication, QEvent, QTimer, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget
from typing_extensions import override

from waxseal.app.look.card_lane import Lane
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.lazy_docket import LazySection
from waxseal.app.look.widgets import button, label, row_of
from waxseal.app.pictures import Pictures
from waxseal.app.tray import tray_texts
from waxseal.app.tray.card_filter import CardFilter
from waxseal.app.tray.source_words import health_words
from waxseal.core.job.edits import count_alike, near_rate
from waxseal.core.job.model import Job, Sequence, Sound
from waxseal.core.plan.recipe_differences import reel_differences, sound_against
from waxseal.core.text_format import counted

if TYPE_CHECKING:  # imported when there is something to show, so that the window starts sooner
    from waxseal.app.tray.job_defaults import HabitsDocket
    from waxseal.app.tray.source_card import More, SourceCard

__all__ = ["Tray"]

CARD_TALL = 62  # pixels


class Tray(Lane["SourceCard"]):
    opened = Signal(bool)  # whether a docket is open
    add_asked = Signal()
    demo_asked = Signal()
    menu_asked = Signal(str, object)
    chosen = Signal(str)
    frame_asked = Signal(str, int)
    poster_asked = Signal(str, int)
    compare_asked = Signal(str)
    see_asked = Signal()

    def __init__(self, pictures: Pictures, pen: Pen) -> None:
        super().__init__(CARD_TALL)
        self._pen = pen
        add = button(self.tr("+ Add &frames"), self.add_asked.emit, "word")
        self.put_head(self.tr("IN-TRAY"), add)
        self.habits = LazySection(self._make_habits, lambda docket: docket.show_job(self._job))
        self.column.addWidget(self.habits)
        self.sifting = CardFilter()
        self.sifting.changed.connect(self._sift)
        self.column.addWidget(self.sifting)
        self._pictures = pictures
        self._notes: dict[str, str] = {}
        self._coming: dict[str, str] = {}
        self._job = Job()
        self._by_id: dict[str, Sequence | Sound] = {}
        self._open = ""
        self._alike: tuple[object, str, int] = (
            (),
            "",
            0,
        )  # among which sources, to which, how many
        self._empty = self._empty_state()
        self.column.addWidget(self._empty)
        self.column.addWidget(self.area, 1)

    def _empty_state(self) -> QWidget:
        empty = QWidget()
        column = QVBoxLayout(empty)
        column.setContentsMargins(6, 24, 14, 8)
        column.setSpacing(12)
        column.addWidget(label(self.tr(tray_texts.DROP_A_FOLDER_OF_RENDERED), "strong", wraps=True))
        column.addWidget(
            label(
                self.tr(tray_texts.PICTURES_ARE_READ_AS_SEQUENCES),
                "quiet",
                wraps=True,
            )
        )
        column.addLayout(row_of(button(self.tr("Choose a folder…"), self.add_asked.emit), 1))
        column.addLayout(row_of(button(self.tr("Open the demo"), self.demo_asked.emit), 1))
        column.addStretch(1)
        return empty

    def _make_habits(self) -> HabitsDocket:
        from waxseal.app.tray.job_defaults import HabitsDocket

        return HabitsDocket(self._pen)

    def show_job(self, job: Job) -> None:
        self._job = job
        self._by_id = {source.id: source for source in job.sources}
        shown = self.sifting.sift(job, self._open)
        self.show_cards(shown, self._open, has_changed=True)
        self.habits.refresh()
        self._empty.setVisible(not job.sources)
        self.area.setVisible(bool(job.sources))

    def _sift(self) -> None:
        self.show_cards(self.sifting.sift(self._job, self._open), self._open)

    @override
    def fill_card(self, wanted: str, card: SourceCard) -> None:
        source = self._by_id[wanted]
        is_open = source.id == self._open
        job = self._job if is_open else None
        more = self._more_about(source, is_open=is_open)
        card.show_source(source, is_open=is_open, note=self._note_of(source.id), more=more, job=job)

    def _passes_words(self, source: str) -> str:
        """How many passes fold under it, and how many of them need attention: short, then whole."""
        passes = [self._by_id[one] for one in self.sifting.passes_of(source)]
        if not passes:
            return ""
        words = counted(len(passes), self.tr("pass"), self.tr("passes"))
        in_need = sum(
            isinstance(one, Sequence) and health_words(one)[1] != "good" for one in passes
        )
        words += self.tr(", {0} to check").format(in_need) if in_need else ""
        return f"+ {len(passes)}{'!' if in_need else ''}\n{words}"

    def _note_of(self, source: str) -> str:
        return self._notes.get(source) or self._coming.get(source, "")

    def _more_about(self, source: Sequence | Sound, *, is_open: bool) -> More:
        from waxseal.app.tray.source_card import More

        if isinstance(source, Sound):
            return More(remarks=(sound_against(self._job, source),))
        rate = self._job.reel_rate if self._job.reel.shots else None
        more = More(reel_rate=rate, passes=self._passes_words(source.id))
        if not is_open:
            return more
        return replace(  # what only an open docket shows
            more,
            alike=self._count_alike(source.id),
            remarks=reel_differences(self._job, source),
            near=near_rate(self._job, source.id),
        )

    def _count_alike(self, source: str) -> int:
        """Asked again only where sources have changed: all of them are looked at."""
        sources, asked, _ = self._alike
        if asked != source or sources != self._job.sources:
            self._alike = (self._job.sources, source, count_alike(self._job, like=source))
        return self._alike[2]

    @override
    def make_card(self, wanted: str) -> SourceCard:
        from waxseal.app.tray.source_card import SourceCard

        card = SourceCard(self._by_id[wanted], self._pictures, self._pen)
        card.toggled.connect(self.toggle)
        card.chosen.connect(self.chosen)
        card.menu_asked.connect(self.menu_asked)
        card.frame_asked.connect(self.frame_asked)
        card.poster_asked.connect(self.poster_asked)
        card.compare_asked.connect(self.compare_asked)
        card.see_asked.connect(self.see_asked)
        card.unfold_asked.connect(self.sifting.unfold)
        self.fill_card(wanted, card)
        return card

    def note(self, source: str, text: str) -> None:
        """A word on a card for a while: that it is being looked at."""
        self._say_on(source, self._notes, text)

    def note_coming(self, source: str, text: str) -> None:
        """A word on a card while its frames are on their way; being looked at comes before it."""
        self._say_on(source, self._coming, text)

    def _say_on(self, source: str, words: dict[str, str], text: str) -> None:
        if text:
            words[source] = text
        else:
            words.pop(source, None)
        if source in self.cards and source in self._by_id:
            self.fill_card(source, self.cards[source])

    def say_compared(self, source: str, words: str) -> None:
        """How the passes of a source compare with its beauty."""
        card = self.cards.get(source)
        if card is not None and card.stack is not None:
            card.stack.say(words)

    def look_anew(self, source: str) -> None:
        card = self.cards.get(source)
        if card is not None:
            card.look_anew()

    def show_docket(self, source: str) -> None:
        """Open a source's docket and bring it into sight."""
        if self._open != source:
            self.toggle(source)
        QTimer.singleShot(0, partial(self._bring_into_sight, source))

    def _bring_into_sight(self, source: str) -> None:
        card = self.card(source)
        if card is None:
            return
        # A docket that has just been opened gets its height first.
        QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest)
        bar = self.area.verticalScrollBar()
        if card.height() > self.area.viewport().height():
            bar.setValue(card.y())
        else:
            self.area.ensureWidgetVisible(card, 0, 0)
        card.setFocus()

    def close_all(self) -> None:
        """Another job: no docket stays open."""
        self._open = ""
        self.opened.emit(False)
        self.sifting.begin()

    def toggle_habits(self) -> None:
        self.habits.toggle()
        self.opened.emit(not self.habits.isHidden())

    def close_docket(self) -> None:
        if not self.habits.isHidden():
            self.toggle_habits()
        if self._open:
            self.toggle(self._open)

    def toggle(self, source: str) -> None:
        """Open a docket in place; the one that was open closes."""
        before, self._open = self._open, "" if self._open == source else source
        self.opened.emit(bool(self._open))
        self._sift()
        self.open_card(self._open, before)
