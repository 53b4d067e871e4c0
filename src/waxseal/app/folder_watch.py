"""The folders of the sources, watched: frames that come are seen without being asked for.

The system tells when something happens in a folder; then all are looked at. They are looked at
again and again only while frames arrive, or where the system tells nothing (a shared disk).
"""

from __future__ import annotations

import os
import time
from collections import defaultdict
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.app import window_texts
from waxseal.app.document import Document
from waxseal.app.task_pool import Workbench
from waxseal.core.deliver.format.output_path import aside_of, path_of
from waxseal.core.job.model import Health, Job, Sequence
from waxseal.core.progress import CancelToken, Report
from waxseal.core.text_format import left_words

if TYPE_CHECKING:
    from waxseal.core.arrive.arrival import Arrival
    from waxseal.core.arrive.folder_events import FolderEvents

__all__ = ["FolderWatch"]

SHORTEST_MS, SETTLED_MS = 2000, 400  # from one look to the next; after the job has changed
SHARE = 20  # of the time: a look that takes 100 ms comes every two seconds
Prints = dict[str, str]
Began = dict[str, dict[str, Path]]  # folders, the patterns in them, the first file of each


@dataclass(frozen=True, slots=True)
class FoldersSeen:
    """What one look at the folders of a job saw.

    silent: the folders of which the system tells nothing. seconds: that it took.
    """

    number: int
    roots: tuple[Path, ...]
    prints: Prints
    sequences: Began
    arrivals: dict[str, Arrival]
    grown: set[str]
    silent: set[str]
    seconds: float


class FolderWatch(QObject):
    """changed: ids of sources whose folder is another. arriving: an id and words; none: no more.

    came: the first files of sequences that began in a watched folder. said: a sentence.
    """

    changed = Signal(list)
    came = Signal(list)
    said = Signal(str)
    arriving = Signal(str, str)
    _happened = Signal()

    def __init__(self, document: Document, bench: Workbench) -> None:
        super().__init__(document)
        self._document, self._bench = document, bench
        self._prints: Prints = {}
        self._known: dict[str, set[str]] = {}  # the patterns that each folder has had
        self._roots: dict[Path, bool] = {}  # folders that were dropped, and whether looked at
        self._told: dict[str, str] = {}
        self.is_on = True
        self._timer = QTimer(self, singleShot=True, interval=SHORTEST_MS)
        self._timer.timeout.connect(self.look)
        self._happened.connect(self._look_soon)
        self._events: FolderEvents | None = None
        self._rest_ms = SHORTEST_MS  # between two looks
        self._is_looking = self._must_look = False
        self._waited = False  # whether the next look was put off already
        self._awaited: set[str] = set()  # sources that frames have been coming for
        document.job_begun.connect(self._begin_anew)
        document.job_changed.connect(self._job_changed)
        self._timer.start()

    def switch(self, on: bool) -> None:
        self.is_on = on
        if on:
            self._timer.start()
        else:
            self._timer.stop()
            self._forget()

    def watch(self, roots: list[Path]) -> None:
        """See what begins below folders, too, as long as this job is open."""
        for root in roots:
            self._roots.setdefault(root, False)
        self._look_soon()

    def look(self) -> None:
        """Ask all folders once; the next look follows by itself."""
        self._waited = False
        if not self.is_on:
            return
        self._is_looking, self._must_look = True, False
        roots = tuple(self._roots)
        work = partial(
            look_at_folders, self._document.number, self._document.job, roots, self._prints
        )
        self._bench.start(work, finished=self._seen, failed=self._failed)

    def _look_soon(self) -> None:
        """Something happened in a folder."""
        if self._is_looking:
            self._must_look = True  # the look that goes on may have missed it
        elif self.is_on and not self._timer.isActive():
            self._timer.start(self._rest_ms)

    def close(self) -> None:
        self._timer.stop()
        self.is_on = False
        if self._events is not None:
            self._events.close()

    def _seen(self, seen: FoldersSeen) -> None:
        self._is_looking = False
        if not self.is_on:
            return
        self._rest_ms = max(SHORTEST_MS, int(seen.seconds * 1000 * SHARE))
        self._go_on(seen)
        if seen.number != self._document.number:
            return
        prints, arrivals = seen.prints, seen.arrivals
        others = {
            folder
            for folder, now in prints.items()
            if folder in self._prints and now != self._prints[folder]
        }
        self._prints = prints
        sources = [
            one.id
            for one in self._document.job.sequences
            # What was being written may be damage by now, without anything having happened.
            if one.files.folder in others or one.is_arriving or one.id in seen.grown
        ]
        for source, arrival in arrivals.items():
            self._tell(source, self.words_for(arrival))
        for gone in set(self._told) - set(arrivals):
            self._tell(gone, "")
        if sources:
            self.changed.emit(sources)
        came = self._new_among(seen)
        self._roots |= dict.fromkeys(seen.roots, True)
        if came:
            self.came.emit(came)

    def _go_on(self, seen: FoldersSeen) -> None:
        """Listen to the folders. Look again soon if one is silent, or if frames are arriving."""
        from waxseal.core.arrive.folder_events import FolderEvents  # not at the start

        if self._events is None:
            self._events = FolderEvents(self._happened.emit)
        is_new = self._events.watch(set(seen.prints) - seen.silent)
        is_coming = bool(seen.arrivals or seen.grown)
        is_coming |= any(one.is_arriving for one in self._document.job.sequences)
        if is_new or is_coming or seen.silent or self._events.has_failed or self._must_look:
            self._timer.start(self._rest_ms)

    def _new_among(self, seen: FoldersSeen) -> list[Path]:
        """What has begun since a folder was first looked at: what lay there then was left out."""
        made = {
            str(path)
            for one in self._document.job.deliveries
            for path in (path_of(one), aside_of(one))
        }
        patterns: dict[str, set[str]] = defaultdict(set)
        for source in self._document.job.sequences:
            patterns[source.files.folder].add(source.files.pattern)
        # As text: two thousand folders would take a twentieth of a second as paths.
        looked_at = tuple(f"{root}{os.sep}" for root, known in self._roots.items() if known)
        came = []
        for folder, by_pattern in seen.sequences.items():
            before = self._known.get(folder)
            if before is None:
                # A folder that was not there when what is above it was looked at is all new.
                is_new = f"{folder}{os.sep}".startswith(looked_at)
                before = self._known[folder] = set() if is_new else set(by_pattern)
            if folder in made:
                continue
            known = before | patterns[folder]
            came += [path for pattern, path in by_pattern.items() if pattern not in known]
            before.update(by_pattern)
        return came

    def _job_changed(self, job: Job) -> None:
        """The window is busy showing the job: the next look at the folders is put off, once."""
        if self._timer.isActive() and self._timer.remainingTime() < SETTLED_MS and not self._waited:
            self._waited = True
            self._timer.start(SETTLED_MS)
        if not {one.files.folder for one in job.sequences} <= self._prints.keys():
            self._look_soon()
        self._say_what_is_whole(job)

    def _say_what_is_whole(self, job: Job) -> None:
        """The last frame of what was awaited is there."""
        if not self._awaited:
            return
        for source in job.sequences:
            if source.id in self._awaited and source.health is Health.WHOLE:
                self._awaited.discard(source.id)
                words = self.tr(window_texts.IS_WHOLE_ALL_FRAMES)
                self.said.emit(words.format(source.name, source.range.count))

    def words_for(self, arrival: Arrival) -> str:
        words = self.tr("arriving: {0} of {1}").format(arrival.there, arrival.expected)
        return words + left_words(arrival.seconds_left, ", ")

    def _tell(self, source: str, words: str) -> None:
        if words:
            self._awaited.add(source)
        if self._told.get(source, "") != words:
            self._told[source] = words
            self.arriving.emit(source, words)
        if not words:
            self._told.pop(source, None)

    def _failed(self, _error: Exception) -> None:
        self._is_looking = False
        self._timer.start(SHORTEST_MS * 5)

    def _forget(self) -> None:
        for source in list(self._told):
            self._tell(source, "")
        self._prints, self._known = {}, {}
        self._roots = dict.fromkeys(self._roots, False)
        self._awaited.clear()

    def _begin_anew(self) -> None:
        """Another job: what was dropped into the old one does not belong to it."""
        self._forget()
        self._roots.clear()
        self._look_soon()


