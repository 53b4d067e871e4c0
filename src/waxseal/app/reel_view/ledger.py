"""The ledger: the reel as rows, for changing. Rows are dragged or moved by key."""

from __future__ import annotations

from fractions import Fraction
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from waxseal.app.look.card_lane import scrolling
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.lazy_docket import LazySection
from waxseal.app.look.leave_out import GivesWay, LeaveOut
from waxseal.app.look.scroll_to import ScrollTo
from waxseal.app.look.text_scale import px
from waxseal.app.look.visible_rows import VisibleRows
from waxseal.app.look.waveform import Peaks
from waxseal.app.look.widgets import Elided, Field, button, discard, label, row_of
from waxseal.app.pictures import Pictures
from waxseal.app.reel_view import reel_texts
from waxseal.app.reel_view.ledger_columns import RIGHT, fit, tr, widths_of_left
from waxseal.app.reel_view.overlay_offer import Offer
from waxseal.core.errors import WrongUse
from waxseal.core.job.edits import (
    Edit,
    move_overlay,
    move_shot,
    remove_overlay,
    remove_shot,
    set_reel_rate,
    set_reel_size,
)
from waxseal.core.job.model import Job, Size
from waxseal.core.job.sizes import parse_size
from waxseal.core.plan.programme import Programme
from waxseal.core.timing.rates import parse_rate, rate_words

if TYPE_CHECKING:  # imported when there is something to show, so that the window starts sooner
    from waxseal.app.reel_view.overlay_row import OverlayRow
    from waxseal.app.reel_view.reel_docket import ReelDocket
    from waxseal.app.reel_view.shot_row import ShotRow
    from waxseal.app.reel_view.sound_row import SoundRow

__all__ = ["NARROWEST", "Ledger"]

ROW_TALL = 30  # pixels
NARROWEST = 280


