"""Widgets that keep keys to themselves which are shortcuts of the window elsewhere.

Space plays, but on a focused button it presses; arrows step, but in a list
they choose.
"""

from __future__ import annotations

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QKeyEvent, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import (
    QComboBox,
    QListView,
    QPushButton,
    QSizePolicy,
    QToolButton,
)
from typing_extensions import override

__all__ = ["Button", "Choice", "ToolButton", "keeps", "named_choice", "narrow_choice"]

NARROWEST = 40  # pixels, of what may shrink
SPACE = frozenset({Qt.Key.Key_Space})
MOVES = frozenset({Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End})


def keeps(event: QEvent, keys: frozenset[Qt.Key]) -> bool:
    """Whether an event asks if one of these keys is wanted here; accepts it then."""
    if event.type() is not QEvent.Type.ShortcutOverride or not isinstance(event, QKeyEvent):
        return False
    if event.key() not in keys or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
        return False
    event.accept()
    return True


class Button(QPushButton):
    """Where there is no room its words end in an ellipsis, and are whole in its tool tip.

    may_shrink: whether it takes less room than its words need.
    """

    def __init__(self, text: str = "", *, may_shrink: bool = False) -> None:
        super().__init__(text)
        self._may_shrink = may_shrink
        if may_shrink:
            self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)

    @override
    def minimumSizeHint(self) -> QSize:
        whole = super().minimumSizeHint()
        return QSize(min(whole.width(), NARROWEST), whole.height()) if self._may_shrink else whole

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        whole = super().minimumSizeHint().width()
        if self.width() >= whole:
            super().paintEvent(event)
            return
        from waxseal.app.look.elided_label import draw_button

        draw_button(self, self.width() - whole)

    @override
    def event(self, event: QEvent) -> bool:
        return keeps(event, SPACE) or super().event(event)


class ToolButton(QToolButton):
    @override
    def event(self, event: QEvent) -> bool:
        return keeps(event, SPACE) or super().event(event)


SPARE = 2  # pixels


class Choice(QComboBox):
    """Answers the wheel only while it has the focus: scrolling a lane changes nothing."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)  # the wheel brings no focus either
        rows = self.view()
        if isinstance(rows, QListView):
            rows.setUniformItemSizes(True)  # else another look measures each of 2000 sources

    @override
    def sizeHint(self) -> QSize:
        """Qt's own hint lacks the parts of a pixel that the longest entry may take."""
        return super().sizeHint() + QSize(SPARE, 0)

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        from waxseal.app.look.elided_label import draw_choice

        draw_choice(self)

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.hasFocus():
            super().wheelEvent(event)
        else:
            event.ignore()  # the lane takes it

    @override
    def event(self, event: QEvent) -> bool:
        return keeps(event, SPACE | MOVES) or super().event(event)


def named_choice(name: str, words: str, least: int = 6) -> Choice:
    """A choice that `narrow_choice` has set up."""
    box = Choice()
    narrow_choice(box, name, words, least)
    return box


def narrow_choice(box: Choice, name: str, words: str, least: int) -> None:
    """Let a choice be narrower than its longest entry, and measure none of them.

    words: for screen readers. least: how many characters there is always room for.
    """
    box.setObjectName(name)
    box.setAccessibleName(words)
    box.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(least)
