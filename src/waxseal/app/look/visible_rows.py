"""A tall column of widgets that are made when they come into sight: thousands cost what shows."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence
from itertools import accumulate
from math import inf
from statistics import median_low
from time import monotonic
from typing import Generic, TypeVar

from PySide6.QtCore import QEvent, QSize, QTimer
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QApplication, QScrollArea, QSizePolicy, QWidget
from typing_extensions import override

from waxseal.app.look.idle_steps import IdleSteps
from waxseal.app.look.widgets import discard

__all__ = ["VisibleRows"]

W = TypeVar("W", bound=QWidget)
AT_ONCE, AT_A_TIME = 3, 1  # widgets made in one go: of a new list, and as it comes into sight
TOLD_AT_ONCE = 8  # widgets that are told in one go that what they show has changed
TOLD_FOR_S = 0.006  # of a longer list, those that are told within this time
LONG = 60  # ids: what shows a longer list has enough to do besides, so that one is made at once
AHEAD = 400  # pixels above and below what shows that are ready too
KEPT = 80  # widgets; beyond this, those that are far out of sight are let go


class VisibleRows(QWidget, Generic[W]):
    """Holds a widget for each id that is in sight, or was lately, below one another.

    make: makes the widget of an id. tell: lets it show what has changed. usual: the height, in
        pixels, that one takes that has not been made yet. spacing: pixels between two.
    held: the id of a widget that stays even when it is far out of sight.
    """

    def __init__(
        self,
        make: Callable[[str], W],
        tell: Callable[[str, W], None],
        *,
        usual: int,
        spacing: int,
    ) -> None:
        super().__init__()
        self.widgets: dict[str, W] = {}
        self.held = ""
        self._make, self._tell, self._usual, self._spacing = make, tell, usual, spacing
        self._untold: list[str] = []
        self._ids: list[str] = []
        self._places: dict[str, int] = {}  # which of them each one is
        self._heights: dict[str, int] = {}
        self._tops: list[int] = [0]  # where each one starts, and where the last one ends
        self._is_measured = True
        self._is_placing = False
        self._rest = IdleSteps(self, self._make_some)
        self._telling = IdleSteps(self, self._tell_some)
        self._placing = QTimer(self, singleShot=True, interval=0)
        self._placing.timeout.connect(self._place_again)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def follow(self, area: QScrollArea) -> None:
        """Take what the area scrolls to, and what it is resized to, for what is in sight."""
        bar = area.verticalScrollBar()
        bar.valueChanged.connect(self._look_again)
        bar.rangeChanged.connect(self._look_again)

    @property
    def is_busy(self) -> bool:
        """Whether widgets in sight are still being made, or told what has changed."""
        return self._rest.is_busy or self._telling.is_busy

    def show_ids(self, ids: Sequence[str], *, has_changed: bool = False) -> None:
        """The ids from now on, in their order; widgets of others go.

        has_changed: whether those that are there are to be told. Of many, first the one that is
        held and what is in sight.
        """
        if self._ids != list(ids):
            self._take(list(ids))
        if has_changed:
            seen = [ids[place] for place in self._in_sight() if place < len(ids)]
            self._untold = [
                one
                for one in dict.fromkeys((self.held, *seen, *self.widgets))
                if one in self.widgets
            ]
        self._measure()
        for one in ids[: AT_ONCE if len(ids) < LONG else 1]:  # so that something shows at once
            self._widget_of(one)
        # From here on the ids may be others: what is told may change the list.
        if has_changed and self._tell_some():
            self._telling.start()
        self._place()
        self._make_rest()

    def _take(self, ids: list[str]) -> None:
        self._ids, self._is_measured = ids, False
        self._places = {one: place for place, one in enumerate(ids)}
        for gone in [one for one in self.widgets if one not in self._places]:
            self._let_go(gone)
        if len(self._heights) > len(ids):
            self._heights = {
                one: height for one, height in self._heights.items() if one in self._places
            }

    def need(self, wanted: str) -> W | None:
        """The widget of an id, made and placed now if it was out of sight; None: no such id."""
        if wanted not in self.widgets and wanted in self._places:
            self._widget_of(wanted)
            self._place()
        if wanted in self._untold:
            self._tell_one(wanted)
        return self.widgets.get(wanted)

    def tell(self, *ids: str) -> None:
        """Let these, and no others, show at once what has changed."""
        for one in ids:
            if one in self.widgets:
                self._tell_one(one)
        self._place()

    def gap_at(self, y: int) -> tuple[int, int]:
        """The gap nearest to a height: how many are above it, and its own height, in pixels."""
        after = bisect_right(self._tops, y, hi=len(self._ids))
        before = max(0, after - 1)
        is_lower_half = y > (self._tops[before] + self._tops[min(after, len(self._ids))]) / 2
        place = after if is_lower_half else before
        return place, self._tops[place]

    # ---- making ------------------------------------------------------------------------------

    def _widget_of(self, one: str) -> W:
        if one not in self.widgets:
            widget = self.widgets[one] = self._make(one)
            widget.setParent(self)
            widget.show()
        return self.widgets[one]

    def _tell_some(self) -> bool:
        """Let some widgets show what has changed. Returns whether there are more."""
        end = monotonic() + (TOLD_FOR_S if len(self._ids) >= LONG else inf)
        for _ in range(min(TOLD_AT_ONCE, len(self._untold))):
            if self._untold and monotonic() < end:  # else it was told meanwhile, or is gone
                self._tell_one(self._untold[0])
        return bool(self._untold)

    def _tell_one(self, one: str) -> None:
        if one in self._untold:
            self._untold.remove(one)
        self._tell(one, self.widgets[one])

    def _let_go(self, one: str) -> None:
        widget = self.widgets.pop(one)
        if one in self._untold:
            self._untold.remove(one)
        discard(widget)

    def _in_sight(self) -> range:
        """The places of those that show, and of some beyond."""
        sight = self.visibleRegion().boundingRect()
        if sight.isEmpty() or not self._ids:
            return range(0)
        first = bisect_right(self._tops, sight.top() - AHEAD) - 1
        last = bisect_left(self._tops, sight.bottom() + AHEAD)
        return range(max(0, first), min(last, len(self._ids)))

    def _make_rest(self) -> None:
        if any(self._ids[place] not in self.widgets for place in self._in_sight()):
            self._rest.start()

    def _make_some(self) -> bool:
        """Make what is in sight, in its order; whether some is left to be made."""
        missing = [
            self._ids[place] for place in self._in_sight() if self._ids[place] not in self.widgets
        ]
        for one in missing[:AT_A_TIME]:
            self._widget_of(one)
        self._place()
        self._thin()
        return len(missing) > AT_A_TIME

    def _thin(self) -> None:
        """Let widgets go that are far out of sight, but none that is open or in use."""
        if len(self.widgets) <= KEPT:
            return
        near = {self._ids[place] for place in self._in_sight()} | {*self._ids[:AT_ONCE], self.held}
        used = QApplication.focusWidget()
        for one, widget in list(self.widgets.items()):
            is_used = used is not None and (used is widget or widget.isAncestorOf(used))
            if one not in near and not is_used:
                self._let_go(one)

    # ---- placing -----------------------------------------------------------------------------

    def _measure(self) -> None:
        for one, widget in self.widgets.items():
            height = self._height_of(widget)
            if self._heights.get(one) != height:
                self._heights[one], self._is_measured = height, False
        if self._is_measured:
            return
        self._is_measured = True
        if self._heights:
            self._usual = median_low(self._heights.values())
        steps = [self._usual + self._spacing] * len(self._ids)
        for one, height in self._heights.items():  # few, where the ids are thousands
            if one in self._places:
                steps[self._places[one]] = height + self._spacing
        self._tops = list(accumulate(steps, initial=0))

    def _height_of(self, widget: QWidget) -> int:
        height = (
            widget.heightForWidth(self.width())
            if widget.hasHeightForWidth()
            else widget.sizeHint().height()
        )
        return max(height, widget.minimumSizeHint().height(), widget.minimumHeight())

    def _place(self) -> None:
        if self._is_placing:
            return
        self._is_placing = True
        before = self._tops[-1]
        self._measure()
        for one, widget in self.widgets.items():
            top = self._tops[self._places[one]]
            widget.setGeometry(0, top, self.width(), self._heights[one])
        if before != self._tops[-1] or self.minimumHeight() != self._tops[-1]:
            self.setMinimumHeight(self._tops[-1])
            self.updateGeometry()
        self._is_placing = False

    def _look_again(self) -> None:
        self._placing.start()

    def _place_again(self) -> None:
        self._place()
        self._make_rest()

    @override
    def sizeHint(self) -> QSize:
        return QSize(super().sizeHint().width(), self._tops[-1])

    @override
    def event(self, event: QEvent) -> bool:
        # A card that grows or shrinks tells the widget it is on, which has no Qt layout.
        if event.type() is QEvent.Type.LayoutRequest:
            self._place_again()
        return super().event(event)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()
        self._placing.start()

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._placing.start()
