"""A card of the in-tray: three real frames, name, numbers, health, presence line; its docket."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget
from typing_extensions import override

from waxseal.app.look.card_frame import CardWithMenu
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.state_marks import StateMark
from waxseal.app.look.tooltips import set_tip
from waxseal.app.look.waveform import Waveform
from waxseal.app.look.widgets import (
    Elided,
    Strip,
    button,
    discard,
    empty,
    keeping_focus,
    label,
    mark,
    row_of,
)
from waxseal.app.pictures import Pictures, ScreenKey
from waxseal.app.tray.frame_presence import PresenceLine
from waxseal.app.tray.source_docket import SequenceDocket
from waxseal.app.tray.source_words import (
    count_words,
    health_words,
    kind_words,
    length_words,
    sound_words,
)
from waxseal.app.tray.stack_docket import StackDocket
from waxseal.core.job.edits import remove_source
from waxseal.core.job.model import Job, Origin, Sequence, Sound, Stack, change
from waxseal.core.job.passes import PassKind
from waxseal.core.picture.target import PICTURE, Aspect, Inspection
from waxseal.core.plan.frame_picks import source_recipe
from waxseal.core.text_format import plain

__all__ = ["SourceCard"]

THUMB = (160, 90)
THUMB_TALL, STRIP_TALL = 32, 46  # pixels: of a closed card, and of an open one
Shown = tuple[object, ...]


@dataclass(frozen=True, slots=True)
class More:
    """What a card says besides its source.

    reel_rate: the reel's, which is not repeated. passes: what is said of those that fold under
    it: short, and whole. alike, remarks, near: see SequenceDocket.
    """

    reel_rate: Fraction | None = None
    passes: str = ""
    alike: int = 0
    remarks: tuple[str, ...] = ()
    near: Fraction | None = None


class SourceCard(CardWithMenu):
    """toggled: the source's id, to open or close its docket. chosen: to look at it."""

    toggled = Signal(str)
    chosen = Signal(str)
    frame_asked = Signal(str, int)
    poster_asked = Signal(str, int)
    compare_asked = Signal(str)
    see_asked = Signal()
    unfold_asked = Signal(str)

    def __init__(self, source: Sequence | Sound, pictures: Pictures, pen: Pen) -> None:
        super().__init__(source.id)
        self._pen = pen
        self.opened.connect(self._toggle)
        self._pictures = pictures
        pictures.learned.connect(self._ask_again)
        self._wanted: dict[ScreenKey, list[int]] = {}  # the places of each picture: often one
        whole = QVBoxLayout(self)
        whole.setContentsMargins(7, 5, 7, 5)
        whole.setSpacing(0)
        self._column = QVBoxLayout()
        self._column.setSpacing(3)
        whole.addLayout(self._column)
        self._whole = whole
        self.stack: StackDocket | None = None
        self._source: Sequence | Sound | None = None
        self._shown: Shown = ()
        self._more = More()
        self._is_open = False
        self._is_asked = False
        self.note = ""
        self._config = ""
        self.show_source(source, is_open=False)

    def _toggle(self) -> None:
        self.toggled.emit(self.source_id)

    @property
    def source_id(self) -> str:
        return self._source.id if self._source is not None else ""

    def show_source(
        self,
        source: Sequence | Sound,
        *,
        is_open: bool,
        note: str = "",
        more: More | None = None,
        job: Job | None = None,
    ) -> None:
        """Draw the source again if anything about it has changed. job: while it is open."""
        more = more or More()
        self._show_stack(source, job if is_open else None)
        shown = (unstacked(source), is_open, note, more)
        if shown == self._shown:
            self._source = source
            return
        self._shown, self._more = shown, more
        self._config = job.reel.colour.config if job is not None else ""
        self._source, self._is_open, self.note = source, is_open, note
        self.say_open(is_open=is_open)
        with keeping_focus(self):
            empty(self._column)
            if isinstance(source, Sequence):
                self._fill_sequence(source)
            else:
                self._fill_sound(source)

    def _show_stack(self, source: Sequence | Sound, job: Job | None) -> None:
        """The passes have a docket that stays while they are scrubbed."""
        if job is None or not isinstance(source, Sequence):
            if self.stack is not None:
                discard(self.stack)
                self.stack = None
            return
        if self.stack is None:
            self.stack = StackDocket(self._pen)
            self.stack.compare_asked.connect(self.compare_asked)
            self.stack.see_asked.connect(self._see_difference)
            self._whole.addWidget(self.stack)
        self.stack.show_source(source, job)

    def _see_difference(self) -> None:
        self.chosen.emit(self.source_id)
        self.see_asked.emit()

    def look_anew(self) -> None:
        """Its files may be others: ask for its pictures again."""
        self._is_asked = False
        self.update()

    def _fill_sequence(self, source: Sequence) -> None:
        self.setAccessibleName(f"{source.name}, {count_words(source)}")
        more, passes = self._more, self._more.passes
        is_beside = not self._is_open or source.kind == "still"  # the strip beside the words
        health, _ = health_words(source)
        self.spoken = self.note or health
        title = Elided(f"{plain(source.files.pattern)}", "name", middle=True)
        line = length_words(source, more.reel_rate) if is_beside else count_words(source)
        is_guess = source.reading.rate.origin is Origin.GUESS and source.kind == "sequence"
        if self.note and self._is_open:
            self._health: QWidget = mark(self.note, "heed")
        else:
            self._health = health_mark(source, in_words=self._is_open)
        if self.note and not self._is_open:
            line, is_guess = self.note, False
        length = Elided(f"{line}?" if is_guess else line, "heed" if is_guess else "")
        kind = Elided(kind_words(source, is_lead=bool(passes)), "small")
        if not is_beside:
            self._strip = Strip(3, height=STRIP_TALL)
            self._column.addWidget(self._strip)
            beside = self._column
        else:
            self._strip = Strip(1, height=THUMB_TALL)
            line_up = row_of(self._strip)
            beside = QVBoxLayout()
            beside.setSpacing(2)
            line_up.addLayout(beside, 1)
            line_up.setAlignment(self._strip, Qt.AlignmentFlag.AlignTop)
            self._column.addLayout(line_up)
        first = row_of(title)
        first.setStretch(0, 1)
        if passes:
            count, _, said = passes.partition("\n")
            unfold = button(count, partial(self.unfold_asked.emit, source.id), "word")
            unfold.setAccessibleName(said)
            set_tip(unfold, said)
            first.addWidget(unfold)
        beside.addLayout(first)
        second = row_of(length, self._health)
        second.setStretch(0, 1)
        beside.addLayout(second)
        if self._is_open or not source.found.format:
            beside.addWidget(kind)
        self._column.addSpacing(1)
        self._column.addWidget(PresenceLine(source))
        if self._is_open:
            docket = SequenceDocket(
                source,
                self._pen,
                alike=more.alike,
                remarks=more.remarks,
                config=self._config,
                near=more.near,
            )
            docket.frame_asked.connect(self.frame_asked)
            docket.poster_asked.connect(self.poster_asked)
            self._column.addSpacing(6)
            self._column.addWidget(docket)
        self._is_asked = False

    def _ask_again(self) -> None:
        self._is_asked = False
        self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        if not self._is_asked and isinstance(self._source, Sequence):
            self._is_asked = True  # only cards that are in sight have their frames decoded
            self._ask_thumbs(self._source)
        super().paintEvent(event)

    def _fill_sound(self, source: Sound) -> None:
        self.setAccessibleName(source.name)
        wave = Waveform(source)
        wave.setFixedHeight(32)
        self._column.addWidget(wave)
        self._column.addWidget(Elided(source.name, "name", middle=True))
        length, kind = sound_words(source)
        against = " · ".join(("", *filter(None, self._more.remarks)))
        self._column.addWidget(Elided(f"{length}{against}"))
        if source.damage:
            self._column.addWidget(Elided(source.damage, "bad"))
        about, found = Elided(kind, "small"), Elided("", "heed")
        found.hide()

        def show(loud: str, findings: str) -> None:
            about.say(f"{kind} · {loud}" if loud else kind)
            found.say(findings)
            found.setVisible(bool(findings))

        wave.loudness_known.connect(show)
        self._column.addWidget(about)
        self._column.addWidget(found)

    def _ask_thumbs(self, source: Sequence) -> None:
        """First, middle and last of the frames that can be read."""
        self._wanted.clear()
        damaged = source.unreadable
        files = source.files
        if not source.found.format:
            return
        middle = (files.range.first + files.range.last) // 2
        is_long = self._is_open and source.kind != "still"
        wanted = [files.range.first, middle, files.range.last] if is_long else [middle]
        for place, frame in enumerate(wanted):
            shown = nearest_whole(source, frame, damaged)
            if shown is None:
                continue
            recipe = source_recipe(source, shown)
            width, height = THUMB
            if recipe.width * 9 < recipe.height * 16:
                width = max(1, height * recipe.width // recipe.height)
            else:
                height = max(1, width * recipe.height // recipe.width)
            key = self._pictures.ask(
                recipe, width, height, inspection=seen_as(source), tell=self._picture_made
            )
            self._wanted.setdefault(key, []).append(place)
            self._picture_made(key)

    def _picture_made(self, key: ScreenKey) -> None:
        for place in self._wanted.get(key, ()):
            self._strip.show_image(place, self._pictures.get(key))

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete and self.hasFocus() and self._source is not None:
            words = self.tr("take {0} out").format(self._source.name)
            self._pen.ask(words, partial(remove_source, source=self.source_id))
        else:
            super().keyPressEvent(event)

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.chosen.emit(self.source_id)


def health_mark(source: Sequence, *, in_words: bool) -> QWidget:
    """A mark and how many frames it is about, or words; of what is whole, nothing but words."""
    words, tone = health_words(source)
    if in_words:
        return mark(words, tone)
    count = words.split(" ")[0]
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(3)
    if tone != "good":
        row.addWidget(StateMark(tone, words))
        number = label(count if count.isdecimal() else words, tone)
        number.setAccessibleName(words)
        row.addWidget(number)
    holder.setAccessibleName(words)
    set_tip(holder, words)
    return holder


def seen_as(source: Sequence) -> Inspection:
    """Depth is no light: it would be white, or black."""
    is_depth = source.belongs is not None and source.belongs.kind is PassKind.DEPTH
    return Inspection(Aspect.RANGE) if is_depth else PICTURE


def unstacked(source: Sequence | Sound) -> Sequence | Sound:
    """What the card itself shows: of a stack only that it is one."""
    if isinstance(source, Sequence) and source.stack is not None:
        first = source.stack.passes[:1] * len(source.stack.passes)
        return change(source, stack=Stack(passes=first, on=source.stack.on))
    return source


def nearest_whole(source: Sequence, frame: int, damaged: frozenset[int]) -> int | None:
    """The frame itself, or the nearest one that is there and whole, not further than a hundred."""
    for away in range(100):
        for one in (frame - away, frame + away):
            if source.files.has(one) and one not in damaged:
                return one
    return None
