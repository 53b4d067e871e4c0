"""The docket of a sound on the reel: its place, its ends, its level, and how it is heard here."""

from __future__ import annotations

from fractions import Fraction
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.key_widgets import Choice
from waxseal.app.look.widgets import Field, button, check
from waxseal.app.reel_view import reel_texts
from waxseal.app.reel_view.shot_sections import Section
from waxseal.core.job.edits import bind_sound, change_sound, lift_sound
from waxseal.core.job.model import Job, LaidSound, Retimed, SoundCurve, SoundFade, change
from waxseal.core.job.soundtracks import frames_of
from waxseal.core.plan.sound_ties import free_sound, tie_sound, trim_sound
from waxseal.core.plan.timeline import Timeline
from waxseal.core.timing.parse_length import parse_exact, parse_seconds

__all__ = ["SoundDocket"]


class SoundDocket(QWidget):
    """listen_asked: `muted` or `alone`, and whether it shall be so.

    line_up_asked: its clap shall be with the flash of the picture.
    """

    listen_asked = Signal(str, bool)
    line_up_asked = Signal()

    def __init__(self, laid: str, name: str, pen: Pen) -> None:
        super().__init__()
        self.setObjectName("soundDocket")
        self._place = PlaceSection(laid, name, pen)
        self._place.line_up_asked.connect(self.line_up_asked)
        self._level = LevelSection(laid, name, pen)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self._place)
        column.addWidget(self._level)
        self._muted = check(self.tr("muted"), partial(self.listen_asked.emit, "muted"))
        self._alone = check(self.tr("heard alone"), partial(self.listen_asked.emit, "alone"))
        listening = Section(self.tr("Listening"), laid, name, pen)
        for box in (self._muted, self._alone):
            box.setToolTip(self.tr(reel_texts.LISTENING_ONLY))
            listening.add("", box)
        column.addWidget(listening)

    def show_listening(self, is_muted: bool, is_alone: bool) -> None:
        self._muted.setChecked(is_muted)
        self._alone.setChecked(is_alone)

    def show_timeline(self, timeline: Timeline) -> None:
        self._place.show_timeline(timeline)
        self._level.show_timeline(timeline)


class SoundSection(Section):
    """What both sections have in common."""

    def say(self, name: str, value: object, merges: str = "") -> None:
        change = partial(change_sound, sound=self.of, **{name: value})  # type: ignore[arg-type]
        self.ask(name.replace("_", " "), change, merges)

    def say_number(self, name: str, value: float) -> None:
        self.say(name, value, f"{name} {self.of}")

    def laid_in(self, job: Job) -> LaidSound:
        return job.laid_sound(self.of)


class PlaceSection(SoundSection):
    """From where, what of it, and what it goes with."""

    line_up_asked = Signal()

    def __init__(self, of: str, name: str, pen: Pen) -> None:
        super().__init__(self.tr("Place"), of, name, pen)
        self._at = self.field("sound from", parse_exact, 82)
        self._at.said.connect(self._say_at)
        self._head = self.field("sound head", parse_seconds, 64)
        self._head.said.connect(partial(self._say_end, "head"))
        self._tail = self.field("sound tail", parse_seconds, 64)
        self._tail.said.connect(partial(self._say_end, "tail"))
        for field in (self._head, self._tail):
            field.setToolTip(self.tr(reel_texts.SECONDS_LEFT_OUT))
        self._loops = check(self.tr("again and again"), partial(self.say, "loops"))
        self._retimed = self.choice("retimed", Retimed)
        self._retimed.setToolTip(self.tr(reel_texts.AT_ANOTHER_SPEED))
        self._retimed.activated.connect(self._say_retimed)
        self._turned = check(self.tr(reel_texts.HEARD_BACKWARDS), partial(self.say, "turned"))
        self._bind = button(self.tr(reel_texts.BIND_TO_ITS_SHOT), self._ask_bind, "word")
        self._free = button(self.tr(reel_texts.SET_FREE), self._ask_free, "word")
        self._tie = button(self.tr(reel_texts.TIE_TO_THE_SHOT), self._ask_tie, "word")
        self._placed = button(self.tr(reel_texts.LIES_WHERE_IT_SHOULD), self._ask_placed, "word")
        self.add(self.tr("from frame"), self._at)
        self.add(self.tr("without the first"), self._head)
        self.add(self.tr("and the last"), self._tail)
        self._of_free = self.add("", self._loops)
        self._of_bound = (
            self.add(self.tr("at another speed"), self._retimed),
            self.add("", self._turned),
        )
        for act in (self._bind, self._free, self._tie, self._placed):
            self.add("", act)
        line_up = button(self.tr(reel_texts.LINE_UP), self.line_up_asked.emit, "word")
        line_up.setToolTip(self.tr(reel_texts.CLAP_AND_FLASH))
        self.add("", line_up)
        self.add("", button(self.tr(reel_texts.TAKE_OFF_IT), self._ask_off, "word"))

    def show_timeline(self, timeline: Timeline) -> None:
        job = timeline.job
        laid = self.laid_in(job)
        own = frames_of(job, job.sound(laid.source))
        is_own_on_reel = own is not None and any(one.source == own.id for one in job.reel.shots)
        self._at.show_text(exact_words(laid.at))
        tip = reel_texts.FRAMES_OF_ITS_SOURCE if laid.bound else reel_texts.FRAMES_OF_THE_REEL
        tip = reel_texts.FRAMES_OF_ITS_SHOT if laid.shot and not laid.bound else tip
        self._at.setToolTip(self.tr(tip))
        self._head.show_text(exact_words(laid.head))
        self._tail.show_text(exact_words(laid.tail))
        self._loops.setChecked(laid.loops)
        self._retimed.setCurrentIndex(self._retimed.findData(laid.retimed))
        self._turned.setChecked(laid.turned)
        self._of_free.setVisible(not laid.bound)
        for holder in self._of_bound:
            holder.setVisible(laid.bound)
        show_act(self._bind, is_shown=not laid.bound and is_own_on_reel)
        show_act(self._free, is_shown=not laid.is_free)
        show_act(self._tie, is_shown=laid.is_free)
        show_act(self._placed, is_shown=laid.is_free and is_own_on_reel and not laid.placed)

    def _say_at(self, at: Fraction) -> None:
        change = partial(change_sound, sound=self.of, at=at, placed=True)
        self.ask(self.tr("from frame"), change)

    def _say_end(self, end: str, seconds: Fraction) -> None:
        change = partial(trim_sound, sound=self.of, **{end: seconds})  # type: ignore[arg-type]
        self.ask(end, change)

    def _say_retimed(self, _index: int) -> None:
        self.say("retimed", self._retimed.currentData())

    def _ask_off(self) -> None:
        self.ask(self.tr(reel_texts.TAKE_THE_SOUND_OFF), partial(lift_sound, sound=self.of))

    def _ask_bind(self) -> None:
        self.ask(self.tr(reel_texts.BIND_TO_ITS_SHOT), partial(bind_sound, sound=self.of))

    def _ask_free(self) -> None:
        self.ask(self.tr(reel_texts.SET_FREE), partial(free_sound, sound=self.of))

    def _ask_tie(self) -> None:
        self.ask(self.tr(reel_texts.TIE_TO_THE_SHOT), partial(tie_sound, sound=self.of))

    def _ask_placed(self) -> None:
        change = partial(change_sound, sound=self.of, placed=True)
        self.ask(self.tr(reel_texts.LIES_WHERE_IT_SHOULD), change)