class Ledger(QFrame):
    opened = Signal(bool)  # whether a docket is open
    looked_at = Signal(str, int)
    menu_asked = Signal(str, object)
    overlay_menu_asked = Signal(str, object)
    frame_asked = Signal(int)
    listen_asked = Signal(str, str, bool)
    line_up_asked = Signal(str)

    def __init__(self, pictures: Pictures, peaks: Peaks, pen: Pen) -> None:
        super().__init__()
        self._pen = pen
        self.setObjectName("lane")
        self._pictures, self._peaks = pictures, peaks
        self._programme: Programme | None = None
        self._numbers: dict[str, int] = {}  # the shots' places on the reel
        self._shots: VisibleRows[ShotRow] = VisibleRows(
            self._new_row, self._fill_row, usual=ROW_TALL, spacing=0
        )
        self._overlays: dict[str, OverlayRow] = {}
        self._sounds: VisibleRows[SoundRow] = VisibleRows(
            self._new_sound, self._fill_sound, usual=ROW_TALL, spacing=0
        )
        self._muted: frozenset[str] = frozenset()  # sounds, while somebody listens
        self._solo: frozenset[str] = frozenset()
        self._open = ""
        self._target: int | None = None
        self.setMinimumWidth(px(NARROWEST))
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 8, 4)
        column.setSpacing(4)
        column.addLayout(self._head())
        self._title_row = QWidget()
        self._title_row.setLayout(self._titles())
        self.offer = Offer(pen)
        column.addWidget(self.offer)
        column.addWidget(self._title_row)
        self._empty = label(self.tr(reel_texts.THE_REEL_APPEARS_HERE), "quiet", wraps=True)
        self._empty.setContentsMargins(0, 12, 12, 0)
        self._empty.setAlignment(Qt.AlignmentFlag.AlignTop)
        column.addWidget(self._empty, 1)
        self._inside = QWidget()
        self._list = QVBoxLayout(self._inside)
        self._list.setContentsMargins(0, 0, 6, 0)
        self._list.setSpacing(0)
        over = QWidget()
        self._over = QVBoxLayout(over)  # overlays, the highest first
        self._over.setContentsMargins(0, 0, 0, 0)
        self._over.setSpacing(0)
        self._list.addWidget(over)
        self._list.addWidget(self._shots)
        self._list.addWidget(self._sounds)
        self._list.addStretch(1)
        self._reel = LazySection(self._new_reel, self._fill_reel)
        outer = QWidget()
        above = QVBoxLayout(outer)
        above.setContentsMargins(0, 0, 0, 0)
        above.setSpacing(0)
        above.addWidget(self._reel)
        above.addWidget(self._inside, 1)
        self._area = scrolling(outer)
        column.addWidget(self._area, 1)
        self._shots.follow(self._area)
        self._sounds.follow(self._area)
        self._bringing = ScrollTo(self._area)
        self._line = QFrame(self._shots)
        self._line.setObjectName("drop")
        self._line.setFixedHeight(2)
        self._line.hide()

    def _head(self) -> QHBoxLayout:
        self._size = Field("", self.tr("The reel's size"), parse_reel_size)
        self._size.setObjectName("reelSize")
        self._size.setFixedWidth(px(88))
        self._size.said.connect(self._say_size)
        self._size.wrong.connect(self._pen.complained)
        self._rate = Field("", self.tr("The reel's rate"), parse_reel_rate)
        self._rate.setObjectName("reelRate")
        self._rate.setFixedWidth(px(58))
        self._rate.said.connect(self._say_rate)
        self._rate.wrong.connect(self._pen.complained)
        self._follows = label("", "small")
        self._back = button(self.tr(reel_texts.FOLLOW_ITS_SHOTS), self._follow, "word")
        title = label(self.tr("LEDGER"), "laneTitle")
        size, rate = label(self.tr("Size"), "quiet"), label(self.tr("Rate"), "quiet")
        self._open_reel = button(self.tr("Colour and finish"), self.toggle_reel, "word")
        row = row_of(
            title, self._open_reel, 1, self._follows, self._back, size, self._size, rate, self._rate
        )
        LeaveOut(self, row, (self._follows, title, size, rate))
        return row

    def _titles(self) -> QHBoxLayout:
        left = Elided(self.tr(reel_texts.SOURCE_AND_THE_PART), "columnTitle")
        left.setContentsMargins(0, 0, 0, 0)
        ahead = QLabel()
        ahead.setFixedWidth(widths_of_left())
        titles = [ahead, left]
        row = row_of(*titles)
        row.setStretch(1, 1)
        give_way: dict[QWidget, int] = {}
        for column in RIGHT:
            title = Elided(tr(column.title), "columnTitle")
            give_way[title] = column.gives_way
            fit(title, column.width)
            row.addWidget(title)
        row.setContentsMargins(0, 0, 6, 0)
        GivesWay(self._title_row, give_way)
        return row

    def show_programme(self, programme: Programme | None, job: Job) -> None:
        self._programme = programme
        self._show_reel(programme, job)
        self.offer.show_job(job)
        self._title_row.setVisible(programme is not None)
        self._empty.setVisible(programme is None)
        self._area.setVisible(programme is not None)
        shots = [shot.id for shot in job.reel.shots] if programme is not None else []
        self._numbers = {shot: number for number, shot in enumerate(shots)}
        self._shots.held = self._open
        self._shots.show_ids(shots, has_changed=True)
        self._show_overlays(programme, job)
        self._sounds.held = self._open
        sounds = [one.id for one in job.reel.sounds] if programme is not None else []
        self._sounds.show_ids(sounds, has_changed=True)
        self._open_reel.setEnabled(programme is not None)
        count = len(job.reel.finish.working)
        self._open_reel.setText(
            self.tr("Colour and finish ({0})").format(count)
            if count
            else self.tr("Colour and finish")
        )
        self._reel.refresh()

    def toggle_reel(self) -> None:
        """Open or close the docket of the whole reel."""
        self._reel.toggle()

    def _new_reel(self) -> ReelDocket:
        from waxseal.app.reel_view.reel_docket import ReelDocket

        return ReelDocket(self._pen)

    def _fill_reel(self, docket: ReelDocket) -> None:
        if self._programme is not None:
            docket.show_job(self._programme.timeline.job)

    def _show_overlays(self, programme: Programme | None, job: Job) -> None:
        wanted = [one.id for one in reversed(job.reel.overlays)] if programme else []
        for gone in set(self._overlays) - set(wanted):
            row = self._overlays.pop(gone)
            self._over.removeWidget(row)
            discard(row)
        for place, overlay in enumerate(wanted):
            if programme is None:
                return
            if overlay not in self._overlays:
                self._overlays[overlay] = self._new_overlay(overlay)
            row = self._overlays[overlay]
            if self._over.indexOf(row) != place:
                self._over.insertWidget(place, row)
            row.show_timeline(programme.timeline, is_open=overlay == self._open)

    def _new_overlay(self, overlay: str) -> OverlayRow:
        from waxseal.app.reel_view.overlay_row import OverlayRow

        row = OverlayRow(overlay, self._pictures, self._pen)
        row.looked_at.connect(self.frame_asked)
        row.toggled.connect(self.toggle)
        row.stepped.connect(self._step_overlay)
        row.remove_asked.connect(self.remove_overlay)
        row.menu_asked.connect(self.overlay_menu_asked)
        return row

    def overlay(self, overlay: str) -> OverlayRow | None:
        return self._overlays.get(overlay)

    def _step_overlay(self, overlay: str, by: int) -> None:
        if self._programme is None:
            return
        there = [one.id for one in self._programme.timeline.job.reel.overlays]
        to = there.index(overlay) - by  # the highest comes first
        if 0 <= to < len(there):
            change = partial(move_overlay, overlay=overlay, to=to)
            self._pen.asked.emit(Edit(self.tr(reel_texts.ANOTHER_ORDER_OF_OVERLAYS), change))

    def remove_overlay(self, overlay: str) -> None:
        change = partial(remove_overlay, overlay=overlay)
        self._pen.asked.emit(Edit(self.tr(reel_texts.TAKE_AN_OVERLAY_OFF), change))

    @property
    def is_busy(self) -> bool:
        """Whether rows are still being made."""
        return self._shots.is_busy or self._sounds.is_busy

    def _show_reel(self, programme: Programme | None, job: Job) -> None:
        for widget in (self._size, self._rate, self._back, self._follows):
            widget.setEnabled(programme is not None)
        said = job.reel.size is not None or job.reel.rate is not None
        self._back.setVisible(said)
        self._follows.setText(
            "" if said or programme is None else self.tr(reel_texts.SET_BY_ITS_SHOTS)
        )
        self._size.show_text(str(programme.timeline.size) if programme else "")
        self._rate.show_text(rate_words(programme.timeline.rate) if programme else "")

    def _new_row(self, shot: str) -> ShotRow:
        if self._programme is None:
            raise WrongUse("A row was asked for while there is no reel.")
        number = self._numbers[shot]
        from waxseal.app.reel_view.shot_row import ShotRow

        row = ShotRow(self._programme, number, self._pictures, self._pen)
        row.looked_at.connect(self.looked_at)
        row.toggled.connect(self.toggle)
        row.moved.connect(self._drag)
        row.dropped.connect(self._drop)
        row.stepped.connect(self.step)
        row.remove_asked.connect(self.remove)
        row.menu_asked.connect(self.menu_asked)
        self._fill_row(shot, row)
        return row

    def _fill_row(self, shot: str, row: ShotRow) -> None:
        if self._programme is not None:
            number = self._numbers[shot]
            row.show_programme(self._programme, number, is_open=shot == self._open)

    def _new_sound(self, laid: str) -> SoundRow:
        from waxseal.app.reel_view.sound_row import SoundRow

        row = SoundRow(laid, self._peaks, self._pen)
        row.toggled.connect(self.toggle)
        row.listen_asked.connect(self.listen_asked)
        row.line_up_asked.connect(self.line_up_asked)
        self._fill_sound(laid, row)
        return row

    def _fill_sound(self, laid: str, row: SoundRow) -> None:
        if self._programme is not None:
            row.show_timeline(self._programme.timeline, is_open=laid == self._open)
            if laid in self._muted or laid in self._solo:
                row.show_listening(is_muted=laid in self._muted, is_alone=laid in self._solo)

    def show_listening(self, muted: frozenset[str], solo: frozenset[str]) -> None:
        """Which sounds are left out, or alone, while somebody listens."""
        self._muted, self._solo = muted, solo
        for laid, row in self._sounds.widgets.items():
            row.show_listening(is_muted=laid in muted, is_alone=laid in solo)

    def sound(self, laid: str) -> SoundRow | None:
        """The row of a sound, by its id on the reel."""
        return self._sounds.need(laid)

    def row(self, shot: str) -> ShotRow | None:
        """The row of a shot, made now if it was out of sight."""
        return self._shots.need(shot)

    def close_all(self) -> None:
        """Another job: no docket stays open."""
        self._open = ""
        self.opened.emit(False)

    def close_docket(self) -> None:
        if self._open:
            self.toggle(self._open)

    def toggle(self, shot: str) -> None:
        """Open the docket of a shot or an overlay in place and in sight, or close it."""
        before, self._open = self._open, "" if self._open == shot else shot
        self.opened.emit(bool(self._open))
        if self._programme is not None:
            self._shots.held = self._open
            self._shots.tell(before, self._open)
            self._sounds.held = self._open
            self._sounds.tell(before, self._open)
            self._show_overlays(self._programme, self._programme.timeline.job)
            self._bringing.to_top(partial(self._row_or_overlay, self._open))

    def write_on(self, laid: str) -> None:
        """Open the docket of a card, with its first words chosen: to type writes others."""
        if self._open != laid:
            self.toggle(laid)
        QTimer.singleShot(0, partial(self._focus_words, laid))

    def _focus_words(self, laid: str) -> None:
        from waxseal.app.finish_panel.correction_row import LineBox

        row = self._row_or_overlay(laid)
        words = row.findChild(LineBox) if row is not None else None
        if words is not None:
            words.setFocus(Qt.FocusReason.OtherFocusReason)
            words.selectAll()
            # The docket has its size when the events of its layout are through.
            QTimer.singleShot(0, partial(self._area.ensureWidgetVisible, words))

    def _row_or_overlay(self, laid: str) -> ShotRow | OverlayRow | SoundRow | None:
        return self._shots.need(laid) or self._overlays.get(laid) or self._sounds.need(laid)

    # ---- order -----------------------------------------------------------------------------

    def _drag(self, shot: str, y: int) -> None:
        """Show between which rows a dragged one would come to lie."""
        if self._programme is None:
            return
        above = self._shots.mapFromGlobal(QPoint(0, y)).y()
        self._target, place = self._shots.gap_at(above)
        self._line.setGeometry(0, max(0, place - 1), self._shots.width(), 2)
        self._line.show()
        self._line.raise_()

    def _drop(self, shot: str) -> None:
        self._line.hide()
        if self._target is None or self._programme is None:
            return
        before = [one.id for one in self._programme.timeline.job.reel.shots].index(shot)
        to = self._target - 1 if self._target > before else self._target
        self._target = None
        if to != before:
            self._move(shot, to)

    def step(self, shot: str, by: int) -> None:
        if self._programme is None:
            return
        shots = [one.id for one in self._programme.timeline.job.reel.shots]
        to = shots.index(shot) + by
        if 0 <= to < len(shots):
            self._move(shot, to)
            row = self._shots.need(shot)
            if row is not None:
                row.setFocus(Qt.FocusReason.OtherFocusReason)

    def _move(self, shot: str, to: int) -> None:
        self._pen.asked.emit(
            Edit(self.tr("move {0}").format(self._name(shot)), partial(move_shot, shot=shot, to=to))
        )

    def remove(self, shot: str) -> None:
        words = self.tr(reel_texts.TAKE_OFF_THE_REEL).format(self._name(shot))
        self._pen.asked.emit(Edit(words, partial(remove_shot, shot=shot)))

    def _name(self, shot: str) -> str:
        if self._programme is None:
            return shot
        job = self._programme.timeline.job
        return job.sequence(job.shot(shot).source).name

    # ---- the reel itself -------------------------------------------------------------------

    def _say_size(self, size: Size | None) -> None:
        self._pen.asked.emit(Edit(self.tr("the reel's size"), partial(set_reel_size, size=size)))

    def _say_rate(self, rate: Fraction | None) -> None:
        self._pen.asked.emit(Edit(self.tr("the reel's rate"), partial(set_reel_rate, rate=rate)))

    def _follow(self) -> None:
        self._pen.asked.emit(Edit(self.tr(reel_texts.THE_REEL_AS_ITS_SHOTS), follow_first))


def follow_first(job: Job) -> Job:
    return set_reel_rate(set_reel_size(job, size=None), rate=None)


def parse_reel_size(text: str) -> Size | None:
    return parse_size(text) if text.strip() else None


def parse_reel_rate(text: str) -> Fraction | None:
    return parse_rate(text) if text.strip() else None
