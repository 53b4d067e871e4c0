"""The docket of a sequence: how it is read, where each value comes from, what is wrong."""

from __future__ import annotations

from fractions import Fraction
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QComboBox, QGridLayout, QVBoxLayout, QWidget

from waxseal.app.look.keys import Choice
from waxseal.app.look.small import Field, button, label, row_of
from waxseal.app.tray.words import origin_words
from waxseal.core.job.edits import Edit, change_reading, confirm_rates, set_expected, set_rate
from waxseal.core.job.model import (
    Alpha,
    Colour,
    FindingKind,
    Order,
    Origin,
    Sequence,
    StandIn,
    Told,
)
from waxseal.core.timing.ranges import FrameRange, parse_range, write_frames
from waxseal.core.timing.rates import parse_rate, rate_words

__all__ = ["SequenceDocket"]

MOST_FINDINGS = 6


class SequenceDocket(QWidget):
    edit_asked = Signal(object)
    complained = Signal(str)
    frame_asked = Signal(str, int)  # a source and one of its frames, to look at

    def __init__(self, sequence: Sequence) -> None:
        super().__init__()
        self.setObjectName("docket")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._sequence = sequence
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 8, 0, 0)
        column.setSpacing(6)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(6)
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnMinimumWidth(0, 52)
        self._grid.setColumnStretch(2, 1)
        column.addLayout(self._grid)
        self._fill()
        if sequence.findings or sequence.missing:
            column.addLayout(self._findings())

    def _fill(self) -> None:
        reading = self._sequence.reading
        rate = Field(rate_words(reading.rate.value), self.tr("Rate"), parse_rate)
        rate.setObjectName("rate")
        rate.said.connect(self._say_rate)
        rate.wrong.connect(self.complained)
        self._add(self.tr("Rate"), rate, reading.rate)
        span = Field(str(self._sequence.range), self.tr("Expected range"), parse_expected)
        span.setObjectName("expected")
        span.setToolTip(self.tr("What should be there, both ends counted: 0-200 is 201 frames"))
        span.said.connect(self._say_expected)
        span.wrong.connect(self.complained)
        origin = Origin.SAID if self._sequence.expected else Origin.WRITTEN
        self._add(self.tr("Range"), span, Told(value=str(self._sequence.range), origin=origin))
        self._add(
            self.tr("Order"),
            self._choice(self.tr("Order"), "order", Order, reading.order),
            reading.order,
        )
        if "A" in self._sequence.found.channels:
            choice = self._choice(self.tr("Alpha"), "alpha", Alpha, reading.alpha)
            self._add(self.tr("Alpha"), choice, reading.alpha)
        else:
            self._add(self.tr("Alpha"), label(self.tr("none")), reading.alpha)
        choice = self._choice(self.tr("Colour"), "colour", Colour, reading.colour)
        self._add(self.tr("Colour"), choice, reading.colour)
        choice = self._choice(self.tr("Stand-in"), "stand_in", StandIn, reading.stand_in)
        self._add(self.tr("Stand-in"), choice, reading.stand_in)

    def _add(self, name: str, widget: QWidget, told: Told | None) -> None:  # type: ignore[type-arg]
        row = self._grid.rowCount()
        title = label(name, "quiet")
        title.setBuddy(widget)
        self._grid.addWidget(title, row, 0)
        widget.setFixedWidth(98)
        self._grid.addWidget(widget, row, 1)
        if told is None:
            self._grid.addWidget(label(self.tr("found"), "small"), row, 2)
        elif told.origin is Origin.GUESS:
            confirm = button(origin_words(told.origin), self._confirm, "confirm")
            confirm.setToolTip(self.tr("Take this rate, here and for all that were guessed alike"))
            self._grid.addWidget(confirm, row, 2)
        else:
            self._grid.addWidget(label(origin_words(told.origin), "small"), row, 2)

    def _choice(
        self,
        name: str,
        field: str,
        kind: type[Order] | type[Alpha] | type[Colour] | type[StandIn],
        told: Told,  # type: ignore[type-arg]
    ) -> QComboBox:
        box = Choice()
        box.setObjectName(field)
        box.setAccessibleName(name)
        for value in kind:
            box.addItem(value.value, value)
        box.setCurrentIndex(box.findText(told.value.value))
        box.activated.connect(partial(self._say, name, field, box))
        return box

    def _say(self, name: str, field: str, box: QComboBox, _index: int) -> None:
        value = box.currentData()
        change = partial(change_reading, source=self._sequence.id, **{field: value})
        words = self.tr("read {0}: {1} {2}").format(self._sequence.name, name.lower(), value)
        self.edit_asked.emit(Edit(words, change))

    def _say_rate(self, rate: Fraction) -> None:
        change = partial(set_rate, source=self._sequence.id, rate=rate)
        self.edit_asked.emit(
            Edit(self.tr("read {0} at another rate").format(self._sequence.name), change)
        )

    def _say_expected(self, expected: FrameRange | None) -> None:
        ends = (expected.first, expected.last) if expected else None
        change = partial(set_expected, source=self._sequence.id, expected=ends)
        words = self.tr("expect other frames of {0}").format(self._sequence.name)
        self.edit_asked.emit(Edit(words, change))

    def _confirm(self) -> None:
        rate = self._sequence.reading.rate.value
        self.edit_asked.emit(
            Edit(self.tr("confirm {0}").format(rate_words(rate)), partial(confirm_rates, rate=rate))
        )

    def _findings(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        again = write_frames(self._sequence.to_come_again)
        if again:
            listed = label(again, "name", wraps=True)
            listed.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            copy = button(self.tr("Copy"), partial(self._copy, again))
            copy.setToolTip(self.tr("Copy the re-render list"))
            column.addLayout(row_of(label(self.tr("Re-render"), "quiet"), listed, 1, copy))
        gone = write_frames(self._sequence.missing)
        if gone:
            one = len(self._sequence.missing) == 1
            words = self.tr("{0} is not there") if one else self.tr("{0} are not there")
            column.addWidget(label(words.format(gone), "bad", wraps=True))
        findings = self._sequence.findings
        for finding in findings[:MOST_FINDINGS]:
            tone = "bad" if finding.kind is FindingKind.DAMAGED else "heed"
            go = button(str(finding.frame), partial(self._go, finding.frame), "word")
            go.setToolTip(self.tr("Show this frame"))
            go.setAccessibleName(self.tr("Show frame {0}").format(finding.frame))
            row = row_of(go, label(finding.what, tone, wraps=True), gap=4)
            row.setStretch(1, 1)
            column.addLayout(row)
        if len(findings) > MOST_FINDINGS:
            rest = self.tr("and {0} more").format(len(findings) - MOST_FINDINGS)
            column.addWidget(label(rest, "bad"))
        return column

    def _go(self, frame: int) -> None:
        self.frame_asked.emit(self._sequence.id, frame)

    def _copy(self, text: str) -> None:
        QGuiApplication.clipboard().setText(text)
        self.complained.emit(self.tr("Copied for the renderer: {0}").format(text))


def parse_expected(text: str) -> FrameRange | None:
    """A range, or nothing: then what is there is all that is expected. Raises WrongUse."""
    return parse_range(text) if text.strip() else None
