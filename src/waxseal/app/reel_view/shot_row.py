"""A row of the ledger: one shot, its trim bar, and its docket when it is open."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QMouseEvent
from typing_extensions import override

from waxseal.app.look.edit_signals import Pen
from waxseal.app.pictures import Pictures
from waxseal.app.reel_view.laid_row import LaidRow
from waxseal.app.reel_view.trim_bar import Share, TrimBar
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.timeline import Timeline

__all__ = ["ShotRow"]

DRAGGED = 6  # pixels before a press becomes a drag


class ShotRow(LaidRow):
    """moved: shot, global y of a drag. dropped: shot. looked_at: shot, its source's frame."""

    looked_at = Signal(str, int)
    moved = Signal(str, int)
    dropped = Signal(str)

    def __init__(self, programme: Programme, number: int, pictures: Pictures, pen: Pen) -> None:
        shot = programme.timeline.shots[number].laid.id
        bar = TrimBar(programme.timeline.job, shot, pen)
        bar.setObjectName(f"trim {shot}")
        super().__init__(shot, "", bar, pictures, pen)
        self.bar = bar
        self._pressed: QPoint | None = None
        self._is_dragging = False
        self._shown: tuple[object, ...] = ()
        self.bar.looked_at.connect(self._look)
        self.show_programme(programme, number, is_open=False)

    def show_programme(self, programme: Programme, number: int, *, is_open: bool) -> None:
        """Draw the shot again, if anything about it is another."""
        timeline = programme.timeline
        job = timeline.job
        shot = job.reel.shots[number]
        source = timeline.sources[shot.source]
        span = timeline.span(number)
        alone = timeline.alone(number)
        recipe = programme.recipe(alone.first)  # no picture of the shot before
        frame = (timeline.size, timeline.rate)
        shown = (shot, source, span, alone, number, is_open, *frame, recipe)
        if shown == self._shown and self._docket is None:
            return
        self._shown = shown
        self._sign.setText(str(number + 1))
        self._name.say(source.name)
        spoken = self.tr("Shot {0}, {1}").format(number + 1, source.name)
        join = timeline.joins[number]
        self.setAccessibleName(f"{spoken}, {join.words}" if join is not None else spoken)
        self.bar.show_job(job)
        self.bar.show_joins(*joined_shares(timeline, number))
        self.cells.show_part(timeline.shots[number], timeline)
        self.show_picture(partial(programme.recipe, alone.first))
        self.show_docket(shot, timeline, is_open=is_open)

    def _look(self, frame: int) -> None:
        self.looked_at.emit(self.laid, frame)

    # ---- order, by drag and by key ---------------------------------------------------------

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = event.globalPosition().toPoint()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        place = event.globalPosition().toPoint()
        if self._is_dragging or abs(place.y() - self._pressed.y()) > DRAGGED:
            self._is_dragging = True
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.moved.emit(self.laid, place.y())

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._is_dragging:
            self._is_dragging = False
            self.unsetCursor()
            self.dropped.emit(self.laid)
        elif self._pressed is not None:
            super().mouseReleaseEvent(event)
        self._pressed = None


def joined_shares(timeline: Timeline, number: int) -> tuple[Share, Share]:
    """How much of a shot its joins take at the bar's left end and its right, and a dip's colour."""
    shares = share_of(timeline, number, number), share_of(timeline, number, number + 1)
    return shares[::-1] if timeline.shots[number].is_backwards else shares


def share_of(timeline: Timeline, shot: int, other: int) -> Share:
    """other: the shot whose join it is."""
    span = timeline.joins[other] if other < len(timeline.joins) else None
    if span is None:
        return Share()
    frames = span.after if other == shot else span.before
    colour = span.join.colour if span.style.has_colour else ""
    return Share(frames / timeline.shots[shot].count, colour)
