"""The sound's row of the ledger: its waveform over the reel's length."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QWidget
from typing_extensions import override

from waxseal.app.look.givingway import GivesWay
from waxseal.app.look.palette import current
from waxseal.app.look.scale import px
from waxseal.app.look.small import Elided, button, label
from waxseal.app.look.tooltips import set_tip
from waxseal.app.reel import sentences
from waxseal.app.reel.columns import AHEAD, LEFT, RIGHT
from waxseal.app.reel.waveform import Peaks, draw_peaks
from waxseal.core.errors import SoundError
from waxseal.core.plan.timeline import Timeline
from waxseal.core.sound.timeline import sound_plan
from waxseal.core.timing.ranges import FrameRange
from waxseal.core.words import lines_text

__all__ = ["SoundRow"]


class SoundRow(QFrame):
    lift_asked = Signal()

    def __init__(self, peaks: Peaks) -> None:
        super().__init__()
        self.setObjectName("row")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        line = QHBoxLayout(self)
        line.setContentsMargins(AHEAD, 3, 0, 3)
        line.setSpacing(8)
        ahead = QLabel()
        ahead.setFixedWidth(px(LEFT["number"]))
        self._kind = label(self.tr("sound"), "small")
        self._kind.setFixedWidth(px(LEFT["picture"]))
        self._name = Elided("", "name")
        self._name.setFixedWidth(px(LEFT["name"]))
        self._bar = SoundBar(peaks)
        self._seconds = label("")
        self._against = label("", "small")
        for widget, column in zip((self._seconds, self._against), RIGHT, strict=False):
            widget.setFixedWidth(px(column.width))
            widget.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        lift = button(self.tr("take off"), self.lift_asked.emit, "word")
        lift.setFixedWidth(px(RIGHT[-1].width))
        for left in (ahead, self._kind, self._name):
            line.addWidget(left)
        line.addWidget(self._bar, 1)
        for right in (self._seconds, self._against, lift):
            line.addWidget(right)
        GivesWay(
            self,
            {
                one: column.gives_way
                for one, column in zip((self._seconds, self._against, lift), RIGHT, strict=True)
            },
        )

    def show_timeline(self, timeline: Timeline) -> None:
        job = timeline.job
        sound = job.sound(job.reel.sounds[0].source)
        self._name.say(sound.name)
        self.setAccessibleName(self.tr("Sound {0}").format(sound.name))
        self._seconds.setText(f"{float(sound.seconds):.3f} s")
        try:
            plan = sound_plan(job, FrameRange(1, timeline.length), timeline.rate)
        except SoundError as error:  # channels that cannot be delivered: the seal would say so too
            self._against.setText(self.tr("refused"))
            set_tip(self._against, str(error))
        else:
            over = plan.seconds_over(plan.placed[0]) if plan else 0
            words = f"{float(over):+.3f} s" if over else self.tr("exact")
            self._against.setText(words)
            notes = lines_text(plan.notes) if plan else ""
            set_tip(self._against, notes or self.tr(sentences.EXACTLY_AS_LONG_AS_THE_PICTURE))
        self._bar.show_timeline(timeline)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete:
            self.lift_asked.emit()
        else:
            super().keyPressEvent(event)


class SoundBar(QWidget):
    def __init__(self, peaks: Peaks) -> None:
        super().__init__()
        self._peaks = peaks
        self._timeline: Timeline | None = None
        self.setMinimumHeight(26)
        peaks.made.connect(self._made)

    def show_timeline(self, timeline: Timeline) -> None:
        self._timeline = timeline
        self.update()

    def _made(self, _path: str) -> None:
        self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        timeline = self._timeline
        if timeline is None or not timeline.job.reel.sounds:
            return
        sound = timeline.job.sound(timeline.job.reel.sounds[0].source)
        frames = sound.seconds * timeline.rate
        share = float(frames / timeline.length)
        with QPainter(self) as painter:
            room = QRectF(self.rect()).adjusted(3, 2, -3, -2)
            painter.fillRect(
                QRectF(room.x(), room.center().y() - 5, room.width(), 10),
                current().colour("sunken"),
            )
            painter.setClipRect(room)
            room.setWidth(room.width() * share)
            draw_peaks(painter, room, self._peaks.get(sound.path))
