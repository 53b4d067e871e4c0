"""The line under the picture: ends, steps, play, loop, frame and timecode."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QToolButton

from waxseal.app.look.icons import icon
from waxseal.app.look.key_widgets import Choice, ToolButton
from waxseal.app.look.leave_out import LeaveOut
from waxseal.app.look.text_scale import px
from waxseal.app.look.widgets import Field, label
from waxseal.app.view import picture_texts
from waxseal.app.view.player import Player
from waxseal.app.view.sound_controls import SoundBox
from waxseal.core.timing.parse_length import parse_place, parse_place_from
from waxseal.core.timing.timecode import length_words, to_timecode

__all__ = ["Transport"]

SPEEDS = ((Fraction(1, 2), "½×"), (Fraction(1), "1×"), (Fraction(2), "2×"))


class Transport(QFrame):
    def __init__(self, player: Player) -> None:
        super().__init__()
        self.setObjectName("lane")
        self._player = player
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 3, 14, 3)
        row.setSpacing(2)
        self._buttons: dict[str, QToolButton] = {}
        for name, words, act in (
            ("first", self.tr(picture_texts.TO_THE_FIRST_FRAME_HOME), player.to_first),
            ("back", self.tr(picture_texts.ONE_FRAME_BACK_LEFT), self._back),
            ("play", self.tr(picture_texts.PLAY_OR_STOP_SPACE), player.toggle),
            ("forth", self.tr(picture_texts.ONE_FRAME_ON_RIGHT), self._forth),
            ("last", self.tr(picture_texts.TO_THE_LAST_FRAME_END), player.to_last),
            ("loop", self.tr("Loop (L)"), self._loop),
        ):
            made = ToolButton()
            made.setToolTip(words)
            made.setAccessibleName(words)
            made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            made.clicked.connect(act)
            row.addWidget(made)
            self._buttons[name] = made
        self._speed = Choice()
        self._speed.setObjectName("speed")
        self._speed.setAccessibleName(self.tr("Speed"))
        self._speed.setToolTip(self.tr(picture_texts.HOW_FAST_IT_PLAYS))
        for speed, words in SPEEDS:
            self._speed.addItem(words, speed)
        self._speed.setCurrentIndex([speed for speed, _ in SPEEDS].index(player.speed))
        self._speed.activated.connect(self._play_at)
        row.addWidget(self._speed)
        self._buttons["loop"].setCheckable(True)
        self._buttons["loop"].setChecked(player.loops)
        row.addSpacing(14)
        title = label(self.tr("frame"), "quiet")
        row.addWidget(title)
        row.addSpacing(4)
        self.frame_field = Field("1", self.tr(picture_texts.FRAME_OF_THE_REEL), self._parse)
        self.frame_field.setObjectName("frameField")
        self.frame_field.setFixedWidth(px(64))
        self.frame_field.said.connect(player.go)
        row.addWidget(self.frame_field)
        row.addSpacing(4)
        self._of = label("", "quiet")
        row.addWidget(self._of)
        row.addSpacing(16)
        self._code = label("", "name")
        row.addWidget(self._code)
        row.addStretch(1)
        self.sound = SoundBox(player.sounding)
        row.addWidget(self.sound)
        row.addSpacing(10)
        self._part = label("", "quiet")
        row.addWidget(self._part)
        may_go = (self._part, title, self.sound.meter, self._of, self._speed, self._code)
        LeaveOut(self, row, may_go)
        self.setMinimumWidth(px(280))
        self.draw_icons()
        player.moved.connect(self._moved)
        player.playing_changed.connect(self._show_playing)
        player.programme_changed.connect(self._show_timeline)
        self._show_timeline()

    def draw_icons(self) -> None:
        """Again after the look has changed."""
        self.sound.draw_icon()
        for name, made in self._buttons.items():
            playing = name == "play" and self._player.is_playing
            made.setIcon(icon("hold" if playing else name, "text"))

    def _parse(self, text: str) -> int:
        timeline = self._player.timeline
        if timeline is None:
            return parse_place(text, None)
        return parse_place_from(text, self._player.frame, timeline.rate, timeline.counting)

    def _show_timeline(self) -> None:
        timeline = self._player.timeline
        self.setEnabled(timeline is not None)
        if timeline is None:
            self._of.setText("")
            self._code.setText("")
            self._part.setText("")
            return
        self._of.setText(self.tr("of {0}").format(timeline.length))
        if timeline.job.reel.marked is not None:
            frames = timeline.frames
            length = length_words(frames.count, timeline.rate)
            self._part.setText(self.tr("marked {0} · {1}").format(frames, length))
        else:
            self._part.setText(length_words(timeline.length, timeline.rate))
        self._moved(self._player.frame)

    def _moved(self, frame: int) -> None:
        self.frame_field.show_text(str(frame))
        timeline = self._player.timeline
        if timeline is not None:
            self._code.setText(to_timecode(frame - 1, timeline.rate, timeline.counting))

    def _show_playing(self, _is_playing: bool) -> None:
        self.draw_icons()

    def _back(self) -> None:
        self._player.step(-1)

    def _forth(self) -> None:
        self._player.step(1)

    def _play_at(self, _index: int) -> None:
        self._player.play_at(self._speed.currentData(), is_backwards=self._player.is_backwards)

    def show_loop(self) -> None:
        """Draw the loop's button as the player has it."""
        self._buttons["loop"].setChecked(self._player.loops)
        self.draw_icons()

    def _loop(self) -> None:
        self._player.loops = self._buttons["loop"].isChecked()
        self.draw_icons()
