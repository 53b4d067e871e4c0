"""What the ledger's rows of shots and of overlays have in common: a line, and a docket below."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget
from typing_extensions import override

from waxseal.app.look.card_frame import CardWithMenu
from waxseal.app.look.edit_signals import Pen
from waxseal.app.look.text_scale import px
from waxseal.app.look.widgets import Elided, Strip, discard, label, restyle
from waxseal.app.pictures import Pictures, ScreenKey
from waxseal.app.reel_view import reel_texts
from waxseal.app.reel_view.ledger_columns import AHEAD, LEFT, Cells
from waxseal.app.reel_view.shot_docket import LaidDocket
from waxseal.core.job.model import Overlay, Shot
from waxseal.core.plan.recipe import Recipe
from waxseal.core.plan.timeline import Timeline

__all__ = ["LaidRow"]

THUMB_TALL = 26


class LaidRow(CardWithMenu):
    """stepped: its id and -1 for Alt+Up, 1 for Alt+Down, to change places."""

    toggled = Signal(str)
    stepped = Signal(str, int)
    remove_asked = Signal(str)

    def __init__(self, laid: str, sign: str, bar: QWidget, pictures: Pictures, pen: Pen) -> None:
        super().__init__(laid)
        self._pen = pen
        self.setObjectName("row")
        self.laid = laid
        self._pictures = pictures
        self._thumb: ScreenKey | None = None
        self._recipe: Recipe | None = None
        self._recipe_now: Callable[[], Recipe] | None = None
        pictures.learned.connect(self._refresh)
        self._docket: LaidDocket | None = None
        self._is_open = False
        self.opened.connect(self._toggle)
        self.setAccessibleDescription(self.tr(reel_texts.KEYS_OF_A_ROW))
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(AHEAD, 2, 0, 2)
        self._column.setSpacing(2)
        line = QHBoxLayout()
        line.setSpacing(8)
        self._column.addLayout(line)
        self._sign = label(sign, "quiet")
        self._sign.setFixedWidth(px(LEFT["number"]))
        self._strip = Strip(1, height=THUMB_TALL)
        self._strip.setFixedWidth(px(LEFT["picture"]))
        self._name = Elided("", "name")
        self._name.setFixedWidth(px(LEFT["name"]))
        self.cells = Cells()
        for left in (self._sign, self._strip, self._name):
            line.addWidget(left)
        line.addWidget(bar, 1)
        self.cells.add_to(line)
        self.cells.give_way_on(self)

    def show_picture(self, recipe_now: Callable[[], Recipe]) -> None:
        """What its small picture shows, of files as they are known now."""
        self._recipe_now = recipe_now
        self._refresh()

    def _refresh(self) -> None:
        recipe = self._recipe_now() if self._recipe_now is not None else self._recipe
        if recipe != self._recipe:
            self._recipe, self._thumb = recipe, None
            self.update()

    def show_docket(self, laid: Shot | Overlay, timeline: Timeline, *, is_open: bool) -> None:
        """Open, close or refresh the docket below the line; scrubbed fields stay where they are."""
        self._is_open = self.is_spoken_open = is_open
        restyle(self, chosen=is_open or self.hasFocus())
        if not is_open:
            if self._docket is not None:
                discard(self._docket)
                self._docket = None
            return
        if self._docket is None:
            self._docket = LaidDocket(laid, self._name.whole, self._pen)
            self._docket.setContentsMargins(26, 2, 0, 6)
            self._column.addWidget(self._docket)
        self._docket.show_laid(laid, timeline)

    def _toggle(self) -> None:
        self.toggled.emit(self.laid)

    def _made(self, key: ScreenKey) -> None:
        if key == self._thumb:
            self._strip.show_image(0, self._pictures.get(key))

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        if self._thumb is None and self._recipe is not None:  # only rows in sight are decoded
            recipe = self._recipe
            width = max(1, min(px(LEFT["picture"]), THUMB_TALL * recipe.width // recipe.height))
            self._thumb = self._pictures.ask(recipe, width, THUMB_TALL, tell=self._made)
            self._made(self._thumb)
        super().paintEvent(event)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, alt = event.key(), event.modifiers() & Qt.KeyboardModifier.AltModifier
        if alt and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.stepped.emit(self.laid, -1 if key == Qt.Key.Key_Up else 1)
        elif key == Qt.Key.Key_Delete:
            self.remove_asked.emit(self.laid)
        else:
            super().keyPressEvent(event)

    @override
    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        restyle(self, chosen=self._is_open)  # an open row stays marked
