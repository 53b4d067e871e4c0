"""The section of a shot's docket that says how it meets the shot before."""

from __future__ import annotations

from functools import partial

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog

from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.widgets import button
from waxseal.app.reel_view import reel_texts
from waxseal.app.reel_view.shot_sections import Section
from waxseal.core.job.corrections import Values
from waxseal.core.job.edits import change_join, join_all, join_shot
from waxseal.core.job.joins import CUT
from waxseal.core.job.model import JoinKind, Shot
from waxseal.core.plan.join_styles import STYLES
from waxseal.core.plan.timeline import Timeline
from waxseal.core.text_format import counted
from waxseal.core.timing.parse_length import parse_frames

__all__ = ["JoinSection"]


class JoinSection(Section):
    """Kind, length, and what belongs to the kind. The first shot meets nothing."""

    def __init__(self, of: str, name: str, pen: Pen) -> None:
        super().__init__(self.tr("Join"), of, name, pen)
        self._timeline: Timeline | None = None
        self._join = CUT
        self._kind = self.choice("join", JoinKind)
        self._kind.setToolTip(self.tr(reel_texts.HOW_IT_MEETS_THE_ONE_BEFORE))
        self._kind.activated.connect(self._say_kind)
        self._length = self.field("join length", self._frames, 58)
        self._length.setToolTip(self.tr(reel_texts.LENGTH_OF_A_JOIN))
        self._length.said.connect(partial(self._say, "length"))
        self._colour = button("", self._choose_colour)
        self._colour.setObjectName("join colour")
        self._colour.setToolTip(self.tr(reel_texts.THE_COLOUR_OF_A_DIP))
        self._values = self.choice("join values", Values)
        self._values.setToolTip(self.tr(reel_texts.WHAT_A_JOIN_IS_MIXED_ON))
        self._values.activated.connect(self._say_values)
        self.add(self.tr("with the shot before"), self._kind)
        self._of_all = (
            self.add(self.tr("frames"), self._length),
            self.add(self.tr("on"), self._values),
        )
        self._of_colour = self.add(self.tr("through"), self._colour)
        self.add("", button(self.tr(reel_texts.JOIN_ALL_SHOTS_ALIKE), self._share, "word"))

    def show_shot(self, shot: Shot, timeline: Timeline) -> None:
        self._timeline, self._join = timeline, shot.join
        number = timeline.number_of(shot.id)
        self.setVisible(number > 0)
        join = shot.join
        self._kind.setCurrentIndex(self._kind.findData(join.kind))
        self._length.show_text(str(join.length))
        self._colour.setText(join.colour)
        self._colour.setAccessibleName(self.tr("through {0}").format(join.colour))
        self._values.setCurrentIndex(self._values.findData(join.values))
        style = STYLES[join.kind]
        for holder in self._of_all:
            holder.setVisible(bool(style.asked(join.length)))
        self._of_colour.setVisible(style.has_colour)
        self._show_room(timeline, number)

    def _show_room(self, timeline: Timeline, number: int) -> None:
        room = timeline.join_length(number)
        if number in timeline.short_joins:
            words = self.tr(reel_texts.A_JOIN_IS_CUT_SHORT).format(room, self._join.length)
            self.remark(words if room else self.tr(reel_texts.NO_ROOM_FOR_A_JOIN))
        elif STYLES[self._join.kind].overlaps:
            words = self.tr(reel_texts.A_DISSOLVE_OVERLAPS).format(counted(room, "frame"))
            self.remark(words, "quiet")
        else:
            self.remark("")

    def _frames(self, text: str) -> int:
        return parse_frames(text, self._timeline.rate if self._timeline else None)

    def _say(self, name: str, value: object) -> None:
        change = partial(change_join, shot=self.of, **{name: value})  # type: ignore[arg-type]
        self.ask(self.tr("join, {0}").format(name), change)

    def _say_kind(self, _index: int) -> None:
        kind = self._kind.currentData()
        self.ask(self.tr("join by a {0}").format(kind), partial(join_shot, shot=self.of, kind=kind))

    def _say_values(self, _index: int) -> None:
        self._say("values", self._values.currentData())

    def _choose_colour(self) -> None:
        colour = QColorDialog.getColor(QColor(self._join.colour), self, self.tr("through"))
        if colour.isValid():
            self._say("colour", colour.name())

    def _share(self) -> None:
        self.ask(self.tr(reel_texts.ALL_SHOTS_JOINED_ALIKE), partial(join_all, join=self._join))
