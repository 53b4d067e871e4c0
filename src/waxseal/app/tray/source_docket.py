"""The docket of a sequence: how it is read, where each value comes from, what is wrong."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QGridLayout,
    QInputDialog,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.key_widgets import Choice
from waxseal.app.look.text_scale import px
from waxseal.app.look.tooltips import set_tip
from waxseal.app.look.widgets import Field, button, label, row_of
from waxseal.app.tray import tray_texts
from waxseal.app.tray.finding_list import Findings
from waxseal.app.tray.source_words import origin_words
from waxseal.core.errors import JobError
from waxseal.core.job.corrections import LUTS
from waxseal.core.job.edits import (
    Edit,
    change_reading,
    confirm_rates,
    conform,
    read_alike,
    set_expected,
    set_part,
    set_range,
    set_rate,
)
from waxseal.core.job.model import (
    Alpha,
    Chromaticities,
    Colour,
    ColourReference,
    Order,
    Origin,
    Sequence,
    StandIn,
    WithOrigin,
    colour_choices,
    colour_words,
    parse_colour,
    parse_pixel_shape,
    shape_words,
)
from waxseal.core.text_format import lines_text, names_words, plain
from waxseal.core.timing.ranges import FrameRange, parse_range
from waxseal.core.timing.rates import parse_rate, rate_words

__all__ = ["SequenceDocket"]

FIELD_WIDTH = 98  # leaves room for “guessed, confirm” beside it


class SequenceDocket(QWidget):
    """alike: how many other sources could be read like this one. remarks: what differs.

    config: of OCIO, whose spaces can be chosen. near: the reel's rate, where the source's
    is nearly the same.
    """

    frame_asked = Signal(str, int)  # a source and one of its frames, to look at
    poster_asked = Signal(str, int)  # the same, to be written as a picture

    def __init__(
        self,
        sequence: Sequence,
        pen: Pen,
        *,
        alike: int = 0,
        remarks: tuple[str, ...] = (),
        config: str = "",
        near: Fraction | None = None,
    ) -> None:
        super().__init__()
        self._pen = pen
        self.setObjectName("docket")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._sequence, self._config = sequence, config
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 8, 0, 0)
        column.setSpacing(6)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(4)
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnMinimumWidth(0, 52)
        self._grid.setColumnStretch(2, 1)
        column.addLayout(self._grid)
        self._fill()
        for remark in remarks:
            column.addWidget(label(remark, "heed", wraps=True))
        if near is not None:
            column.addLayout(row_of(self._conform_button(near), 1))
        lut = self._sequence.reading.lut.value
        words = (
            self.tr("LUT: {0}").format(Path(lut).name) if lut else self.tr(tray_texts.READ_BY_A_LUT)
        )
        through = button(words, self._choose_lut, "word")
        set_tip(through, plain(lut) or self.tr(tray_texts.THE_FILES_NUMBERS_GO))
        column.addLayout(row_of(through, 1))
        if alike:
            others = (
                self.tr(tray_texts.READ_THE_OTHER_THE_SAME_WAY)
                if alike == 1
                else self.tr(tray_texts.READ_OTHERS_THE_SAME_WAY).format(alike)
            )
            share = button(others, self._share, "word", may_shrink=True)
            share.setToolTip(self.tr(tray_texts.ALL_SOURCES_OF_THE_SAME))
            column.addLayout(row_of(share, 1))
        if sequence.findings or sequence.missing:
            findings = Findings(sequence, pen)
            findings.frame_asked.connect(self.frame_asked)
            column.addWidget(findings)
        beside = sequence.files.others
        if beside:
            words = self.tr("Beside it: {0}").format(names_words(beside))
            told = label(words, "quiet", wraps=True)
            set_tip(told, lines_text(beside))
            column.addWidget(told)

    def _conform_button(self, near: Fraction) -> QPushButton:
        rate = self._sequence.reading.rate.value
        words = self.tr("longer") if rate > near else self.tr("shorter")
        text = self.tr("Conform to {0}: {1} {2}")
        by = f"{abs(float(rate / near) - 1):.1%}"
        made = button(text.format(rate_words(near), by, words), self._conform, "word")
        made.setToolTip(self.tr(tray_texts.THE_SAME_FRAMES_AT_THE_REELS_RATE))
        return made

    def _conform(self) -> None:
        self._ask(self.tr("conform {0}"), partial(conform, source=self._sequence.id))

    # ---- the reading -----------------------------------------------------------------------

    def _fill(self) -> None:
        one, reading = self._sequence, self._sequence.reading
        if one.kind != "still":
            rate = self._field(self.tr("Rate"), "rate", rate_words(reading.rate.value), parse_rate)
            rate.said.connect(self._say_rate)
            self._add(self.tr("Rate"), rate, reading.rate)
            self._add_ranges()
            order = self._choice(self.tr("Order"), "order", Order, reading.order)
            self._add(self.tr("Order"), order, reading.order)
        if one.found.parts:
            self._add(self.tr("Part"), self._parts(), reading.part, self._confirm_part)
        self._add_alpha()
        self._add(self.tr("Colour"), self._colours(), reading.colour)
        told = reading.referred or WithOrigin[ColourReference](
            value=reading.taken_as, origin=Origin.HABIT
        )
        taken = self._choice(self.tr("Treat as"), "referred", ColourReference, told)
        taken.setToolTip(self.tr(tray_texts.SCENE_GOES_THROUGH_THE_VIEW))
        self._add(self.tr("Treat as"), taken, told)
        shape = self._field(
            self.tr("Pixel shape"), "pixel_shape", shape_words(reading.pixel_shape.value), shape_of
        )
        shape.setToolTip(self.tr(tray_texts.A_PIXELS_WIDTH_TO_ITS_HEIGHT))
        shape.said.connect(partial(self._say_one, self.tr("Pixels"), "pixel_shape"))
        self._add(self.tr("Pixels"), shape, reading.pixel_shape)
        if one.kind == "sequence":
            choice = self._choice(self.tr("Stand-in"), "stand_in", StandIn, reading.stand_in)
            self._add(self.tr("Stand-in"), choice, reading.stand_in)
        self._add_poster()

    def _add_poster(self) -> None:
        """A frame by its number becomes a picture; of a still there is one to choose."""
        one = self._sequence
        text = str(one.range.first) if one.kind == "still" else ""
        field = self._field(self.tr("Poster frame"), "poster", text, frame_number)
        field.setPlaceholderText(str(one.range))
        field.setToolTip(self.tr(tray_texts.A_FRAME_AS_A_PICTURE))
        field.said.connect(self._say_poster)
        self._place(self.tr("Poster"), field)

    def _say_poster(self, frame: object) -> None:
        self.poster_asked.emit(self._sequence.id, frame)

    def _add_ranges(self) -> None:
        one = self._sequence
        if one.kind == "sequence":
            words = str(one.whole_range)
            span = self._field(self.tr("Expected range"), "expected", words, range_or_none)
            span.setToolTip(self.tr(tray_texts.WHAT_SHOULD_BE_THERE_BOTH))
            span.said.connect(self._say_expected)
            origin = Origin.SAID if one.expected else Origin.WRITTEN
            self._add(self.tr("Expected"), span, WithOrigin[str](value=words, origin=origin))
        wanted = self._field(self.tr("Wanted frames"), "wanted", str(one.range), range_or_none)
        wanted.setToolTip(self.tr(tray_texts.THE_FRAMES_TO_USE))
        wanted.said.connect(self._say_wanted)
        told = one.reading.range
        origin = told.origin if told else Origin.HABIT
        self._add(self.tr("Wanted"), wanted, WithOrigin[str](value=str(one.range), origin=origin))

    def _add_alpha(self) -> None:
        reading = self._sequence.reading
        has_alpha = "A" in self._sequence.found.channels or reading.alpha.value is not Alpha.NONE
        if not has_alpha:
            self._add(self.tr("Alpha"), label(self.tr("none")), reading.alpha)
            return
        choice = self._choice(self.tr("Alpha"), "alpha", Alpha, reading.alpha)
        self._add(self.tr("Alpha"), choice, reading.alpha, self._confirm_alpha)
        is_black = reading.matte.value == "#000000"
        if reading.alpha.value is Alpha.PREMULTIPLIED and not (
            is_black and self._sequence.found.format == "EXR"
        ):
            matte = self._field(self.tr("Matte"), "matte", reading.matte.value, parse_colour)
            matte.setToolTip(self.tr(tray_texts.WHAT_THE_PREMULTIPLIED_COLOUR))
            matte.said.connect(partial(self._say_one, self.tr("Matte"), "matte"))
            self._add(self.tr("Matte"), matte, reading.matte, self._confirm_alpha)

    def _place(self, name: str, widget: QWidget) -> int:
        """A row of its own; its number."""
        row = self._grid.rowCount()
        title = label(name, "quiet")
        title.setBuddy(widget)
        self._grid.addWidget(title, row, 0)
        widget.setFixedWidth(px(FIELD_WIDTH))
        self._grid.addWidget(widget, row, 1)
        return row

    def _add(
        self,
        name: str,
        widget: QWidget,
        told: WithOrigin,  # type: ignore[type-arg]
        confirm: object = None,
    ) -> None:
        row = self._place(name, widget)
        if told.origin is Origin.GUESS:
            act = confirm if callable(confirm) else self._confirm
            origin: QWidget = button(origin_words(told.origin), act, "confirm", may_shrink=True)
            if not callable(confirm):
                origin.setToolTip(self.tr(tray_texts.TAKE_THIS_RATE_HERE))
        else:
            origin = label(origin_words(told.origin), "small")
        if told.why:
            set_tip(origin, told.why)
        self._grid.addWidget(origin, row, 2)

    def _field(self, name: str, field: str, text: str, turn: object) -> Field:
        made = Field(text, name, turn)  # type: ignore[arg-type]
        made.setObjectName(field)
        made.wrong.connect(self._pen.complained)
        return made

    def _choice(
        self,
        name: str,
        field: str,
        kind: Iterable[StrEnum],
        told: WithOrigin,  # type: ignore[type-arg]
    ) -> QComboBox:
        box = Choice()
        box.setObjectName(field)
        box.setAccessibleName(name)
        for value in kind:
            box.addItem(str(value), value)
        box.setCurrentIndex(box.findText(str(told.value)))
        box.activated.connect(partial(self._say_chosen, name, field, box))
        return box

    def _parts(self) -> QComboBox:
        box = Choice()
        box.setObjectName("part")
        box.setAccessibleName(self.tr("Part"))
        for part in self._sequence.found.parts:
            words = part.name or self.tr("main picture")
            box.addItem(f"{words} ({''.join(short_names(part.channels))})", part.name)
        told = self._sequence.reading.part.value
        box.setCurrentIndex(max(0, box.findData(told)))
        box.activated.connect(partial(self._say_part, box))
        return box

    def _colours(self) -> QComboBox:
        box = Choice()
        box.setObjectName("colour")
        box.setAccessibleName(self.tr("Colour"))
        reading = self._sequence.reading
        now = (reading.colour.value, reading.chromaticities.value)
        choices = colour_choices()
        names = [colour_words(*choice) for choice in choices]
        if colour_words(*now) not in names:
            choices, names = (now, *choices), [colour_words(*now), *names]
        for name, choice in zip(names, choices, strict=True):
            box.addItem(name.removeprefix("scene-"), choice)  # there is no room for all of it
        box.addItem(self.tr(tray_texts.OF_THE_OCIO_CONFIG), None)
        if now[0] is Colour.OWN:
            box.setItemText(names.index(colour_words(*now)), reading.space.value)
            set_tip(box, reading.space.value)
        box.setCurrentIndex(names.index(colour_words(*now)))
        box.view().setMinimumWidth(px(190))
        box.activated.connect(partial(self._say_colour, box))
        return box

    # ---- saying ----------------------------------------------------------------------------

    def _ask(self, words: str, change: object) -> None:
        self._pen.asked.emit(Edit(words.format(self._sequence.name), change))  # type: ignore[arg-type]

    def _say_one(self, name: str, field: str, value: object) -> None:
        values: dict[str, Any] = {field: value}
        change = partial(change_reading, source=self._sequence.id, **values)
        words = f"{name.lower()} {value}"
        self._ask(self.tr("read {0}: ") + words, change)

    def _say_chosen(self, name: str, field: str, box: QComboBox, _index: int) -> None:
        self._say_one(name, field, box.currentData())

    def _say_part(self, box: QComboBox, _index: int) -> None:
        change = partial(set_part, source=self._sequence.id, part=box.currentData())
        self._ask(self.tr(tray_texts.READ_ANOTHER_PART_OF), change)

    def _say_colour(self, box: QComboBox, _index: int) -> None:
        choice: tuple[Colour, Chromaticities] | None = box.currentData()
        if choice is None:
            self._choose_space()
            return
        colour, chromaticities = choice
        change = partial(
            change_reading,
            source=self._sequence.id,
            colour=colour,
            chromaticities=tuple(chromaticities),
        )
        self._ask(self.tr("read {0}: colour ") + colour_words(colour, chromaticities), change)

    def _choose_space(self) -> None:
        """Read it as a space that the OCIO config has: camera logs and the like."""
        from waxseal.core.picture.colour.colour_spaces import (
            source_spaces,  # OCIO: not in the first second
        )

        try:
            names = list(source_spaces(self._config))
        except JobError as error:
            self._pen.complained.emit(str(error))
            return
        now = self._sequence.reading.space.value
        at = names.index(now) if now in names else 0
        name, is_chosen = QInputDialog.getItem(
            self, self.tr("Colour"), self.tr(tray_texts.A_SPACE_OF_THE_OCIO), names, at, False
        )
        if is_chosen:
            self.read_as_space(name)

    def read_as_space(self, name: str) -> None:
        change = partial(change_reading, source=self._sequence.id, colour=Colour.OWN, space=name)
        self._ask(self.tr("read {0}: colour ") + name, change)

    def _choose_lut(self) -> None:
        """A LUT that the file's numbers go through first; to choose none takes it away."""
        name, _ = QFileDialog.getOpenFileName(self, self.tr("LUT"), "", LUTS)
        if name or self._sequence.reading.lut.value:
            change = partial(change_reading, source=self._sequence.id, lut=name)
            self._ask(self.tr("read {0}: LUT"), change)

    def _say_rate(self, rate: Fraction) -> None:
        change = partial(set_rate, source=self._sequence.id, rate=rate)
        self._ask(self.tr(tray_texts.READ_AT_ANOTHER_RATE), change)

    def _say_expected(self, expected: FrameRange | None) -> None:
        change = partial(set_expected, source=self._sequence.id, expected=ends_of(expected))
        self._ask(self.tr(tray_texts.EXPECT_OTHER_FRAMES_OF), change)

    def _say_wanted(self, wanted: FrameRange | None) -> None:
        change = partial(set_range, source=self._sequence.id, wanted=ends_of(wanted))
        self._ask(self.tr(tray_texts.WANT_OTHER_FRAMES_OF), change)

    def _confirm(self) -> None:
        rate = self._sequence.reading.rate.value
        words = self.tr("confirm {0}").format(rate_words(rate))
        self._pen.ask_of_many(words, partial(confirm_rates, rate=rate))

    def _confirm_alpha(self) -> None:
        reading = self._sequence.reading
        change = partial(
            change_reading,
            source=self._sequence.id,
            alpha=reading.alpha.value,
            matte=reading.matte.value,
        )
        self._ask(self.tr(tray_texts.CONFIRM_THE_ALPHA_OF), change)

    def _confirm_part(self) -> None:
        part = self._sequence.reading.part.value
        change = partial(set_part, source=self._sequence.id, part=part)
        self._ask(self.tr(tray_texts.CONFIRM_THE_PART_OF), change)

    def _share(self) -> None:
        words = self.tr("read others like {0}").format(self._sequence.name)
        self._pen.ask_of_many(words, partial(read_alike, like=self._sequence.id))


def range_or_none(text: str) -> FrameRange | None:
    """A range, or nothing: then it is what is there. Raises WrongUse."""
    return parse_range(text) if text.strip() else None


def ends_of(span: FrameRange | None) -> tuple[int, int] | None:
    return (span.first, span.last) if span else None


def shape_of(text: str) -> Fraction:
    return parse_pixel_shape(text or "1")


def short_names(channels: tuple[str, ...]) -> list[str]:
    short = [channel.rpartition(".")[2] for channel in channels]
    return short if all(len(one) == 1 for one in short) else [", ".join(short)]


def frame_number(text: str) -> int:
    """Raises WrongUse."""
    return parse_range(text).first
