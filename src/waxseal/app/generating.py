"""Colour bars, tone, slate and title cards: made as files, and taken in like any other."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QInputDialog, QWidget

from waxseal.app import sentences
from waxseal.app.desk import Desk
from waxseal.app.picture.player import Player
from waxseal.app.work import Workbench
from waxseal.core.folders import made_folder
from waxseal.core.job.corrections import Text, TextPlace
from waxseal.core.job.edits import Edit
from waxseal.core.job.model import Job, Size, make
from waxseal.core.plan.offers import lay_card
from waxseal.core.plan.timeline import Timeline
from waxseal.core.progress import CancelToken, Report
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import length_words

__all__ = ["Generating"]

USUAL = Size(width=1920, height=1080)
TONE_SECONDS = 10.0
TITLE_GROUND = "#101216"


class Generating(QObject):
    """made: files for the reel. card_made: for the in-tray alone. said: what went wrong."""

    made = Signal(object)
    card_made = Signal(object)
    said = Signal(str)

    def __init__(self, parent: QWidget, desk: Desk, player: Player, bench: Workbench) -> None:
        super().__init__(parent)
        self._parent, self._desk, self._player, self._bench = parent, desk, player, bench
        # Cards on their way to the reel: their words, and the reel frame.
        self._awaited: dict[Path, tuple[str, int]] = {}
        desk.job_changed.connect(self._lay_card)
        desk.job_begun.connect(self._awaited.clear)

    def add_bars(self) -> None:
        """Bars in the reel's size, and ten seconds of tone."""
        self._start(partial(bars_and_tone, self._folder(), self._size()))

    def add_slate(self) -> None:
        """A slate that says what the reel is, with what somebody types."""
        note, is_wanted = QInputDialog.getText(
            self._parent, self.tr("Slate"), self.tr(sentences.WHO_WHEN_WHICH_VERSION)
        )
        if is_wanted:
            work = partial(
                slate, self._folder(), self._size(), self._desk.job.name, self._lines(note)
            )
            self._start(work)

    def add_title(self) -> None:
        """A title card: a still, and its words as a text that can be changed in the ledger."""
        words, is_wanted = QInputDialog.getMultiLineText(
            self._parent, self.tr("Title card"), self.tr("What it says:")
        )
        if is_wanted and words.strip():
            self.add_title_of(words.strip())

    def add_title_of(self, words: str) -> None:
        self._bench.start(
            partial(card, self._folder(), self._size(), words),
            finished=self._title_made,
            failed=self._fail,
        )

    def _title_made(self, made: tuple[Path, str]) -> None:
        path, words = made
        self._awaited[path] = (words, self._player.frame)
        self.card_made.emit([path])

    def _lay_card(self, job: Job) -> None:
        """The card is in the in-tray by now: it is laid, with its words."""
        for path in list(self._awaited):
            source = still_of(job, path)
            if source is not None:
                words, at = self._awaited.pop(path)
                change = partial(lay_words, source=source, at=at, words=words)
                edit = Edit(self.tr("lay a title card"), change)
                # Not within the job's own change: others still have to hear of that.
                QTimer.singleShot(0, partial(self._desk.do, edit))

    def _start(self, work: object) -> None:
        self._bench.start(work, finished=self.made.emit, failed=self._fail)  # type: ignore[arg-type]

    def _fail(self, error: Exception) -> None:
        self.said.emit(str(error))

    @property
    def _timeline(self) -> Timeline | None:
        return self._player.timeline

    def _size(self) -> Size:
        return self._timeline.size if self._timeline else USUAL

    def _lines(self, note: str) -> tuple[str, ...]:
        timeline = self._timeline
        lines = [line for line in (note.strip(),) if line]
        if timeline is not None:
            frames = timeline.frames.count
            lines.append(self.tr("{0} at {1}").format(timeline.size, rate_words(timeline.rate)))
            length = length_words(frames, timeline.rate)
            lines.append(self.tr("{0} frames, {1}").format(frames, length))
        return tuple(lines)

    def _folder(self) -> Path:
        """Beside the job where it has been saved, else among the user's data."""
        path = self._desk.path
        return path.parent / f"{path.stem} made" if path is not None else made_folder()


def lay_words(job: Job, *, source: str, at: int, words: str) -> Job:
    text = make(Text, words=words, place=TextPlace.MIDDLE, size=90)
    return lay_card(job, source=source, at=at, text=text)


def still_of(job: Job, path: Path) -> str | None:
    """The source of a still's file."""
    for source in job.sequences:
        if source.kind == "still" and source.files.path_of(source.files.range.first) == path:
            return source.id
    return None


def card(
    folder: Path, size: Size, words: str, _report: Report, _token: CancelToken
) -> tuple[Path, str]:
    from waxseal.core.picture.cards import make_card

    return make_card(folder, size, TITLE_GROUND), words


def bars_and_tone(folder: Path, size: Size, _report: Report, _token: CancelToken) -> list[Path]:
    from waxseal.core.picture.cards import make_bars, make_tone

    return [make_bars(folder, size), make_tone(folder, TONE_SECONDS)]


def slate(
    folder: Path,
    size: Size,
    title: str,
    lines: tuple[str, ...],
    _report: Report,
    _token: CancelToken,
) -> list[Path]:
    from waxseal.core.picture.cards import make_slate

    return [make_slate(folder, size, title, lines)]