class LevelSection(SoundSection):
    """Gain, pan, fades, and under what it ducks."""

    def __init__(self, of: str, name: str, pen: Pen) -> None:
        super().__init__(self.tr("Level"), of, name, pen)
        self._gain = self.scrub(self.tr("gain dB"), "gain", -100, 30, 0.5)
        self._gain.said.connect(partial(self.say_number, "gain"))
        self._pan = self.scrub(self.tr("pan %"), "pan", -100, 100, 5)
        self._pan.setToolTip(self.tr(reel_texts.PAN))
        self._pan.said.connect(lambda value: self.say_number("pan", value / 100))
        self.add("", self._gain)
        self.add("", self._pan)
        self._laid = LaidSound(source="s")
        self._in, self._in_curve = self._fade("fade_in", self.tr("fade in"))
        self._out, self._out_curve = self._fade("fade_out", self.tr("fade out"))
        self._under = Choice()
        self._under.setObjectName("under")
        self._under.setAccessibleName(self.tr("under"))
        self._under.activated.connect(self._say_under)
        self._duck = self.scrub(self.tr("by dB"), "duck", 0, 100, 1)
        self._duck.said.connect(partial(self.say_number, "duck"))
        self._of_others = self.add(self.tr("quieter under"), self._under)
        self._by = self.add("", self._duck)

    def _fade(self, name: str, words: str) -> tuple[Field, Choice]:
        seconds = self.field(name, parse_seconds, 56)
        seconds.setToolTip(self.tr(reel_texts.FADE_SECONDS))
        curve = self.choice(f"{name} curve", SoundCurve)
        seconds.said.connect(lambda value: self._say_fade(name, seconds=value))
        curve.activated.connect(lambda _: self._say_fade(name, curve=curve.currentData()))
        self.add(words, seconds, curve)
        return seconds, curve

    def _say_fade(self, name: str, **values: object) -> None:
        before: SoundFade = getattr(self._laid, name)
        fade = change(before, **values)
        self.say(name, fade)

    def show_timeline(self, timeline: Timeline) -> None:
        job = timeline.job
        self._laid = laid = self.laid_in(job)
        self._gain.show_value(laid.gain)
        self._pan.show_value(laid.pan * 100)
        for field, curve, fade in (
            (self._in, self._in_curve, laid.fade_in),
            (self._out, self._out_curve, laid.fade_out),
        ):
            field.show_text(exact_words(fade.seconds))
            curve.setCurrentIndex(curve.findData(fade.curve))
        self._show_others(job, laid)
        self._duck.show_value(laid.duck)

    def _show_others(self, job: Job, laid: LaidSound) -> None:
        others = [one for one in job.reel.sounds if one.id != laid.id]
        self._under.clear()
        self._under.addItem(self.tr("nothing"), "")
        for one in others:
            self._under.addItem(job.sound(one.source).name, one.id)
        self._under.setCurrentIndex(max(0, self._under.findData(laid.under)))
        self._of_others.setVisible(bool(others))
        self._by.setVisible(bool(laid.under))

    def _say_under(self, _index: int) -> None:
        self.say("under", self._under.currentData())


def exact_words(number: Fraction) -> str:
    """As short as it is exact, to a millionth."""
    return f"{float(number):.6f}".rstrip("0").rstrip(".")


def show_act(act: QWidget, is_shown: bool) -> None:
    holder = act.parentWidget()
    if holder is not None:
        holder.setVisible(is_shown)
