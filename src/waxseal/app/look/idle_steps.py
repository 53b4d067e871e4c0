"""Work on the window's own thread that is too long for one go: a little at each free moment."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

__all__ = ["IdleSteps"]


class IdleSteps(QObject):
    """step: does a little, and says whether there is more."""

    def __init__(self, parent: QObject, step: Callable[[], bool]) -> None:
        super().__init__(parent)
        self._step = step
        self._timer = QTimer(self, singleShot=True, interval=0)
        self._timer.timeout.connect(self._go_on)

    @property
    def is_busy(self) -> bool:
        return self._timer.isActive()

    def start(self) -> None:
        self._timer.start()

    def _go_on(self) -> None:
        if self._step():
            self._timer.start()
