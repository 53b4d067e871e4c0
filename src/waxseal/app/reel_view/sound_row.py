"""A sound's row of the ledger: where it is heard on the reel, and its docket."""

from __future__ import annotations

from fractions import Fraction
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout
from typing_extensions import override

from waxseal.app.look.card_frame import Card
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.text_scale import px
from waxseal.app.look.tooltips import set_tip
from waxseal.app.look.waveform import Peaks
from waxseal.app.look.widgets import Elided, discard, label, restyle
from waxseal.app.reel_view import reel_texts
from waxseal.app.reel_view.ledger_columns import AHEAD, LEFT, RIGHT, fit, give_way, tr
from waxseal.app.reel_view.sound_bar import SoundBar
from waxseal.app.reel_view.sound_docket import SoundDocket
from waxseal.core.job.edits import lift_sound
from waxseal.core.job.model import LaidSound, Sound
from waxseal.core.plan.sound_notes import place_words
from waxseal.core.plan.sound_spans import span_of
from waxseal.core.plan.sound_ties import move_sound, nudge_sound, trim_sound
from waxseal.core.plan.timeline import Timeline
from waxseal.core.text_format import numbered

__all__ = ["SoundRow"]

BOUND, FREE = "▼", "○"  # a weight on a line; a ring


class SoundRow(Card):
    """toggled: its docket shall open or close, by the sound's id on the reel.

    listen_asked: whether it shall be left out, or heard alone, while somebody listens.
    """

    toggled = Signal(str)
    listen_asked = Signal(str, str, bool)
    line_up_asked = Signal(str)

    def __init__(self, laid: str, peaks: Peaks, pen: Pen) -> None:
        super().__init__()
        self.setObjectName("row")
        self.laid, self._pen = laid, pen
        self._sound: Sound | None = None
        self._timeline: Timeline | None = None
        self._docket: SoundDocket | None = None
        self._is_open = False
        self._listening = (False, False)  # muted, alone
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(AHEAD, 2, 0, 2)
        self._column.setSpacing(2)
        line = QHBoxLayout()
        line.setSpacing(8)
        self._column.addLayout(line)
        self._sign = label("", "quiet")
        self._sign.setFixedWidth(px(LEFT["number"]))
        kind = label(self.tr("sound"), "small")
        kind.setFixedWidth(px(LEFT["picture"]))
        self._name = Elided("", "name")
        self._name.setFixedWidth(px(LEFT["name"]))
        self.bar = SoundBar(laid, peaks)
        self.bar.moved.connect(self._move)
        self.bar.trimmed.connect(self._trim)
        self.bar.settled.connect(pen.settled)
        self._where, self._length, self._gain = (label("") for _ in RIGHT)
        for left in (self._sign, kind, self._name):
            line.addWidget(left)
        line.addWidget(self.bar, 1)
        cells: tuple[QLabel, ...] = (self._where, self._length, self._gain)
        for cell, column in zip(cells, RIGHT, strict=True):
            fit(cell, column.width)
            line.addWidget(cell)
        give_way(self, cells)
        self.opened.connect(partial(self.toggled.emit, laid))

    def show_timeline(self, timeline: Timeline, *, is_open: bool) -> None:
        job = timeline.job
        laid = job.laid_sound(self.laid)
        sound = job.sound(laid.source)
        self._timeline, self._sound = timeline, sound
        self._sign.setText(BOUND if laid.bound else FREE)
        self._name.say(sound.name)
        where = place_words(timeline, laid) or self.tr("{0} from frame 1").format(sound.name)
        self.setAccessibleName(self.tr("Sound {0}").format(where))
        set_tip(
            self._sign, self.tr(reel_texts.IT_IS_BOUND if laid.bound else reel_texts.IT_IS_FREE)
        )
        self._where.setText(where_words(timeline, laid))
        span = span_of(timeline, laid)
        seconds = float(span.last - max(span.first, Fraction(0))) if span is not None else 0.0
        self._length.setText(f"{seconds:.3f} s")
        gain = f"{numbered(laid.gain, 1)} dB" if laid.gain else ""
        self._gain.setText(self._heard_words() or gain)
        self.bar.show_timeline(timeline)
        self._show_docket(timeline, is_open=is_open)

    def show_listening(self, *, is_muted: bool, is_alone: bool) -> None:
        """Show whether it is muted or heard alone here; a delivery ignores both."""
        self._listening = (is_muted, is_alone)
        if self._timeline is not None:
            self.show_timeline(self._timeline, is_open=self._is_open)

    def _heard_words(self) -> str:
        is_muted, is_alone = self._listening
        return tr("muted here") if is_muted else tr("alone here") if is_alone else ""

    def _show_docket(self, timeline: Timeline, *, is_open: bool) -> None:
        self._is_open = is_open
        self.say_open(is_open=is_open)
        self.setAccessibleDescription(self.tr(reel_texts.KEYS_OF_A_SOUND))
        restyle(self, chosen=is_open or self.hasFocus())
        if not is_open:
            if self._docket is not None:
                discard(self._docket)
                self._docket = None
            return
        if self._docket is None:
            self._docket = SoundDocket(self.laid, self._name.whole, self._pen)
            self._docket.setContentsMargins(26, 2, 0, 6)
            self._docket.listen_asked.connect(partial(self.listen_asked.emit, self.laid))
            self._docket.line_up_asked.connect(partial(self.line_up_asked.emit, self.laid))
            self._column.addWidget(self._docket)
        self._docket.show_timeline(timeline)
        self._docket.show_listening(*self._listening)

    def _ask(self, words: str, change: object, merges: str = "") -> None:
        self._pen.ask(f"{self._name.whole}: {words}", change, merges)

    def _move(self, to: int) -> None:
        change = partial(move_sound, sound=self.laid, to=to)
        self._ask(self.tr("move"), change, f"move {self.laid}")

    def _trim(self, end: str, seconds: Fraction) -> None:
        if end == "head":
            change = partial(trim_sound, sound=self.laid, head=seconds)
        else:
            change = partial(trim_sound, sound=self.laid, tail=seconds)
        self._ask(self.tr("trim"), change, f"trim {end} {self.laid}")

    def _nudge(self, way: int, keys: Qt.KeyboardModifier) -> None:
        if self._timeline is None or self._sound is None:
            return
        step = 1 / self._timeline.rate
        if keys & Qt.KeyboardModifier.ControlModifier:
            step = Fraction(1, self._sound.sample_rate)
        elif keys & Qt.KeyboardModifier.ShiftModifier:
            step = step / 10
        change = partial(nudge_sound, sound=self.laid, seconds=way * step)
        self._ask(self.tr("nudge"), change)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, alt = event.key(), event.modifiers() & Qt.KeyboardModifier.AltModifier
        if key == Qt.Key.Key_Delete:
            self._ask(self.tr(reel_texts.TAKE_THE_SOUND_OFF), partial(lift_sound, sound=self.laid))
        elif alt and key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._nudge(-1 if key == Qt.Key.Key_Left else 1, event.modifiers())
        else:
            super().keyPressEvent(event)


def where_words(timeline: Timeline, laid: LaidSound) -> str:
    """What it goes with, or the frame from which on."""
    if laid.shot:
        return timeline.part_of(laid.shot).sequence.name
    return tr("from {0}").format(f"{float(laid.at):.2f}".rstrip("0").rstrip("."))
