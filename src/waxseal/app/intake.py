"""Drops on their way into the job: listed, looked at, examined, all away from the window."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.app import window_texts
from waxseal.app.background_edits import CROWD, BackgroundEdits
from waxseal.app.document import Document
from waxseal.app.modal_wait import wait_for
from waxseal.app.task_pool import Workbench
from waxseal.core.arrive.duplicates import sounds_anew, without_known
from waxseal.core.job.edits import Edit, add_sources, refresh_sources, renew_sounds
from waxseal.core.job.edits import take_in as take_into_job
from waxseal.core.job.model import Habits, Job, Sequence
from waxseal.core.progress import CancelToken, Progress, Report
from waxseal.core.text_format import counted

if TYPE_CHECKING:
    from waxseal.core.arrive.scanning import Scan

__all__ = ["Intake"]

# How long results are gathered before the job is changed by them: the window draws each change.
MOMENT_MS, CROWD_MS = 30, 1000
FEW = 300  # files of a source: its look is over before anyone reads how far it is
AT_A_TIME = 4  # looks on the bench: what waits there cannot be put off


class Intake(QObject):
    """said: a sentence for the foot of the window. looking: a source's id and how far."""

    said = Signal(str)
    looking = Signal(str, str)
    looked = Signal(str)  # a source's id: its files have been looked at
    dropped = Signal(list)  # folders that were brought in, whatever is in them
    renewed = Signal(list)  # paths of sounds whose files are others than they were
    brought = Signal(object)  # the ids of sequences that a drop has put on the reel

    def __init__(self, document: Document, bench: Workbench, elsewhere: BackgroundEdits) -> None:
        super().__init__(document)
        self._document, self._bench, self._elsewhere = document, bench, elsewhere
        self._open = 0  # drops on their way
        self._waiting: deque[tuple[Sequence, bool, int]] = deque()
        self._running = 0  # looks at single sources
        self._examined: list[Sequence] = []  # looked at, and not yet in the job
        self._drops: list[Callable[[], None]] = []  # what came, and is not in the job yet
        self._is_taking = False
        self._timer = QTimer(self, singleShot=True)
        self._timer.timeout.connect(self._put_in)
        document.job_begun.connect(self._examined.clear)
        document.job_begun.connect(self._drops.clear)

    @property
    def is_busy(self) -> bool:
        looking = self._running > 0 or bool(self._waiting)
        is_put_in = self._timer.isActive() or self._elsewhere.is_busy or bool(self._drops)
        return self._open > 0 or looking or is_put_in

    def take(self, paths: list[Path]) -> None:
        """Bring in folders and files that were dropped or chosen."""
        self._open += 1
        folders, folder = wait_for(partial(folders_of, paths))
        self.dropped.emit(folders)
        work = partial(list_and_look, paths, self._document.job.habits)
        drop = Drop(self, str(folder), self._document.number)
        self.said.emit(self.tr("Looking…"))
        self._bench.start(work, finished=drop.arrived, failed=drop.failed, stopped=drop.gone)

    def take_beside(self, paths: list[Path], *, is_watched: bool = False) -> None:
        """Bring in what nobody dropped: into the in-tray, not on the reel.

        is_watched: whether it began in a watched folder.
        """
        self._open += 1
        drop = Drop(self, "", self._document.number, is_watched=is_watched)
        work = partial(list_and_look, paths, self._document.job.habits)
        self._bench.start(work, finished=drop.arrived, failed=drop.failed, stopped=drop.gone)

    def arrived(self, found: Scan, folder: str, number: int, *, is_watched: bool) -> None:
        """folder: where a first delivery goes; empty for what nobody dropped."""
        self._open -= 1
        if number != self._document.number:
            return  # another job is open by now
        # What a drop before this one brought is in the job first: nothing comes in twice.
        self._elsewhere.after(partial(self._take_in, found, folder, is_watched=is_watched))

    def _take_in(self, found: Scan, folder: str, *, is_watched: bool) -> None:
        self._drops.append(partial(self._take_one, found, folder, is_watched=is_watched))
        self._take_next()

    def _take_next(self) -> None:
        """One after the other: what the one before brought is in the job by then."""
        if self._is_taking or not self._drops:
            return
        self._is_taking = True
        try:
            self._drops.pop(0)()
        finally:
            self._is_taking = False
        if self._drops:
            self._elsewhere.after(self._take_next)

    def _take_one(self, found: Scan, folder: str, *, is_watched: bool) -> None:
        fresh, again = wait_for(partial(without_known, self._document.job, found.sources))
        heard = wait_for(partial(sounds_anew, self._document.job, found.sources))
        if heard:
            renew = Edit("", partial(renew_sounds, sounds=heard))
            paths = [sound.path for sound in heard]
            self._elsewhere.amend(renew, then=partial(self.renewed.emit, paths))
        if fresh:
            words = self.tr("add {0}").format(counted(len(fresh), "source"))
            take = (
                partial(take_into_job, sources=fresh, folder=folder)
                if folder
                else partial(add_sources, sources=fresh)
            )
            before = frozenset(source.id for source in self._document.job.sources)
            self._elsewhere.do(
                Edit(words, take), then=partial(self._taken, before, is_dropped=bool(folder))
            )
        if fresh and is_watched:
            names = ", ".join(source.name for source in fresh)
            self.said.emit(self.tr(window_texts.NEW_IN_A_WATCHED_FOLDER).format(names))
        elif again:
            names = ", ".join(source.name for source in again)
            self.said.emit(self.tr(window_texts.IN_THE_TRAY_ALREADY).format(names))
            self._examine((one for one in again if isinstance(one, Sequence)), is_known=True)
        elif found.troubles:
            self.said.emit(" ".join(found.troubles))
        elif not found.sources:
            self.said.emit(self.tr(window_texts.NOTHING_FOUND_THERE))
        else:
            self.said.emit("")

    def _taken(self, known: frozenset[str], *, is_dropped: bool) -> None:
        """Have what is new in the job looked at."""
        fresh = [source for source in self._document.job.sequences if source.id not in known]
        self._examine(fresh, is_known=False)
        self._say_versions({source.id for source in fresh})
        if is_dropped:
            self.brought.emit(frozenset(source.id for source in fresh))

    def _say_versions(self, fresh: set[str]) -> None:
        from waxseal.core.arrive.new_versions import (  # not at the start
            older_words,
            successor_words,
        )

        job = self._document.job
        newer, changes = successor_words(job, fresh)
        act = self.tr(window_texts.TO_USE_IT) if newer else ""
        words = " ".join(filter(None, (newer, act, changes, older_words(job, fresh))))
        if words:
            self.said.emit(words)

    def failed(self, error: Exception) -> None:
        self._open -= 1
        self.said.emit(str(error))

    def look_again(self, job: Job) -> None:
        """Look at every sequence of a job that was opened: files may have come or gone."""
        self._examine(job.sequences, is_known=True)

    def look_again_at(self, sources: list[str]) -> None:
        """Look at some of the job's sequences: something happened in their folders."""
        wanted = [one for one in self._document.job.sequences if one.id in sources]
        self._examine(wanted, is_known=True)

    def _examine(self, sources: Iterable[Sequence], *, is_known: bool) -> None:
        """Have sources looked at, after those that wait already.

        is_known: they were looked at before, and files may have come or gone since.
        """
        number = self._document.number
        self._waiting.extend((source, is_known, number) for source in sources)
        self._start_next()

    def _start_next(self) -> None:
        while self._waiting and self._running < AT_A_TIME:
            source, is_known, number = self._waiting.popleft()
            if number == self._document.number:
                self._start(source, is_known=is_known)

    def _start(self, source: Sequence, *, is_known: bool) -> None:
        self._running += 1
        watch = ExamineProgress(self, source.id, self._document.number)
        work = partial(look_at, source, is_known)
        self._bench.start(
            work,
            finished=watch.finished,
            failed=watch.failed,
            progressed=watch.progressed,
            stopped=watch.gone,
        )

    def examined(self, source: Sequence, number: int) -> None:
        """Take what was found into the job, together with what comes within a moment."""
        self._running -= 1
        self._start_next()
        if number != self._document.number:
            return
        self._examined.append(source)
        if not self._timer.isActive():
            is_crowd = len(self._document.job.sources) > CROWD
            self._timer.start(CROWD_MS if is_crowd else MOMENT_MS)

    def _put_in(self) -> None:
        examined, self._examined[:] = tuple(self._examined), []
        if not examined:
            return
        for source in examined:
            self.looking.emit(source.id, "")
        amend = Edit("", partial(refresh_sources, sources=examined))
        self._elsewhere.amend(amend, then=partial(self._tell_looked, examined))

    def _tell_looked(self, examined: tuple[Sequence, ...]) -> None:
        for source in examined:
            self.looked.emit(source.id)

    def gave_up(self, source: str, error: Exception | None) -> None:
        self._running -= 1
        self._start_next()
        self.looking.emit(source, "")
        if error is not None:
            self.said.emit(str(error))


