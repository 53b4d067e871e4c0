"""Sections of a docket on the reel: how a picture sits in the frame, and in time."""

from __future__ import annotations

from fractions import Fraction
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.flow_layout import Flow
from waxseal.app.look.key_widgets import Choice
from waxseal.app.look.scrub_field import Scrub
from waxseal.app.look.text_scale import px
from waxseal.app.look.widgets import Elided, Field, button, check, label, restyle, row_of
from waxseal.app.reel_view import reel_texts
from waxseal.app.reel_view.trim_bar import trim_edit
from waxseal.core.deliver.format.delivery_settings import has_subjects
from waxseal.core.errors import WrongUse
from waxseal.core.job.edits import (
    change_placing,
    change_timing,
    copy_framing,
    set_framing,
    set_length,
    set_subject,
)
from waxseal.core.job.model import Conversion, Framing, Overlay, Scaling, Sequence, Shot, Size, Turn
from waxseal.core.picture.framing import framing_words, is_framed_whole
from waxseal.core.plan.timeline import Timeline, length_of, order_of
from waxseal.core.timing.parse_length import parse_frames, parse_number
from waxseal.core.timing.ranges import parse_pieces, write_frames
from waxseal.core.timing.rate_matching import conversion_words
from waxseal.core.timing.rates import rate_words

__all__ = ["FrameSection", "Section", "TimeSection"]

TITLE_WIDTH = 60


