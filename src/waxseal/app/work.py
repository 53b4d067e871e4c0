"""Work away from the window: tasks on threads, with progress and an end as Qt signals."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from time import monotonic, sleep

from PySide6.QtCore import QObject, QTimer, Signal
from typing_extensions import override

from waxseal.core.errors import Cancelled
from waxseal.core.progress import CancelToken, Report

__all__ = ["Pulse", "Task", "Work", "Workbench"]

Work = Callable[[Report, CancelToken], object]

BEAT_MS = 8
LATE_S = 0.02  # since the last beat: the window has something to do
MOST_S = 0.1  # that work gives way at a time: it always goes on
REST_S = 0.002


class Pulse(QObject):
    """Beats while the window's thread has nothing to do for long, as long as somebody asks.

    Python runs one thread at a time: beside another that is busy, an act of the window takes
    twice as long. So work gives way until the window is idle again.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._last = 0.0
        self._timer = QTimer(self, interval=BEAT_MS)
        self._timer.timeout.connect(self._beat)

    def begin(self) -> None:
        if not self._timer.isActive():
            self._beat()
            self._timer.start()

    def end(self) -> None:
        self._timer.stop()

    def _beat(self) -> None:
        self._last = monotonic()

    def give_way(self) -> None:
        """Wait while the window is busy. For every thread but the window's own."""
        begun = monotonic()
        now = begun
        while now - self._last > LATE_S and now - begun < MOST_S:
            sleep(REST_S)
            now = monotonic()


class PoliteToken(CancelToken):
    """Work asks it at each frame or file, and gives way to the window there."""

    def __init__(self, pulse: Pulse) -> None:
        super().__init__()
        self._pulse = pulse

    @override
    def check(self) -> None:
        super().check()
        self._pulse.give_way()


class Task(QObject):
    """One piece of work. Its signals reach a QObject's methods on that object's thread."""

    progressed = Signal(object)
    finished = Signal(object)
    failed = Signal(object)
    stopped = Signal()
    over = Signal(object)  # the task itself, however it ended

    def __init__(self, work: Work, token: CancelToken) -> None:
        super().__init__()
        self._work, self.token = work, token

    def run(self) -> None:
        try:  # on a pool's thread: touches no widget
            result = self._work(self.progressed.emit, self.token)
        except Cancelled:
            self.stopped.emit()
        except Exception as error:  # noqa: BLE001 - the thread's edge: carried on, not hidden
            self.failed.emit(error)
        else:
            self.finished.emit(result)
        self.over.emit(self)


class Workbench(QObject):
    """The threads of one window; keeps its tasks alive, stops them all at the end."""

    def __init__(self, parent: QObject, *, threads: int = 2) -> None:
        super().__init__(parent)
        self._pool = ThreadPoolExecutor(threads, "work")
        self._tasks: set[Task] = set()
        self._pulse = Pulse(self)
        self._is_closed = False

    def start(
        self,
        work: Work,
        *,
        finished: Callable[..., None] | None = None,
        failed: Callable[..., None] | None = None,
        progressed: Callable[..., None] | None = None,
        stopped: Callable[..., None] | None = None,
    ) -> Task:
        """Put work on a thread; the callbacks have to be methods of QObjects.

        Nothing is begun after the end: a late result may still ask for more.
        """
        task = Task(work, PoliteToken(self._pulse))
        if self._is_closed:
            return task
        for signal, slot in (
            (task.finished, finished),
            (task.failed, failed),
            (task.progressed, progressed),
            (task.stopped, stopped),
        ):
            if slot is not None:
                signal.connect(slot)
        task.over.connect(self._let_go)
        self._tasks.add(task)
        self._pulse.begin()
        self._pool.submit(task.run)
        return task

    def _let_go(self, task: object) -> None:
        if isinstance(task, Task):
            self._tasks.discard(task)
            task.deleteLater()
        if not self._tasks:
            self._pulse.end()

    @property
    def is_busy(self) -> bool:
        return bool(self._tasks)

    def close(self) -> None:
        """Cancel everything and wait for it: each work looks at its token once a frame."""
        self._is_closed = True
        for task in self._tasks:
            task.token.cancel()
        self._pool.shutdown(wait=True, cancel_futures=True)
        self._tasks.clear()
        self._pulse.end()
