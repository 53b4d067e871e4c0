"""Waiting for short work that must be over before the next act, without a frozen window."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from functools import partial
from typing import TypeVar

from PySide6.QtCore import QEventLoop, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QGuiApplication

__all__ = ["is_waiting", "wait_for"]

T = TypeVar("T")

MOMENT_MS = 150  # what is over sooner needs no other pointer
WAITS = Qt.CursorShape.WaitCursor

_waiting: list[object] = []


class Done(QObject):
    """Tells the window's thread that the work is over."""

    came = Signal()


def is_waiting() -> bool:
    """Whether the window waits for such work. A drop asks: it is not held back as keys are."""
    return bool(_waiting)


def wait_for(work: Callable[[], T]) -> T:
    """Do work on a thread of its own, and return what it returns, or raise what it raises.

    Meanwhile the window paints and its timers run. Keys and clicks wait their turn: they
    reach the window as it is afterwards. After a moment the pointer says that it waits.
    The work touches no widget.
    """
    loop, done = QEventLoop(), Done()
    # Queued: work that is over before the loop begins would end a loop that does not run yet.
    done.came.connect(loop.quit, Qt.ConnectionType.QueuedConnection)
    with ThreadPoolExecutor(1, "waited for") as thread:
        future: Future[T] = thread.submit(work)
        future.add_done_callback(lambda _: done.came.emit())
        _waiting.append(future)
        pointer = QTimer(singleShot=True, interval=MOMENT_MS)
        pointer.timeout.connect(partial(QGuiApplication.setOverrideCursor, WAITS))
        pointer.start()
        try:
            loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        finally:
            _waiting.remove(future)
            if not pointer.isActive():
                QGuiApplication.restoreOverrideCursor()
            pointer.stop()
        return future.result()  # where the application ends meanwhile, the work still does