def look_at_folders(
    number: int,
    job: Job,
    roots: tuple[Path, ...],
    before: Prints,
    _report: Report,
    token: CancelToken,
) -> FoldersSeen:
    from waxseal.core.arrive.arrival import arrival_of, fingerprint  # not at the start
    from waxseal.core.arrive.folder_events import silent_folders
    from waxseal.core.arrive.listing import first_files, folders_below

    begun = time.monotonic()
    prints: Prints = {}
    sequences: Began = {}
    arrivals = {}
    grown = set()
    folders = {source.files.folder for source in job.sequences}
    folders.update(str(folder) for root in roots for folder in folders_below(root))
    for folder in folders:
        token.check()
        prints[folder] = fingerprint(Path(folder))
        if prints[folder] != before.get(folder):
            sequences[folder] = first_files(Path(folder))
    for source in job.sequences:
        token.check()
        if source.kind == "sequence" and has_grown(source):
            grown.add(source.id)
        if source.kind == "sequence" and may_be_coming(source):
            arrival = arrival_of(source, time.time_ns())
            if arrival.is_coming:
                arrivals[source.id] = arrival
    silent = silent_folders(folders)
    seconds = time.monotonic() - begun
    return FoldersSeen(number, roots, prints, sequences, arrivals, grown, silent, seconds)


def has_grown(source: Sequence) -> bool:
    """Whether the next frame is there: it came before its folder was watched."""
    files = source.files
    return files.padding > 0 and files.path_of(files.range.last + 1).exists()


def may_be_coming(source: Sequence) -> bool:
    """Whether frames are missing at the tail, or being written: a hole inside is a gap."""
    return source.is_arriving or source.range.last > source.files.range.last
