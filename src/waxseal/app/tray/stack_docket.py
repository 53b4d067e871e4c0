"""The docket of a stack: its passes in their order, and how they compare with the beauty."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QMenu, QVBoxLayout, QWidget

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.flow_layout import Flow
from waxseal.app.look.key_widgets import Choice
from waxseal.app.look.line_tools import Lines
from waxseal.app.look.scrub_field import Scrub
from waxseal.app.look.sourcechoice import SourceChoice
from waxseal.app.look.tooltips import set_tip
from waxseal.app.look.widgets import (
    Elided,
    button,
    check,
    label,
    row_of,
    swatch,
)
from waxseal.app.tray import tray_texts
from waxseal.core.job.edits import (
    add_pass,
    change_pass,
    make_stack,
    move_pass,
    passes_for,
    remove_pass,
    set_beauty,
    switch_stack,
    unmake_stack,
)
from waxseal.core.job.model import Job, Operation, Sequence, Stack, StackPass

__all__ = ["StackDocket"]


class StackDocket(QWidget):
    """compare_asked: compare the passes of a source with its beauty. see_asked: as a picture."""

    compare_asked = Signal(str)
    see_asked = Signal()

    def __init__(self, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self.setObjectName("stack")
        self._source: Sequence | None = None
        self._job = Job()
        self._offer = button("", self._make, "word")
        self._title = label(self.tr("Stack"), "name")
        self._on = check(self.tr("put together"), self._switch)
        self._apart = button(self.tr("Take apart"), self._unmake, "word")
        self._add = button(self.tr("Add a pass…"), self._offer_passes, "word")
        self._beauty = SourceChoice("beauty", self.tr("Beauty"), none=self.tr("none"))
        self._beauty.activated.connect(self._say_beauty)
        self._beauty_word = label(self.tr("Beauty"), "quiet")
        self._compare = button(self.tr("Compare with it"), self._ask_compare, "word")
        self._see = button(self.tr("Show the difference"), self.see_asked.emit, "word")
        self._see.setToolTip(self.tr(tray_texts.THE_DIFFERENCE_AS_A_PICTURE))
        self._result = label("", "small", wraps=True)
        self._lines = Lines(gap=6)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.setSpacing(6)
        column.addLayout(row_of(self._offer, 1))
        column.addLayout(row_of(self._title, self._on, 1, self._apart))
        column.addWidget(self._lines)
        column.addLayout(row_of(self._add, 1))
        column.addLayout(row_of(self._beauty_word, self._beauty, 1))
        column.addLayout(row_of(self._compare, self._see, 1))
        column.addWidget(self._result)

    def show_source(self, source: Sequence, job: Job) -> None:
        self._source, self._job = source, job
        stack = source.stack
        offered = passes_for(job, source.id) if stack is None else None
        self._offer.setVisible(offered is not None)
        if offered is not None:
            self._offer.setText(
                self.tr(tray_texts.PUT_ITS_PASSES_TOGETHER).format(len(offered.passes))
            )
        about: tuple[QWidget, ...] = (
            *(self._title, self._on, self._apart, self._add),
            *(self._beauty, self._beauty_word, self._compare, self._see),
        )
        for part in about:
            part.setVisible(stack is not None)
        self._result.setVisible(stack is not None and bool(self._result.text()))
        passes = stack.passes if stack is not None else ()
        names = tuple((one.id, one.name) for one in job.sequences)
        self._lines.show_values(
            passes,
            (source.id, names, tuple((one.source, one.part) for one in passes)),
            self._make_line,
            lambda line, one: line.show_pass(one),  # type: ignore[attr-defined]
        )
        if stack is not None:
            self._on.setChecked(stack.on)
            self._fill_beauty(stack, names)

    def say(self, words: str) -> None:
        """How the passes compare."""
        self._result.setText(words)
        self._result.setVisible(bool(words))

    def _fill_beauty(self, stack: Stack, names: tuple[tuple[str, str], ...]) -> None:
        self._beauty.show_sources(names)
        self._beauty.choose(stack.beauty)
        for one in (self._compare, self._see):
            one.setEnabled(bool(stack.beauty))

    def _make_line(self, number: int, one: StackPass) -> PassLine:
        stack = self._source.stack if self._source is not None else None
        count = len(stack.passes) if stack is not None else 0
        line = PassLine(one, self._name_of(one), number, count, self._pen)
        line.changed.connect(partial(self._change, number))
        line.remove_asked.connect(partial(self._remove, number))
        line.move_asked.connect(partial(self._move, number))
        return line

    def _name_of(self, one: StackPass) -> str:
        name = self._job.sequence(one.source).name
        return f"{name} · {one.part}" if one.part else name

    # ---- saying ----------------------------------------------------------------------------

    def _ask(self, words: str, change: object, merges: str = "") -> None:
        if self._source is not None:
            self._pen.ask(words.format(self._source.name), change, merges)

    @property
    def _id(self) -> str:
        return self._source.id if self._source is not None else ""

    def _make(self) -> None:
        self._ask(
            self.tr(tray_texts.PUT_THE_PASSES_OF_TOGETHER), partial(make_stack, source=self._id)
        )

    def _unmake(self) -> None:
        self._ask(self.tr(tray_texts.TAKE_THE_STACK_APART), partial(unmake_stack, source=self._id))

    def _switch(self, on: bool) -> None:
        words = self.tr("{0}: passes") if on else self.tr("{0}: its own frames")
        self._ask(words, partial(switch_stack, source=self._id, on=on))

    def _change(self, number: int, name: str, value: object) -> None:
        change = partial(
            change_pass,
            source=self._id,
            number=number,
            **{name: value},  # type: ignore[arg-type]
        )
        words = self.tr("{0}: a pass's ") + name
        self._ask(words, change, f"{self._id} {number} {name}")

    def _remove(self, number: int) -> None:
        change = partial(remove_pass, source=self._id, number=number)
        self._ask(self.tr(tray_texts.REMOVE_FROM_THE_STACK), change)

    def _move(self, number: int, by: int) -> None:
        change = partial(move_pass, source=self._id, number=number, to=number + by)
        self._ask(self.tr(tray_texts.ANOTHER_ORDER_OF_PASSES), change)

    def _say_beauty(self, _index: int) -> None:
        change = partial(set_beauty, source=self._id, beauty=self._beauty.source)
        self._ask(self.tr("{0}: its beauty"), change)

    def _offer_passes(self) -> None:
        menu = QMenu(self)
        for source in self._job.sequences:
            parts = [part.name for part in source.found.parts if part.name]
            for part in ("", *parts):
                added = StackPass(source=source.id, part=part)
                change = partial(add_pass, source=self._id, added=added)
                words = self.tr("{0}: one more pass")
                menu.addAction(self._name_of(added), partial(self._ask, words, change))
        menu.popup(self._add.mapToGlobal(self._add.rect().bottomLeft()))

    def _ask_compare(self) -> None:
        self.say(self.tr("comparing…"))
        self.compare_asked.emit(self._id)


class PassLine(QWidget):
    """One pass: on or off, its operation, its gain, exposure and tint."""

    changed = Signal(str, object)
    remove_asked = Signal()
    move_asked = Signal(int)

    def __init__(self, one: StackPass, name: str, number: int, count: int, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self._on = check("", partial(self.changed.emit, "on"))
        self._on.setAccessibleName(self.tr("{0}: on").format(name))
        self._operation = Choice()
        self._operation.setObjectName(f"operation {number}")
        self._operation.setAccessibleName(self.tr("{0}: operation").format(name))
        for value in Operation:
            self._operation.addItem(value.value, value)
        self._operation.activated.connect(self._say_operation)
        self._gain = self._scrub(self.tr("gain"), "gain", 0, 1000, 0.01, 1, number)
        self._exposure = self._scrub(self.tr("stops"), "exposure", -20, 20, 0.05, 0, number)
        self._amount = self._scrub(self.tr("amount"), "amount", 0, 1, 0.01, 1, number)
        self._tint = button(self.tr("tint"), self._choose_tint)
        self._tint.setObjectName("tint")
        self._inverted = check(self.tr("inverted"), partial(self.changed.emit, "inverted"))
        up = button("↑", partial(self.move_asked.emit, -1), "word")
        down = button("↓", partial(self.move_asked.emit, 1), "word")
        away = button("×", self.remove_asked.emit, "word")
        for widget, words in (
            (up, self.tr("earlier")),
            (down, self.tr("later")),
            (away, self.tr("take out")),
        ):
            widget.setAccessibleName(f"{name}: {words}")
            set_tip(widget, words)
        up.setEnabled(number > 0)
        down.setEnabled(number < count - 1)
        values = QWidget()
        flow = Flow(gap=6)
        values.setLayout(flow)
        flow.addWidget(self._operation)
        for part in (self._gain, self._exposure, self._tint, self._amount, self._inverted):
            flow.addWidget(part)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        title = row_of(self._on, Elided(name), up, down, away, gap=2)
        title.setStretch(1, 1)
        column.addLayout(title)
        column.addWidget(values)
        self.show_pass(one)

    def _scrub(
        self,
        words: str,
        name: str,
        least: float,
        most: float,
        step: float,
        usual: float,
        number: int,
    ) -> Scrub:
        made = Scrub(
            words, usual, least=least, most=most, step=step, usual=usual, name=f"{name} {number}"
        )
        made.said.connect(partial(self.changed.emit, name))
        made.settled.connect(self._pen.settled)
        made.wrong.connect(self._pen.complained)
        return made

    def show_pass(self, one: StackPass) -> None:
        self._on.setChecked(one.on)
        self._operation.setCurrentIndex(self._operation.findData(one.operation))
        self._gain.show_value(one.gain)
        self._exposure.show_value(one.exposure)
        self._amount.show_value(one.amount)
        self._tint.setIcon(swatch(one.tint))
        set_tip(self._tint, one.tint)
        self._tint_now = one.tint
        self._inverted.setChecked(one.inverted)
        is_factor = one.operation in (Operation.MULTIPLY, Operation.MATTE)
        self._inverted.setVisible(is_factor)
        self._amount.setVisible(is_factor or one.operation is Operation.OVER)
        for part in (self._gain, self._exposure, self._tint):
            part.setVisible(one.operation not in (Operation.MATTE, Operation.ALPHA))

    def _say_operation(self, _index: int) -> None:
        self.changed.emit("operation", self._operation.currentData())
        self._pen.settled.emit()

    def _choose_tint(self) -> None:
        colour = QColorDialog.getColor(QColor(self._tint_now), self, self.tr("Tint"))
        if colour.isValid():
            self.changed.emit("tint", colour.name())
            self._pen.settled.emit()
