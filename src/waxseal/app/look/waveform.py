"""A sound drawn as its waveform; read on a thread, once a sound."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QRectF, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from typing_extensions import override

from waxseal.app.look.accessibility import DrawnWidget
from waxseal.app.look.palette import current
from waxseal.app.task_pool import Workbench
from waxseal.core.job.model import LaidSound, Sound
from waxseal.core.plan.sound_pieces import pieces_of
from waxseal.core.plan.timeline import Timeline
from waxseal.core.progress import CancelToken, Report
from waxseal.core.sound.waveform_peaks import peaks_of
from waxseal.core.text_format import numbered

__all__ = ["Drawable", "Peaks", "Waveform", "draw_peaks", "drawable_pieces"]

COLUMNS = 400
LEAST_GAP = 2.5  # pixels of a column that has a gap beside it
DRAWN_RATE = 1000  # samples a second: to show where something is, not to hear it
Heard = tuple[str, tuple[float, ...]]


class Peaks(QObject):
    """The waveforms of a window's sounds, and how loud they are, by path."""

    made = Signal(str)
    measured = Signal(str)

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self._bench = bench
        self._kept: dict[str, tuple[float, ...]] = {}
        self._asked: set[str] = set()
        self._loud: dict[str, str] = {}
        self._findings: dict[str, str] = {}

    def loudness(self, path: str) -> str:
        """How loud a sound is, in words; empty while it is not known."""
        return self._loud.get(path, "")

    def findings(self, path: str) -> str:
        """What a close look found, in words; empty while it is not known, or nothing."""
        return self._findings.get(path, "")

    def forget(self, paths: list[str]) -> None:
        """Their files are others by now."""
        for path in paths:
            for kept in (self._kept, self._loud, self._findings):
                kept.pop(path, None)
            self._asked.discard(path)
            self.made.emit(path)

    def get(self, path: str) -> tuple[float, ...]:
        if path not in self._kept and path not in self._asked:
            self._asked.add(path)
            work, failed = partial(self._read, path), partial(self._fail, path)
            self._bench.start(work, finished=self._keep, failed=failed)
        return self._kept.get(path, ())

    def _read(
        self, path: str, _report: Report, token: CancelToken
    ) -> tuple[str, tuple[float, ...]]:
        return path, peaks_of(Path(path), COLUMNS, token)

    def _keep(self, result: Heard) -> None:
        path, peaks = result
        self._kept[path] = peaks
        self.made.emit(path)
        work, failed = partial(measure_loudness, path), partial(self._fail, path)
        self._bench.start(work, finished=self._keep_loudness, failed=failed)

    def _fail(self, path: str, error: Exception) -> None:
        """What cannot be decoded is what the close look found."""
        self._findings[path] = str(error)
        self.measured.emit(path)

    def _keep_loudness(self, result: tuple[str, str, str]) -> None:
        path, words, findings = result
        self._loud[path], self._findings[path] = words, findings
        self.measured.emit(path)


def measure_loudness(path: str, _report: Report, token: CancelToken) -> tuple[str, str, str]:
    """How loud a sound is, and what a close look finds, in words."""
    # They bring codecs along: not in the window's first second.
    from waxseal.core.sound.loudness import loudness_of
    from waxseal.core.sound.sound_findings import look_closely

    found = "; ".join(one.what for one in look_closely(Path(path), token))
    loud = loudness_of(Path(path), token)
    if loud is None or loud.integrated_lufs is None:
        return path, "", found
    lufs, peak = (numbered(one, 1) for one in (loud.integrated_lufs, loud.true_peak_dbtp))
    return path, f"{lufs} LUFS · {peak} dBTP", found


class Waveform(DrawnWidget):
    """Asks the window's Peaks, which it finds above itself when it is drawn.

    loudness_known: how loud the sound is, and what a close look found, in words.
    """

    loudness_known = Signal(str, str)

    def __init__(self, sound: Sound) -> None:
        super().__init__()
        self._sound = sound
        self._source: Peaks | None = None
        self.setAccessibleName(sound.name)

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        if self._source is None:
            self._source = self.window().findChild(Peaks)
            if self._source is not None:
                self._source.made.connect(self._made)
                self._source.measured.connect(self._measured)
                self._measured(self._sound.path)
        peaks = self._source.get(self._sound.path) if self._source is not None else ()
        with QPainter(self) as painter:
            draw_peaks(painter, QRectF(self.rect()), peaks)

    def _made(self, path: str) -> None:
        if path == self._sound.path:
            self.update()

    def _measured(self, path: str) -> None:
        if path == self._sound.path and self._source is not None:
            words, found = self._source.loudness(path), self._source.findings(path)
            if words or found:
                self.loudness_known.emit(words, found)


@dataclass(frozen=True, slots=True)
class Drawable:
    """A piece of a sound on the reel, as it is drawn. at, count: in seconds of the reel.

    first, last: how far into the sound it begins and ends, 0..1; first > last: backwards.
    """

    at: float
    count: float
    first: float
    last: float

    @property
    def end(self) -> float:
        return self.at + self.count

    def draw(self, painter: QPainter, room: QRectF, peaks: tuple[float, ...]) -> None:
        low, high = sorted((self.first, self.last))
        columns = peaks[int(low * len(peaks)) : max(1, round(high * len(peaks)))]
        draw_peaks(
            painter, room, columns[:: -1 if self.first > self.last else 1], max(peaks, default=0)
        )


def drawable_pieces(timeline: Timeline, laid: LaidSound) -> tuple[Drawable, ...]:
    sound = timeline.job.sound(laid.source)
    whole = max(1, round(sound.seconds * DRAWN_RATE))
    made = []
    for one in pieces_of(timeline, laid, DRAWN_RATE):
        first, last = one.head, one.head + one.count
        if one.run is not None:
            first, last = one.run[:: -1 if one.is_backwards else 1]
        elif one.is_backwards:
            last = one.head - one.count
        made.append(
            Drawable(one.at / DRAWN_RATE, one.count / DRAWN_RATE, first / whole, last / whole)
        )
    return tuple(made)


def draw_peaks(
    painter: QPainter, room: QRectF, peaks: tuple[float, ...], loudest: float = 0.0
) -> None:
    """Columns around the middle line; the loudest fills the room, so that quiet ones show.

    loudest: of the whole sound, where these are a part of it.
    """
    if not peaks or room.width() < 1:
        return
    loudest = max(*peaks, loudest, 0.02)
    each = max(1, int(len(peaks) / room.width()))  # no more of them than there are pixels
    peaks = tuple(max(peaks[at : at + each]) for at in range(0, len(peaks), each))
    colour = current().colour("wave")
    step = room.width() / len(peaks)
    wide = step * 0.8 if step > LEAST_GAP else step + 0.5  # else the gaps would make a pattern
    for place, peak in enumerate(peaks):
        tall = max(1.0, peak / loudest * room.height())
        painter.fillRect(
            QRectF(room.x() + place * step, room.center().y() - tall / 2, max(1.0, wide), tall),
            colour,
        )
