"""The job's habits: what is taken for granted where a file says nothing, in one place."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QWidget

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.key_widgets import Choice
from waxseal.app.look.text_scale import px
from waxseal.app.look.widgets import Field, label
from waxseal.app.tray import tray_texts
from waxseal.core.job.edits import set_habit
from waxseal.core.job.model import Alpha, Job, StandIn
from waxseal.core.job.primaries import PRIMARIES
from waxseal.core.timing.rates import parse_rate, rate_words

__all__ = ["HabitsDocket"]


class HabitsDocket(QWidget):
    def __init__(self, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self.setObjectName("habits")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        grid = QGridLayout(self)
        grid.setContentsMargins(6, 4, 14, 4)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(0, 1)
        words = label(self.tr(tray_texts.WHERE_A_FILE_DOES), "quiet", wraps=True)
        grid.addWidget(words, 0, 0, 1, 2)
        self._rate = Field(
            "", self.tr("Habit: rate"), lambda text: parse_rate(text) if text.strip() else None
        )
        self._rate.setObjectName("habit_rate")
        self._rate.setPlaceholderText(self.tr("24, to confirm"))
        self._rate.said.connect(partial(self._say, self.tr("rate"), "rate"))
        self._rate.wrong.connect(self._pen.complained)
        self._alpha = self._choice(
            self.tr("alpha"),
            "alpha",
            [(self.tr(tray_texts.AS_THE_FORMAT_HAS_IT), None)]
            + [(str(one), one) for one in (Alpha.STRAIGHT, Alpha.PREMULTIPLIED)],
        )
        self._primaries = self._choice(
            self.tr("scene-linear"),
            "primaries",
            [(name, None if name == "BT.709" else value) for name, value in PRIMARIES.items()],
        )
        self._stand_in = self._choice(
            self.tr("stand-in"), "stand_in", [(str(one), one) for one in StandIn]
        )
        for row, (name, widget) in enumerate(
            (
                (self.tr("Rate"), self._rate),
                (self.tr("Alpha"), self._alpha),
                (self.tr("Scene-linear"), self._primaries),
                (self.tr("Stand-in"), self._stand_in),
            ),
            1,
        ):
            title = label(name)
            title.setBuddy(widget)
            grid.addWidget(title, row, 0)
            widget.setMinimumWidth(px(150))
            grid.addWidget(widget, row, 1)

    def show_job(self, job: Job) -> None:
        habits = job.habits
        self._rate.show_text(rate_words(habits.rate) if habits.rate is not None else "")
        for box, value in (
            (self._alpha, habits.alpha),
            (self._primaries, habits.primaries),
            (self._stand_in, habits.stand_in),
        ):
            box.setCurrentIndex(
                next((at for at in range(box.count()) if box.itemData(at) == value), 0)
            )

    def _choice(self, name: str, habit: str, entries: list[tuple[str, object]]) -> QComboBox:
        box = Choice()
        box.setObjectName(f"habit_{habit}")
        box.setAccessibleName(self.tr("Habit: {0}").format(name))
        for words, value in entries:
            box.addItem(words, value)
        box.activated.connect(partial(self._say_chosen, name, habit, box))
        return box

    def _say_chosen(self, name: str, habit: str, box: QComboBox, _index: int) -> None:
        self._say(name, habit, box.currentData())

    def _say(self, name: str, habit: str, value: object) -> None:
        words = self.tr("this job's habit: {0}").format(name)
        self._pen.ask_of_many(words, partial(set_habit, habit=habit, value=value))
