"""One correction of a finish: its switch, its name, its fields."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent
from PySide6.QtWidgets import (
    QColorDialog,
    QFileDialog,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from waxseal.app.finish_panel import finish_texts
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.flow_layout import Flow
from waxseal.app.look.key_widgets import Choice
from waxseal.app.look.scrub_field import Scrub
from waxseal.app.look.sourcechoice import SourceChoice
from waxseal.app.look.text_scale import px
from waxseal.app.look.tooltips import set_tip
from waxseal.app.look.widgets import Field, button, check, label, row_of, swatch
from waxseal.core.errors import WrongUse
from waxseal.core.job.corrections import Corrects
from waxseal.core.job.corrections.fields import (
    Choices,
    ColourField,
    FieldOf,
    FileField,
    Lines,
    Number,
    Points,
    SourceField,
)
from waxseal.core.job.model import Job
from waxseal.core.timing.parse_length import parse_number

__all__ = ["CorrectionLine"]

NAME_WIDTH = 84


class CorrectionLine(QWidget):
    """changed: the name of a value and what it is to be."""

    changed = Signal(str, object)
    remove_asked = Signal()

    def __init__(self, correction: Corrects, job: Job, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self._correction = correction
        self._parts: list[tuple[FieldOf, QWidget]] = []
        name = f"switch {correction.label}"
        self._switch = check(correction.label, partial(self._say, "on"), name)
        self._switch.setFixedWidth(px(NAME_WIDTH))
        self._switch.setToolTip(self.tr(finish_texts.SWITCH_IT_OFF_AND_ON))
        fields = Flow()
        for one in correction.fields:
            part = self._make(one, job)
            self._parts.append((one, part))
            fields.addWidget(self._named(one, part))
        away = button("×", self.remove_asked.emit, "word")
        away.setAccessibleName(self.tr("Take {0} away").format(correction.label))
        away.setToolTip(away.accessibleName())
        inside = QWidget()
        inside.setLayout(fields)
        line = row_of(self._switch, inside, away)
        line.setStretch(1, 1)
        for widget in (self._switch, away):
            widget.setFixedHeight(px(26))  # as tall as the first line of its fields
            line.setAlignment(widget, Qt.AlignmentFlag.AlignTop)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(line)
        self.show_correction(correction)

    def _named(self, one: FieldOf, part: QWidget) -> QWidget:
        """A field with its word before it; a scrub has its own."""
        if isinstance(one, Number):
            return part
        holder = QWidget()
        holder.setLayout(row_of(label(one.words, "quiet"), part, gap=4))
        return holder

    def show_correction(self, correction: Corrects) -> None:
        """Other values of the same correction."""
        self._correction = correction
        self._switch.setChecked(correction.on)
        for one, part in self._parts:
            value = getattr(correction, one.name)
            if isinstance(one, Number) and isinstance(part, Scrub):
                part.show_value(float(value if one.place is None else value[one.place]))
            elif isinstance(part, SourceChoice):
                part.choose(value)
            elif isinstance(part, Choice):
                part.setCurrentIndex(part.findData(value))
            elif isinstance(part, LineBox):
                part.show_text(value)
            elif isinstance(part, Field):
                part.show_text(points_words(value) if isinstance(one, Points) else value)
            elif isinstance(one, FileField):
                part.setText(Path(value).name or self.tr("choose…"))  # type: ignore[attr-defined]
                set_tip(part, value)
            elif isinstance(one, ColourField):
                part.setText(value)  # type: ignore[attr-defined]
                part.setIcon(swatch(value))  # type: ignore[attr-defined]

    # ---- making ----------------------------------------------------------------------------

    def _make(self, one: FieldOf, job: Job) -> QWidget:
        name = f"{self._correction.label} {one.name}"
        if isinstance(one, Number):
            place = "" if one.place is None else " " + ("red", "green", "blue")[one.place]
            kind = type(self._correction)
            bounds = one.bounds(kind)
            made = Scrub(
                one.words,
                0,
                least=bounds.least,
                most=bounds.most,
                step=one.step,
                usual=one.usual(kind),
                name=name + place,
            )
            made.said.connect(partial(self._say_number, one))
            made.settled.connect(self._pen.settled)
            made.wrong.connect(self._pen.complained)
            return made
        if isinstance(one, Choices | SourceField):
            return self._choice(one, name, job)
        if isinstance(one, FileField):
            return button("", partial(self._choose_file, one))
        if isinstance(one, ColourField):
            return button("", partial(self._choose_colour, one))
        if isinstance(one, Lines):
            lines = LineBox(name)
            lines.said.connect(partial(self._say, one.name))
            lines.left.connect(self._pen.settled)
            return lines
        turn = parse_points if isinstance(one, Points) else str
        field = Field("", name, turn)
        field.setObjectName(name)
        field.setFixedWidth(px(220 if isinstance(one, Points) else 96))
        field.said.connect(partial(self._say, one.name))
        field.wrong.connect(self._pen.complained)
        return field

    def _choice(self, one: Choices | SourceField, name: str, job: Job) -> Choice:
        if isinstance(one, Choices):
            box: Choice = Choice()
            box.setObjectName(name)
            box.setAccessibleName(name)
            for value in one.values:
                box.addItem(value.value, value)
        else:
            box = SourceChoice(name, name)
            box.show_sources([(source.id, source.name) for source in job.sequences])
        box.activated.connect(partial(self._say_chosen, one, box))
        return box

    # ---- saying ----------------------------------------------------------------------------

    def _say(self, name: str, value: object) -> None:
        self.changed.emit(name, value)

    def _say_number(self, one: Number, value: float) -> None:
        if one.place is None:
            is_whole = one.is_whole(type(self._correction))
            self._say(one.name, round(value) if is_whole else value)
            return
        triple = list(getattr(self._correction, one.name))
        triple[one.place] = value
        self._say(one.name, tuple(triple))

    def _say_chosen(self, one: FieldOf, box: Choice, _index: int) -> None:
        self._say(one.name, box.source if isinstance(box, SourceChoice) else box.currentData())
        self._pen.settled.emit()

    def _choose_file(self, one: FileField) -> None:
        now = getattr(self._correction, one.name)
        name, _ = QFileDialog.getOpenFileName(self, one.words, now, one.kinds)
        if name:
            self._say(one.name, name)
            self._pen.settled.emit()

    def _choose_colour(self, one: ColourField) -> None:
        now = QColor(getattr(self._correction, one.name))
        colour = QColorDialog.getColor(now, self, one.words)
        if colour.isValid():
            self._say(one.name, colour.name())
            self._pen.settled.emit()


class LineBox(QPlainTextEdit):
    """A few lines of text, said as they are typed."""

    said = Signal(str)
    left = Signal()

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setAccessibleName(name)
        self.setFixedSize(230, 44)
        self.setTabChangesFocus(True)
        self.setToolTip("{frame} {reel frame} {timecode} {name} {count} {date}")
        self.textChanged.connect(self._changed)
        self._shown = ""

    def show_text(self, text: str) -> None:
        self._shown = text
        if text != self.toPlainText():
            self.setPlainText(text)

    def _changed(self) -> None:
        if self.toPlainText() != self._shown:
            self._shown = self.toPlainText()
            self.said.emit(self._shown)

    @override
    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.left.emit()


def points_words(points: tuple[tuple[int, float], ...]) -> str:
    return ", ".join(f"{frame} {value:g}" for frame, value in points)


def parse_points(text: str) -> tuple[tuple[int, float], ...]:
    """`0 1, 24 0.5`: pairs of a frame and a value. Raises WrongUse."""
    pairs: list[tuple[int, float]] = []
    for pair in text.split(","):
        words = pair.split()
        if len(words) != 2 or not words[0].isdecimal():
            raise WrongUse("Write pairs of a frame and a value from 0 to 1: 0 1, 24 0.5")
        pairs.append((int(words[0]), parse_number(words[1])))
    return tuple(pairs)
