"""What the window knows of files: asked at once, looked at on threads of its own.

A disk may be slow, or gone. The window's thread never waits for one: it takes what was known
last, and hears when that has changed.
"""

from __future__ import annotations

import threading
import time
from queue import SimpleQueue

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from waxseal.app.process_end import join_all
from waxseal.core.plan.filestates import UNKNOWN, FileState, answer_by, look_at

__all__ = ["FileBook"]

THREADS = 4  # a disk far away answers several at once
FRESH_S = 0.1  # what was looked at since is not looked at again at once
LEAVE_S = 0.5
SOON_MS = 20  # all that is learned within this is told together


class FileBook(QObject):
    """learned: some files are others than was known."""

    learned = Signal()
    _changed = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._known: dict[str, tuple[FileState, float]] = {}
        self._asked: set[str] = set()
        self._queue: SimpleQueue[str | None] = SimpleQueue()
        self._is_closed = False
        self._untold, self._counting = 0, threading.Lock()  # changes on their way to `learned`
        self._telling = QTimer(self, singleShot=True, interval=SOON_MS)
        self._telling.timeout.connect(self.learned)
        self._later: set[str] = set()
        self._again = QTimer(self, singleShot=True, interval=round(FRESH_S * 1000))
        self._again.timeout.connect(self._ask_again)
        self._changed.connect(self._tell_soon, Qt.ConnectionType.QueuedConnection)
        self._threads = [
            threading.Thread(target=self._look, name="files", daemon=True) for _ in range(THREADS)
        ]
        for thread in self._threads:
            thread.start()
        answer_by(self.state_of)

    def state_of(self, path: str) -> FileState:
        """What is known of a file; it is looked at again, soon where that is fresh."""
        state, at = self._known.get(path, (FileState(path, UNKNOWN, 0), 0.0))
        if time.monotonic() - at > FRESH_S:
            self._ask(path)
        else:
            self._later.add(path)
            if not self._again.isActive():
                self._again.start()
        return state

    def _ask(self, path: str) -> None:
        if path not in self._asked and not self._is_closed:
            self._asked.add(path)
            self._queue.put(path)

    def _ask_again(self) -> None:
        paths, self._later = self._later, set()
        for path in paths:
            self._ask(path)

    @property
    def is_busy(self) -> bool:
        return bool(self._asked) or self._untold > 0 or self._telling.isActive()

    def _look(self) -> None:
        """One of the threads."""
        while (path := self._queue.get()) is not None:
            state = look_at(path)
            before = self._known.get(path)
            self._known[path] = (state, time.monotonic())
            if (before is None or before[0] != state) and not self._is_closed:
                with self._counting:
                    self._untold += 1
                self._changed.emit()
            self._asked.discard(path)

    def _tell_soon(self) -> None:
        with self._counting:
            self._untold -= 1
        if not self._telling.isActive():
            self._telling.start()

    def close(self) -> None:
        """Waited for a moment at most: a look at a disk that is gone never ends."""
        self._is_closed = True
        self._again.stop()
        answer_by(None)
        for _ in self._threads:
            self._queue.put(None)
        join_all(self._threads, LEAVE_S)
