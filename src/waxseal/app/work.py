"""Work away from the window: tasks on threads, with progress and an end as Qt signals."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from PySide6.QtCore import QObject, Signal

from waxseal.core.errors import Cancelled
from waxseal.core.progress import CancelToken, Report

__all__ = ["Task", "Work", "Workbench"]

Work = Callable[[Report, CancelToken], object]


class Task(QObject):
    """One piece of work. Its signals reach a QObject's methods on that object's thread."""

    progressed = Signal(object)
    finished = Signal(object)
    failed = Signal(object)
    stopped = Signal()
    over = Signal(object)  # the task itself, however it ended

    def __init__(self, work: Work) -> None:
        super().__init__()
        self._work = work
        self.token = CancelToken()

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
        task = Task(work)
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
        self._pool.submit(task.run)
        return task

    def _let_go(self, task: object) -> None:
        if isinstance(task, Task):
            self._tasks.discard(task)
            task.deleteLater()

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
