"""A lane: a head, and cards that scroll below it in an order of their own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Generic, TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QPushButton, QScrollArea, QVBoxLayout, QWidget

from waxseal.app.look.visible_rows import VisibleRows
from waxseal.app.look.widgets import label, row_of

__all__ = ["Lane", "scrolling"]

W = TypeVar("W", bound=QWidget)


def scrolling(inside: QWidget) -> QScrollArea:
    """A widget that scrolls up and down where it is too tall."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    inside.setObjectName("lane")
    area.setWidget(inside)
    return area


class Lane(QFrame, Generic[W]):
    """Holds a card for each id in sight, in the order that was asked for last.

    usual: the height of a closed card, in pixels.
    """

    def __init__(self, usual: int) -> None:
        super().__init__()
        self.setObjectName("lane")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(8, 8, 0, 8)
        self.column.setSpacing(8)
        self._list = VisibleRows[W](self.make_card, self.fill_card, usual=usual, spacing=8)
        inside = QWidget()
        below = QVBoxLayout(inside)
        below.setContentsMargins(0, 0, 8, 0)
        below.addWidget(self._list)
        below.addStretch(1)
        self.area = scrolling(inside)
        self._list.follow(self.area)

    @property
    def is_busy(self) -> bool:
        """Whether cards are still being made."""
        return self._list.is_busy

    @property
    def cards(self) -> Mapping[str, W]:
        """Those that are made: what is in sight, and some more."""
        return self._list.widgets

    def make_card(self, wanted: str) -> W:
        raise NotImplementedError

    def fill_card(self, wanted: str, card: W) -> None:
        """Let a card show what has changed."""
        raise NotImplementedError

    def put_head(self, title: str, add: QPushButton) -> None:
        head = row_of(label(title, "laneTitle"), 1, add)
        head.setContentsMargins(6, 0, 8, 0)
        self.column.addLayout(head)

    def show_cards(self, ids: Sequence[str], held: str, *, has_changed: bool = False) -> None:
        """Put all in order; held: the card whose docket is open stays when it scrolls away.

        has_changed: whether cards that are there have something else to show.
        """
        self._list.held = held
        self._list.show_ids(ids, has_changed=has_changed)

    def open_card(self, wanted: str, before: str) -> None:
        """Open the docket of a card, none if it is empty, and close that of the card before."""
        self._list.held = wanted
        self._list.tell(before, wanted)

    def card(self, wanted: str) -> W | None:
        """The card of an id, made now if it was out of sight."""
        return self._list.need(wanted)
