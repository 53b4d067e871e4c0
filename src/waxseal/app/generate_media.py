"""Colour bars, tone, slate and title cards: made as files, and taken in like any other."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from waxseal.app import window_texts
from waxseal.app.document import Document
from waxseal.app.task_pool import Workbench
from waxseal.app.view.player import Player
from waxseal.core.folders import made_folder
from waxseal.core.job.corrections import Text
from waxseal.core.job.edits import Edit
from waxseal.core.job.model import Job, Size
from waxseal.core.plan.placement import lay_card
from waxseal.core.plan.timeline import Timeline
from waxseal.core.progress import CancelToken, Report
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import length_words

__all__ = ["MediaGenerator"]

USUAL = Size(width=1920, height=1080)
TONE_SECONDS = 10.0
USUAL_RATE = Fraction(24)
TITLE_GROUND = "#101216"

Making = Callable[[Path, Size, Report, CancelToken], Path]


@dataclass(frozen=True)
class PendingCard:
    """A card on its way to the reel. name: what undo calls laying it."""

    name: str
    at: int  # a reel frame
    texts: tuple[Text, ...]


class MediaGenerator(QObject):
    """made: files for the reel. card_made: for the in-tray alone. said: what went wrong.

    written: a card lies on the reel, under this id, and its words want to be written.
    """

    made = Signal(object)
    card_made = Signal(object)
    said = Signal(str)
    written = Signal(str)

    def __init__(
        self, document: Document, player: Player, bench: Workbench, parent: QObject
    ) -> None:
        super().__init__(parent)
        self._document, self._player, self._bench = document, player, bench
        self._awaited: dict[Path, PendingCard] = {}
        document.job_changed.connect(self._lay_cards)
        document.job_begun.connect(self._awaited.clear)

    def add_bars(self) -> None:
        """Bars in the reel's size, and ten seconds of tone."""
        work = partial(bars_and_tone, self._folder(), self._size())
        self._bench.start(work, finished=self._made, failed=self._fail)

    def add_marks(self) -> None:
        """A flash and a clap each second, to see how late a destination plays its sound."""
        work = partial(flash_and_clap, self._folder(), self._size(), self._rate())
        self._bench.start(work, finished=self._made, failed=self._fail)

    def add_slate(self) -> None:
        """A slate before the first frame, whose words are written in the ledger."""
        from waxseal.core.picture.generated_media import slate_texts

        texts = slate_texts(self._document.job.name, self._lines())
        self._make(slate, PendingCard(self.tr("lay a slate"), 1, texts))

    def add_title(self) -> None:
        """A title card at the playhead, whose words are written in the ledger."""
        from waxseal.core.picture.generated_media import title_text

        texts = (title_text(self.tr("Title")),)
        self._make(card, PendingCard(self.tr("lay a title card"), self._player.frame, texts))

    def _make(self, work: Making, awaited: PendingCard) -> None:
        self._bench.start(
            partial(work, self._folder(), self._size()),
            finished=partial(self._card_made, awaited),
            failed=self._fail,
        )

    def _made(self, paths: list[Path]) -> None:
        self.made.emit(paths)

    def _card_made(self, awaited: PendingCard, path: Path) -> None:
        self._awaited[path] = awaited
        self.card_made.emit([path])

    def _lay_cards(self, job: Job) -> None:
        """Those that are in the in-tray by now are laid, with their words."""
        for path in list(self._awaited):
            source = still_of(job, path)
            if source is not None:
                awaited = self._awaited.pop(path)
                # Not within the job's own change: others still have to hear of that.
                QTimer.singleShot(0, partial(self._lay, source, awaited))

    def _lay(self, source: str, awaited: PendingCard) -> None:
        change = partial(lay_card, source=source, at=awaited.at, texts=awaited.texts)
        self._document.do(Edit(awaited.name, change))
        timeline = self._timeline
        if timeline is None:
            return
        for part in (*timeline.shots, *timeline.overlays):
            if part.laid.source == source:
                self._player.go(part.first)
                self.written.emit(part.laid.id)

    def _fail(self, error: Exception) -> None:
        self.said.emit(str(error))

    @property
    def _timeline(self) -> Timeline | None:
        return self._player.timeline

    def _size(self) -> Size:
        return self._timeline.size if self._timeline else USUAL

    def _rate(self) -> Fraction:
        return self._timeline.rate if self._timeline else USUAL_RATE

    def _lines(self) -> tuple[str, ...]:
        lines = [self.tr(window_texts.WHO_WHEN_WHICH_VERSION)]
        timeline = self._timeline
        if timeline is not None:
            frames = timeline.frames.count
            lines.append(self.tr("{0} at {1}").format(timeline.size, rate_words(timeline.rate)))
            length = length_words(frames, timeline.rate)
            lines.append(self.tr("{0} frames, {1}").format(frames, length))
        return tuple(lines)

    def _folder(self) -> Path:
        """Beside the job where it has been saved, else among the user's data."""
        path = self._document.path
        return path.parent / f"{path.stem} made" if path is not None else made_folder()


def still_of(job: Job, path: Path) -> str | None:
    """The source of a still's file."""
    for source in job.sequences:
        if source.kind == "still" and source.files.path_of(source.files.range.first) == path:
            return source.id
    return None


def card(folder: Path, size: Size, _report: Report, _token: CancelToken) -> Path:
    from waxseal.core.picture.generated_media import make_card

    return make_card(folder, size, TITLE_GROUND)


def slate(folder: Path, size: Size, _report: Report, _token: CancelToken) -> Path:
    from waxseal.core.picture.generated_media import make_slate

    return make_slate(folder, size)


def bars_and_tone(folder: Path, size: Size, _report: Report, _token: CancelToken) -> list[Path]:
    from waxseal.core.picture.generated_media import make_bars, make_tone

    return [make_bars(folder, size), make_tone(folder, TONE_SECONDS)]


def flash_and_clap(
    folder: Path, size: Size, rate: Fraction, _report: Report, _token: CancelToken
) -> list[Path]:
    from waxseal.core.picture.generated_media import make_marks

    return [make_marks(folder, size, rate)]
