"""The docket of a shot or an overlay: in time, in the frame, over what, and its finish."""

from __future__ import annotations

from functools import partial

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget
from typing_extensions import override

from waxseal.app.finish_panel.finish_docket import FinishDocket
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.text_scale import px
from waxseal.app.reel_view import reel_texts
from waxseal.app.reel_view.join_section import JoinSection
from waxseal.app.reel_view.shot_sections import FrameSection, Section, TimeSection
from waxseal.core.job.corrections import Values
from waxseal.core.job.edits import change_overlay
from waxseal.core.job.model import Blend, Overlay, Shot
from waxseal.core.plan.timeline import Timeline
from waxseal.core.timing.parse_length import parse_frames, parse_place

__all__ = ["LaidDocket"]

TWO_COLUMNS = 640  # pixels, from which on sections stand side by side


class LaidDocket(QWidget):
    def __init__(self, laid: Shot | Overlay, name: str, pen: Pen) -> None:
        super().__init__()
        self.setObjectName("laidDocket")
        is_shot = isinstance(laid, Shot)
        self._time = TimeSection(laid.id, name, pen)
        self._frame = FrameSection(laid.id, name, pen, is_shot=is_shot)
        self._over = None if is_shot else OverSection(laid.id, name, pen)
        self._join = JoinSection(laid.id, name, pen) if is_shot else None
        self._finish = FinishDocket(laid.id, name, pen)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 4, 0, 4)
        row.setSpacing(24)
        self._sides = (QVBoxLayout(), QVBoxLayout())
        for side in self._sides:
            side.setSpacing(12)
            row.addLayout(side, 1)
        first = self._over or self._join
        parts = (self._time, self._frame, first, self._finish)
        self._parts = [part for part in parts if part is not None]
        self._columns = 0
        self._place(1)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        self._place(2 if self.width() >= px(TWO_COLUMNS) else 1)

    def _place(self, columns: int) -> None:
        """Put the sections side by side if there is room for two."""
        if columns == self._columns:
            return
        self._columns = columns
        for side in self._sides:
            while side.count():
                side.takeAt(0)
        for number, part in enumerate(self._parts):
            self._sides[number % columns].addWidget(part)
        for side in self._sides:
            side.addStretch(1)

    def show_laid(self, laid: Shot | Overlay, timeline: Timeline) -> None:
        source = timeline.sources[laid.source]
        self._time.show_laid(laid, source, timeline)
        self._frame.show_laid(laid, source, timeline)
        if self._over is not None and isinstance(laid, Overlay):
            self._over.show_overlay(laid, timeline)
        if self._join is not None and isinstance(laid, Shot):
            self._join.show_shot(laid, timeline)
        self._finish.show_job(timeline.job)


class OverSection(Section):
    """Where an overlay begins, how long it stays, and how it is laid over."""

    def __init__(self, of: str, name: str, pen: Pen) -> None:
        super().__init__(self.tr("Overlay"), of, name, pen)
        self._timeline: Timeline | None = None
        self._at = self.field("overlay from", self._place, 82)
        self._at.said.connect(partial(self._say, "at"))
        self._at.setToolTip(self.tr(reel_texts.THE_REEL_FRAME_WHERE_IT_BEGINS))
        self._stays = self.field("overlay length", self._frames, 58)
        self._stays.said.connect(partial(self._say, "length"))
        self._stays.setToolTip(self.tr(reel_texts.LENGTH_IN_REEL_FRAMES))
        self._blend = self.choice("blend", Blend)
        self._blend.activated.connect(self._say_blend)
        self._values = self.choice("values", Values)
        self._values.activated.connect(self._say_values)
        self._values.setToolTip(self.tr(reel_texts.FOR_TEXT_AND_SOFT))
        self.add(self.tr("from"), self._at)
        self.add(self.tr("stays"), self._stays)
        self.add(self.tr("laid"), self._blend)
        self.add(self.tr("on"), self._values)

    def show_overlay(self, overlay: Overlay, timeline: Timeline) -> None:
        self._timeline = timeline
        self._at.show_text(str(overlay.at))
        self._stays.show_text(str(timeline.overlay_part(overlay.id).count))
        self._blend.setCurrentIndex(self._blend.findData(overlay.blend))
        self._values.setCurrentIndex(self._values.findData(overlay.values))

    def _place(self, text: str) -> int:
        if self._timeline is None:
            return parse_place(text, None)
        return parse_place(text, self._timeline.rate, self._timeline.counting)

    def _frames(self, text: str) -> int:
        return parse_frames(text, self._timeline.rate if self._timeline else None)

    def _say(self, name: str, value: object) -> None:
        change = partial(change_overlay, overlay=self.of, **{name: value})  # type: ignore[arg-type]
        self.ask(name, change)

    def _say_blend(self, _index: int) -> None:
        self._say("blend", self._blend.currentData())

    def _say_values(self, _index: int) -> None:
        self._say("values", self._values.currentData())
