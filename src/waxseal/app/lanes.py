"""The three lanes side by side: in-tray, reel, outbox; how wide each is, from day to day."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QSplitter, QVBoxLayout, QWidget
from typing_extensions import override

from waxseal.app.look.text_scale import px
from waxseal.app.reel_view.ledger import NARROWEST
from waxseal.app.window_settings import Settings

__all__ = ["Lanes"]

TRAY, OUTBOX, LEDGER = 248, 288, 240  # pixels, of a new window; on a large screen its share
OPEN_TRAY, OPEN_OUTBOX = 216, 604  # while a delivery is open
WIDE_TRAY = 420  # while a source is open
OPEN_LEDGER = 0.58  # of the height, while a shot is open
NOTHING_GIVES_WAY = 1900  # pixels of a window, from which on all have room
SIDE_SHARE, SIDE_MOST, LEDGER_SHARE = 0.11, 420, 0.28
LEAST_TRAY, LEAST_OUTBOX = 200, 260


class Lanes(QSplitter):
    """picture: what stands above the ledger, from the top; the first takes what is left."""

    def __init__(
        self,
        tray: QWidget,
        picture: Sequence[QWidget],
        ledger: QWidget,
        outbox: QWidget,
        settings: Settings,
    ) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self._settings, self._is_laid_out = settings, False
        self._tray, self._ledger = tray, ledger
        # The widths of the lanes, and the heights in the middle, while nothing is open.
        self._before: tuple[list[int], list[int]] | None = None
        self._has_folded = False  # the in-tray, to make room; not where somebody else did
        self.setHandleWidth(1)
        self.middle = QSplitter(Qt.Orientation.Vertical)
        self.middle.setHandleWidth(1)
        above = QWidget()
        inner = QVBoxLayout(above)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(0)
        for part in picture:
            inner.addWidget(part)
        inner.setStretch(0, 1)
        self.middle.addWidget(above)
        self.middle.addWidget(ledger)
        self.middle.setStretchFactor(0, 1)
        for lane in (tray, self.middle, outbox):
            self.addWidget(lane)
        self.setStretchFactor(1, 1)
        self.middle.setMinimumWidth(px(NARROWEST))
        tray.setMinimumWidth(px(LEAST_TRAY))
        outbox.setMinimumWidth(px(LEAST_OUTBOX))

    @override
    def showEvent(self, event: QShowEvent) -> None:
        """Widths come with the window's own: before it has one, all would be squeezed for good."""
        super().showEvent(event)
        if self._is_laid_out:
            return
        self._is_laid_out = True
        side = min(int(SIDE_SHARE * self.width()), px(SIDE_MOST))
        tray, outbox = max(px(TRAY), side), max(px(OUTBOX), side)
        ledger = max(px(LEDGER), int(LEDGER_SHARE * self.height()))
        if not self.restoreState(self._settings.layout("lanes")):
            self.setSizes([tray, self.width() - tray - outbox, outbox])
        if not self.middle.restoreState(self._settings.layout("middle")):
            self.middle.setSizes([self.height() - ledger, ledger])

    def give_room(self, lane: QWidget | None) -> None:
        """Make the lane wide whose docket is open; None: everything goes back."""
        if not self._is_laid_out:
            return
        if self._before is not None:
            widths, heights = self._before
            if self._has_folded:
                self._tray.show()
            self._has_folded = False
            self.setSizes(widths)
            self.middle.setSizes(heights)
            self._before = None
        if lane is None:
            return
        self._before = self.sizes(), self.middle.sizes()
        if lane is self._ledger:
            ledger = max(self.middle.sizes()[1], round(OPEN_LEDGER * self.middle.height()))
            self.middle.setSizes([self.middle.height() - ledger, ledger])
            return
        tray, _, outbox = self.sizes()
        least = self.middle.minimumWidth()
        if lane is self._tray:
            tray = max(tray, min(px(WIDE_TRAY), self.width() - outbox - least))
        else:
            wide = max(outbox, px(OPEN_OUTBOX))
            if self.width() < px(NOTHING_GIVES_WAY):
                tray = min(tray, px(OPEN_TRAY))
            if tray + least + wide > self.width():
                tray = 0  # it comes back when the delivery is closed
                self._has_folded = not self._tray.isHidden()
                self._tray.hide()
            outbox = max(outbox, min(wide, self.width() - tray - least))
        self.setSizes([tray, self.width() - tray - outbox, outbox])

    def keep(self) -> None:
        """Remember the widths for the next day."""
        self.give_room(None)
        self._settings.keep_layout("lanes", self.saveState())
        self._settings.keep_layout("middle", self.middle.saveState())
