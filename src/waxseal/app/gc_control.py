"""Python's collector of circles of objects, on the window's thread only, and when it is free.

By itself the collector works on whichever thread makes an object. A Qt object in a circle
would then be destroyed away from its own thread, which ends the application now and then.

It also stops everything. So young objects are looked at once a second, as long as they are
few, and all of them when nothing has moved for a while. (What a job is made of has no
circles: it goes as soon as nobody holds it.)
"""

from __future__ import annotations

import gc
from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QApplication

__all__ = ["GarbageControl", "collect_here_only"]

MANY = 100_000  # objects: a look at them takes 5 ms and more
LOOK_MS = 1_000
RESTING = 30  # looks at which nothing had moved


def collect_here_only() -> None:
    """From now on only `GarbageControl` collects reference cycles, on this thread."""
    gc.disable()


class GarbageControl(QObject):
    """state: what is another while somebody works; None while a stop would be seen."""

    def __init__(self, parent: QObject, state: Callable[[], object | None]) -> None:
        super().__init__(parent)
        self._state, self._before, self._rested = state, object(), 0
        self._put_off = False
        gc.freeze()  # what is there from the start stays
        looking = QTimer(self, interval=LOOK_MS)
        looking.timeout.connect(self.look)
        looking.start()

    def look(self) -> None:
        """Look at young objects; when nothing has moved for some looks, at all objects, once."""
        state = self._state()
        pressed = QApplication.mouseButtons() != Qt.MouseButton.NoButton
        now = (state, QCursor.pos())
        rests = state is not None and not pressed and now == self._before
        self._before = now
        self._rested = self._rested + 1 if rests else 0
        if self._rested == RESTING:
            self._look_at_all()
        else:
            self._look_at_young()

    def _look_at_young(self) -> None:
        if gc.get_count()[0] < MANY:
            gc.collect(0)
        else:
            gc.freeze()  # in no time: put off until nobody works
            self._put_off = True

    def _look_at_all(self) -> None:
        if self._put_off:
            gc.unfreeze()
        gc.collect()
        if self._put_off:
            gc.freeze()
        self._put_off = False