class Section(QWidget):
    """Fields of one shot or overlay under a word; shows it again without being made anew."""

    def __init__(self, title: str, of: str, name: str, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self.of, self.name = of, name
        self._flow = Flow()
        fields = QWidget()
        fields.setLayout(self._flow)
        word = label(title, "name")
        word.setFixedWidth(px(TITLE_WIDTH))
        line = row_of(word, fields)
        line.setStretch(1, 1)
        line.setAlignment(word, Qt.AlignmentFlag.AlignTop)
        word.setFixedHeight(px(26))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(line)
        self._remark = Elided("", "quiet")
        self._remark.hide()
        column.addWidget(self._remark)

    def add(self, words: str, *widgets: QWidget) -> QWidget:
        holder = QWidget()
        named = [label(words, "quiet")] if words else []
        holder.setLayout(row_of(*named, *widgets, gap=4))
        self._flow.addWidget(holder)
        return holder

    def remark(self, words: str, tone: str = "heed") -> None:
        self._remark.setVisible(bool(words))
        if self._remark.objectName() != tone:
            self._remark.setObjectName(tone)
            restyle(self._remark)
        self._remark.say(words)

    def ask(self, words: str, change: object, merges: str = "") -> None:
        self._pen.ask(f"{self.name}: {words}", change, merges)

    def scrub(self, words: str, name: str, least: float, most: float, step: float) -> Scrub:
        made = Scrub(words, 0, least=least, most=most, step=step, usual=0, name=name)
        made.settled.connect(self._pen.settled)
        made.wrong.connect(self._pen.complained)
        return made

    def field(self, name: str, turn: object, width: int) -> Field:
        made = Field("", name, turn)  # type: ignore[arg-type]
        made.setObjectName(name)
        made.setFixedWidth(px(width))
        made.wrong.connect(self._pen.complained)
        return made

    def choice(self, name: str, values: object) -> Choice:
        box = Choice()
        box.setObjectName(name)
        box.setAccessibleName(name)
        for value in values:  # type: ignore[attr-defined]
            box.addItem(value.value, value)
        return box


class FrameSection(Section):
    """Framing, and what is done on top of it."""

    def __init__(self, of: str, name: str, pen: Pen, *, is_shot: bool) -> None:
        super().__init__(self.tr("Frame"), of, name, pen)
        self._framing = self.choice("framing", Framing)
        self._framing.activated.connect(self._say_framing)
        self._scale = Scrub(
            self.tr("scale %"), 100, least=1, most=10_000, step=1, usual=100, name="scale"
        )
        self._x = self.scrub(self.tr("right"), "x", -100_000, 100_000, 1)
        self._y = self.scrub(self.tr("down"), "y", -100_000, 100_000, 1)
        for scrub, value in ((self._scale, "scale"), (self._x, "x"), (self._y, "y")):
            scrub.said.connect(partial(self._say_number, value))
            scrub.settled.connect(self._pen.settled)
        self._subject: list[tuple[Scrub, QWidget]] = []
        self._turn = self.choice("turn", Turn)
        self._turn.activated.connect(self._say_turn)
        self._scaling = self.choice("scaling", Scaling)
        self._scaling.setToolTip(self.tr(reel_texts.SHARP_IS_FOR_PICTURES))
        self._scaling.activated.connect(self._say_scaling)
        self._mirrored = check(self.tr("mirrored"), self._say_mirrored)
        self.add(self.tr("Framing"), self._framing)
        for scrub in (self._scale, self._x, self._y):
            self.add("", scrub)
        self.add(self.tr("turned"), self._turn)
        self.add("", self._mirrored)
        self.add(self.tr("scaled"), self._scaling)
        if is_shot:
            for way, words in (
                ("across", self.tr("keeps across %")),
                ("down", self.tr("keeps down %")),
            ):
                scrub = Scrub(words, 50, least=0, most=100, step=1, usual=50, name=f"keeps {way}")
                scrub.setToolTip(self.tr(reel_texts.STAYS_IN_THE_MIDDLE))
                scrub.said.connect(partial(self._say_subject, way))
                scrub.settled.connect(self._pen.settled)
                scrub.wrong.connect(self._pen.complained)
                self._subject.append((scrub, self.add("", scrub)))
            self.add("", button(self.tr(reel_texts.FRAME_ALL_SHOTS_ALIKE), self._share, "word"))

    def show_laid(self, laid: Shot | Overlay, source: Sequence, timeline: Timeline) -> None:
        placing = laid.placing
        self._framing.setCurrentIndex(self._framing.findData(laid.framing))
        self._scale.show_value(placing.scale * 100)
        self._x.show_value(placing.x)
        self._y.show_value(placing.y)
        self._turn.setCurrentIndex(self._turn.findData(placing.turn))
        self._mirrored.setChecked(placing.mirrored)
        is_cut = any(map(has_subjects, timeline.job.deliveries))
        if isinstance(laid, Shot):
            at = (laid.subject.x, laid.subject.y)
            for (scrub, holder), share in zip(self._subject, at, strict=True):
                scrub.show_value(share * 100)
                holder.setVisible(is_cut)
        self._scaling.setCurrentIndex(self._scaling.findData(placing.scaling))
        words, is_whole = size_words(laid, source, timeline.size)
        self.remark(words, "quiet" if is_whole else "heed")

    def _say_framing(self, _index: int) -> None:
        framing = self._framing.currentData()
        words = self.tr("framing {0}").format(framing)
        self.ask(words, partial(set_framing, shot=self.of, framing=framing))

    def _say_number(self, name: str, value: float) -> None:
        given = value / 100 if name == "scale" else round(value)
        change = partial(change_placing, of=self.of, **{name: given})  # type: ignore[arg-type]
        self.ask(self.tr(reel_texts.PLACE_IN_THE_FRAME), change, f"{self.of} {name}")

    def _say_subject(self, way: str, value: float) -> None:
        share = value / 100
        across, down = (share, None) if way == "across" else (None, share)
        keep = partial(set_subject, shot=self.of, across=across, down=down)
        self.ask(self.tr("what is kept"), keep, f"{self.of} keeps {way}")

    def _say_turn(self, _index: int) -> None:
        turn = self._turn.currentData()
        words = self.tr("turned {0}").format(turn)
        self.ask(words, partial(change_placing, of=self.of, turn=turn))

    def _say_scaling(self, _index: int) -> None:
        scaling = self._scaling.currentData()
        words = self.tr("scaled {0}").format(scaling)
        self.ask(words, partial(change_placing, of=self.of, scaling=scaling))

    def _say_mirrored(self, on: bool) -> None:
        self.ask(self.tr("mirrored"), partial(change_placing, of=self.of, mirrored=on))

    def _share(self) -> None:
        self.ask(self.tr(reel_texts.ALL_SHOTS_FRAMED_ALIKE), partial(copy_framing, of=self.of))


def size_words(laid: Shot | Overlay, source: Sequence, frame: Size) -> tuple[str, bool]:
    """What framing and placing do, where it is anything, and whether the picture stays whole.

    For example `1280 × 720 → 640 × 640: fits: …`.
    """
    size = source.shown_size
    shape = (size.width, size.height)
    if laid.placing.turn.quarters % 2:
        shape = shape[::-1]
    into = (frame.width, frame.height)
    words = framing_words(shape, into, laid.framing, laid.placing)
    is_whole = is_framed_whole(shape, into, laid.framing, laid.placing)
    is_same = size == frame and words == framing_words(shape, shape, laid.framing)
    return ("" if is_same else f"{size} → {frame}: {words}"), is_whole


class TimeSection(Section):
    """Head, tail, order, speed."""

    def __init__(self, of: str, name: str, pen: Pen) -> None:
        super().__init__(self.tr("Time"), of, name, pen)
        self._count = 0
        self._rate = Fraction(24)
        self._head = self.field("head", parse_frames, 58)
        self._tail = self.field("tail", parse_frames, 58)
        self._head.said.connect(partial(self._say_end, "head"))
        self._tail.said.connect(partial(self._say_end, "tail"))
        self._speed = self.field("speed", parse_speed, 58)
        self._speed.said.connect(partial(self._say, "speed"))
        self._speed.setToolTip(self.tr(reel_texts.OF_THE_RATE_THAT_IT_IS_READ))
        self._length = self.field("length", self._frames, 58)
        self._length.said.connect(self._say_length)
        self._length.setToolTip(self.tr(reel_texts.REEL_FRAMES_THE_SPEED_FOLLOWS))
        self._conversion = self.choice("conversion", Conversion)
        self._conversion.activated.connect(self._say_conversion)
        self._without = self.field("without", parse_pieces, 82)
        self._without.said.connect(partial(self._say, "without"))
        self._without.setToolTip(self.tr(reel_texts.SOURCE_FRAMES_THAT_ARE_LEFT))
        self._holds = self.field("holds", parse_holds, 82)
        self._holds.said.connect(partial(self._say, "holds"))
        self._holds.setToolTip(self.tr(reel_texts.HELD_FRAMES))
        self._backwards = check(self.tr("backwards"), partial(self._say, "backwards"))
        self._to_and_fro = check(self.tr("to and fro"), partial(self._say, "to_and_fro"))
        self._times = self.field("times", self._whole, 40)
        self._times.said.connect(partial(self._say, "times"))
        before = (
            self.add(self.tr("Head"), self._head),
            self.add(self.tr("Tail"), self._tail),
            self.add(self.tr("speed"), self._speed),
        )
        self.add(self.tr("length"), self._length)
        after = (
            self.add(self.tr("between"), self._conversion),
            self.add(self.tr("left out"), self._without),
            self.add(self.tr("held"), self._holds),
            self.add("", self._backwards),
            self.add("", self._to_and_fro),
            self.add(self.tr("times"), self._times),
        )
        self._of_moving = before + after

    def show_laid(self, laid: Shot | Overlay, source: Sequence, timeline: Timeline) -> None:
        """Of a still only its length means something; that of an overlay stands elsewhere."""
        is_still = source.kind == "still"
        for holder in self._of_moving:
            holder.setVisible(not is_still)
        self.setVisible(not (is_still and isinstance(laid, Overlay)))
        timing = laid.timing
        self._rate = timeline.rate
        self._count = len(order_of(laid, source))
        self._head.show_text(str(laid.first))
        self._tail.show_text(str(laid.last))
        self._speed.show_text(speed_words(timing.speed))
        self._length.show_text(str(length_of(laid, source, timeline.rate)))
        self._conversion.setCurrentIndex(self._conversion.findData(timing.conversion))
        left_out = [n for low, high in timing.without for n in range(low, high + 1)]
        self._without.show_text(write_frames(left_out) if left_out else "")
        self._holds.show_text(", ".join(f"{frame}×{times}" for frame, times in timing.holds))
        self._backwards.setChecked(timing.backwards)
        self._to_and_fro.setChecked(timing.to_and_fro)
        self._times.show_text(str(timing.times))
        rate = source.reading.rate.value * timing.speed
        words = conversion_words(rate, timeline.rate, len(order_of(laid, source)))
        is_told = bool(words) and not is_still
        self.remark(f"{rate_words(rate)} → {rate_words(timeline.rate)}: {words}" if is_told else "")

    def _frames(self, text: str) -> int:
        return parse_frames(text, self._rate)

    def _whole(self, text: str) -> int:
        return parse_frames(text)

    def _say(self, name: str, value: object) -> None:
        change = partial(change_timing, of=self.of, **{name: value})  # type: ignore[arg-type]
        self.ask(name.replace("_", " "), change)

    def _say_end(self, which: str, frame: int) -> None:
        self._pen.asked.emit(trim_edit(self.of, self.name, which, frame))

    def _say_length(self, frames: int) -> None:
        change = partial(set_length, of=self.of, frames=frames, count=self._count)
        self.ask(self.tr("{0} frames long").format(frames), change)

    def _say_conversion(self, _index: int) -> None:
        self._say("conversion", self._conversion.currentData())


def parse_speed(text: str) -> Fraction:
    """`50 %`, `50`, `24/25`, exact. Raises WrongUse."""
    plain = text.replace("%", "").strip()
    try:
        if "/" in plain:
            return Fraction(plain)
        return Fraction(plain.replace(",", ".")) / 100
    except (ValueError, ZeroDivisionError):
        raise WrongUse(f"“{text}” is not a speed: write 50 % or 24/25.") from None


def speed_words(speed: Fraction) -> str:
    percent = speed * 100
    return f"{percent} %" if percent.denominator == 1 else str(speed)


def parse_holds(text: str) -> tuple[tuple[int, int], ...]:
    """`24×12, 48x6`: a frame and how often it is shown. Raises WrongUse."""
    found = []
    for pair in text.replace("×", "x").split(","):
        if not pair.strip():
            continue
        frame, mark, times = pair.partition("x")
        if not mark:
            raise WrongUse("Write a frame and how often it is shown: 24×12, 48×6")
        found.append((int(parse_number(frame)), int(parse_number(times))))
    return tuple(found)
