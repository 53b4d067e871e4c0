"""Work away from the window, on threads; what it tells is heard on the window's own."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from time import monotonic, sleep

from PySide6.QtCore import QObject, QTimer, Signal
from shiboken6 import isValid
from typing_extensions import override

from waxseal.app.process_end import shut
from waxseal.core.errors import Cancelled
from waxseal.core.progress import CancelToken, Progress, Report, silent

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


Callback = Callable[..., None]


class Task:
    """One piece of work, from its start to its end."""

    def __init__(self, token: CancelToken) -> None:
        self.token = token


class Workbench(QObject):
    """The threads of one window; stops all of its tasks at the end.

    A Qt object must be let go of on its own thread. So the callbacks stay with the bench, and
    a thread only says which of them it means.
    """

    _told = Signal(object, str, object)  # a task, which callback, and what it is called with

    def __init__(self, parent: QObject, *, threads: int = 2) -> None:
        super().__init__(parent)
        self._pool = ThreadPoolExecutor(threads, "work")
        self._tasks: dict[Task, dict[str, Callback | None]] = {}
        self._pulse = Pulse(self)
        self._is_closed = False
        self._told.connect(self._tell)

    def start(
        self,
        work: Work,
        *,
        finished: Callback | None = None,
        failed: Callback | None = None,
        progressed: Callback | None = None,
        stopped: Callback | None = None,
    ) -> Task:
        """Put work on a thread; the callbacks are called on the bench's own.

        One that is a method of a Qt object that is gone by then is not called. Nothing is
        begun after the end: a late result may still ask for more.
        """
        task = Task(PoliteToken(self._pulse))
        if self._is_closed:
            return task
        self._tasks[task] = {
            "finished": finished,
            "failed": failed,
            "progressed": progressed,
            "stopped": stopped,
        }
        self._pulse.begin()
        report = silent if progressed is None else partial(self.report, task)
        self._pool.submit(self._run, task, work, report)
        return task

    def report(self, task: Task, progress: Progress) -> None:
        """Tell how far a task is. From any thread."""
        self._told.emit(task, "progressed", progress)

    def _run(self, task: Task, work: Work, report: Report) -> None:
        """On a pool's thread: touches no widget."""
        try:
            result = work(report, task.token)
        except Cancelled:
            self._told.emit(task, "stopped", None)
        except Exception as error:  # noqa: BLE001 - the thread's edge: carried on, not hidden
            self._told.emit(task, "failed", error)
        else:
            self._told.emit(task, "finished", result)

    def _tell(self, task: Task, what: str, value: object) -> None:
        callback = self._tasks.get(task, {}).get(what)
        try:
            if callback is not None and is_there(callback):
                callback() if what == "stopped" else callback(value)
        finally:
            if what != "progressed":
                self._let_go(task)

    def _let_go(self, task: Task) -> None:
        self._tasks.pop(task, None)
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
        shut(self._pool)
        self._tasks.clear()
        self._pulse.end()


def is_there(callback: Callback) -> bool:
    """Whether the Qt object whose method is to be called has not been deleted."""
    method = callback.func if isinstance(callback, partial) else callback
    owner = getattr(method, "__self__", None)
    return not isinstance(owner, QObject) or isValid(owner)
