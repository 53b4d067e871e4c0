"""How loud the reel is while it plays: a bar a channel, and the loudness in figures."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from typing_extensions import override

from waxseal.app.look.accessibility import DrawnWidget
from waxseal.app.look.levels import LEAST, figure_words, share
from waxseal.app.look.palette import current
from waxseal.app.look.text_scale import px
from waxseal.app.view import picture_texts
from waxseal.app.view.playback_sound import PlaybackSound

if TYPE_CHECKING:
    from waxseal.core.sound.level_meter import Levels

__all__ = ["LevelMeter"]

EACH_MS = 50
HELD = 20  # times that the loudest stays to be seen
FULL = 0.0


class LevelMeter(DrawnWidget):
    def __init__(self, sounding: PlaybackSound) -> None:
        super().__init__()
        self._sounding = sounding
        self._levels: Levels | None = None
        self._most: list[tuple[float, int]] = []  # of each channel, and for how long it stays
        self.setFixedSize(px(86), px(20))
        self.setAccessibleName(self.tr("Level"))
        self.setToolTip(self.tr(picture_texts.NOTHING_IS_PLAYED))
        self._timer = QTimer(self, interval=EACH_MS)
        self._timer.timeout.connect(self._look)
        sounding.begun.connect(self._begin)

    @override
    def sizeHint(self) -> QSize:
        return QSize(px(86), px(20))

    @override
    def spoken_value(self) -> str:
        return self._words() if self._levels is not None else ""

    def _begin(self) -> None:
        self._levels, self._most = None, []  # both are of the same channels
        self._timer.start()

    def _look(self) -> None:
        levels = self._sounding.levels
        if levels is None and not self._sounding.is_heard:
            self._timer.stop()  # the last figures stay to be read
        if levels is not None:
            self._levels = levels
            self._hold(levels.peaks)
            self.setToolTip(self._words())
        self.update()

    def _hold(self, peaks: tuple[float, ...]) -> None:
        if len(self._most) != len(peaks):
            self._most = [(LEAST, 0)] * len(peaks)
        self._most = [
            (peak, HELD) if peak >= most or not left else (most, left - 1)
            for peak, (most, left) in zip(peaks, self._most, strict=True)
        ]

    def _words(self) -> str:
        if self._levels is None:
            return self.tr(picture_texts.NOTHING_IS_PLAYED)
        one = self._levels
        figures = (one.momentary, one.short, one.integrated, one.true_peak)
        return self.tr(picture_texts.HOW_LOUD_IT_IS).format(*(figure_words(one) for one in figures))

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        palette = current()
        with QPainter(self) as painter:
            words = px(38)
            room = QRectF(0, 3, self.width() - words - 4, self.height() - 6)
            if self._levels is None:  # nothing has been played: an empty box would say nothing
                return
            painter.fillRect(room, palette.colour("sunken"))
            is_playing = self._timer.isActive()
            peaks = self._levels.peaks if is_playing else ()
            tall = room.height() / max(1, len(peaks))
            for number, peak in enumerate(peaks):
                y = room.y() + number * tall
                bar = QRectF(room.x(), y, room.width() * share(peak), max(1.0, tall - 1))
                painter.fillRect(bar, palette.colour("good"))
                most, _ = self._most[number]
                x = room.x() + room.width() * share(most) - 2
                tone = "wrong" if most >= FULL else "text"
                painter.fillRect(QRectF(max(room.x(), x), y, 2, bar.height()), palette.colour(tone))
            painter.setPen(palette.colour("quiet"))
            figure = self._levels.short if is_playing else self._levels.integrated
            place = QRectF(self.width() - words, 0, words, self.height())
            align = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(place, align, figure_words(figure))
