"""A lane: a head, and cards that scroll below it in an order of their own."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Generic, TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QPushButton, QScrollArea, QVBoxLayout, QWidget

from waxseal.app.look.gradually import Gradually
from waxseal.app.look.small import label, row_of

__all__ = ["Lane", "scrolling"]

W = TypeVar("W", bound=QWidget)
AT_ONCE, AT_A_TIME = 16, 2  # cards


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
    """Holds a widget for each id, in the order that was asked for last."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("lane")
        self.cards: dict[str, W] = {}
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(8, 8, 0, 8)
        self.column.setSpacing(8)
        inside = QWidget()
        self._list = QVBoxLayout(inside)
        self._list.setContentsMargins(0, 0, 8, 0)
        self._list.setSpacing(8)
        self._list.addStretch(1)
        self.area = scrolling(inside)
        self._wanted: Sequence[str] = ()
        self._placed: list[str] = []  # the cards in the list, in its order
        self._make: Callable[[str], W] | None = None
        self._rest = Gradually(self, self._make_some)

    @property
    def is_busy(self) -> bool:
        """Whether cards are still being made."""
        return self._rest.is_busy

    def put_head(self, title: str, add: QPushButton) -> None:
        head = row_of(label(title, "laneTitle"), 1, add)
        head.setContentsMargins(6, 0, 8, 0)
        self.column.addLayout(head)

    def show_cards(self, ids: Sequence[str], make: Callable[[str], W]) -> None:
        """Make what is new, drop what is gone, put all in order.

        Many new ones are made by and by: the first at once, the rest as the
        window finds time.
        """
        self._wanted, self._make = ids, make
        for gone in set(self.cards) - set(ids):
            card = self.cards.pop(gone)
            self._placed.remove(gone)
            self._list.removeWidget(card)
            card.hide()
            card.deleteLater()
        if self._make_some(AT_ONCE):
            self._rest.start()

    def _make_some(self, most: int = AT_A_TIME) -> bool:
        """Make cards in their order; whether some are left to be made."""
        made = 0
        for place, one in enumerate(self._wanted):
            if one not in self.cards:
                if made == most or self._make is None:
                    return True
                self.cards[one] = self._make(one)
                made += 1
            if self._placed[place : place + 1] != [one]:
                if one in self._placed:
                    self._placed.remove(one)
                self._placed.insert(place, one)
                self._list.insertWidget(place, self.cards[one])
        return False

    def card(self, wanted: str) -> W | None:
        return self.cards.get(wanted)
