"""Python's collector of circles of objects: it stops everything, so it works while nobody does.

A look at all objects of a large job takes a tenth of a second and more, in the midst of
whatever runs. Young objects are looked at as always; all of them when nothing has moved for a
while. (What a job is made of has no circles: it goes as soon as nobody holds it.)
"""

from __future__ import annotations

import gc
from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QApplication

__all__ = ["Tidying"]

YOUNG, OLDER, NEVER = 5_000, 10, 1_000_000  # objects; rounds
LOOK_MS = 10_000
RESTING = 3  # looks at which nothing had moved


class Tidying(QObject):
    """state: what is another while somebody works; None while a stop would be seen."""

    def __init__(self, parent: QObject, state: Callable[[], object | None]) -> None:
        super().__init__(parent)
        self._state, self._before, self._rested = state, object(), 0
        gc.freeze()  # what is there from the start stays
        gc.set_threshold(YOUNG, OLDER, NEVER)
        gc.enable()
        looking = QTimer(self, interval=LOOK_MS)
        looking.timeout.connect(self.look)
        looking.start()

    def look(self) -> None:
        """Collect, once, when nothing has moved for some looks."""
        state = self._state()
        pressed = QApplication.mouseButtons() != Qt.MouseButton.NoButton
        now = (state, QCursor.pos())
        rests = state is not None and not pressed and now == self._before
        self._before = now
        self._rested = self._rested + 1 if rests else 0
        if self._rested == RESTING:
            gc.collect()