class Drop(QObject):
    """Where one drop's task reports to, with the folder that its first delivery goes to."""

    def __init__(
        self, arriving: Intake, folder: str, number: int, *, is_watched: bool = False
    ) -> None:
        super().__init__(arriving)
        self._arriving, self._folder, self._number = arriving, folder, number
        self._is_watched = is_watched

    def arrived(self, found: Scan) -> None:
        self._arriving.arrived(found, self._folder, self._number, is_watched=self._is_watched)
        self.deleteLater()

    def failed(self, error: Exception) -> None:
        self._arriving.failed(error)
        self.deleteLater()

    def gone(self) -> None:
        self.deleteLater()


class ExamineProgress(QObject):
    """Where the task that examines one source reports to."""

    def __init__(self, arriving: Intake, source: str, number: int) -> None:
        super().__init__(arriving)
        self._arriving, self._source, self._number = arriving, source, number

    def progressed(self, progress: Progress) -> None:
        if progress.done < progress.total:
            words = f"{progress.done} / {progress.total}"
            self._arriving.looking.emit(self._source, words)

    def finished(self, source: Sequence) -> None:
        self._arriving.examined(source, self._number)
        self.deleteLater()

    def failed(self, error: Exception) -> None:
        self._arriving.gave_up(self._source, error)
        self.deleteLater()

    def gone(self) -> None:
        self._arriving.gave_up(self._source, None)
        self.deleteLater()


def list_and_look(paths: list[Path], habits: Habits, _report: Report, token: CancelToken) -> Scan:
    from waxseal.core.arrive.listing import list_paths  # not at the start
    from waxseal.core.arrive.scanning import take_in

    return take_in(list_paths(paths, token), habits=habits)


def look_at(source: Sequence, is_known: bool, report: Report, token: CancelToken) -> Sequence:
    from waxseal.core.arrive.header_scan import elsewhere, examine, look_again  # not at the start

    look = look_again if is_known else examine
    if source.files.count <= FEW:
        # Elsewhere: hundreds of such looks in this process would keep the window waiting.
        return elsewhere(look, source)
    return look(source, report=report, token=token)


def folders_of(paths: list[Path]) -> tuple[list[Path], Path]:
    """Which of what was dropped are folders, and where deliveries of it go: beside it."""
    folders = [path for path in paths if path.is_dir()]
    folder = paths[0].parent if paths[0] in folders else paths[0].parent.parent
    if not folder.is_dir() or folder == folder.parent:
        folder = paths[0].parent
    return folders, folder
