"""How the reel is heard: its level, mute, and a menu of volume, device and lateness."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QAction, QActionGroup
from PySide6.QtWidgets import (
    QHBoxLayout,
    QInputDialog,
    QMenu,
    QSlider,
    QToolButton,
    QWidget,
    QWidgetAction,
)

from waxseal.app.look.icons import icon
from waxseal.app.look.key_widgets import ToolButton
from waxseal.app.look.text_scale import px
from waxseal.app.look.widgets import label, row_of
from waxseal.app.view import picture_texts
from waxseal.app.view.meter_widget import LevelMeter
from waxseal.app.view.playback_sound import PlaybackSound

__all__ = ["SoundBox"]


class SoundBox(QWidget):
    def __init__(self, sounding: PlaybackSound) -> None:
        super().__init__()
        self._sounding = sounding
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.button = ToolButton()
        words = self.tr(picture_texts.MUTE_AND_MENU)
        self.button.setToolTip(words)
        self.button.setAccessibleName(self.tr("Sound"))
        self.button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.button.setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
        self.button.clicked.connect(sounding.toggle_mute)
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.button.setMenu(self._menu)
        self.volume = QSlider(Qt.Orientation.Horizontal)
        self.volume.setRange(0, 100)
        self.volume.setMinimumWidth(px(160))
        self.volume.setAccessibleName(self.tr("Volume"))
        self.volume.setToolTip(self.tr(picture_texts.VOLUME_OF_LISTENING))
        self.volume.valueChanged.connect(self._set_volume)
        self.meter = LevelMeter(sounding)
        row.addWidget(self.meter)
        self._louder = QWidgetAction(self._menu)
        inside, line = QWidget(), row_of(label(self.tr("Volume"), "quiet"), self.volume)
        line.setContentsMargins(12, 4, 12, 4)
        inside.setLayout(line)
        self._louder.setDefaultWidget(inside)
        row.addWidget(self.button)
        sounding.changed.connect(self.show_state)
        self.show_state()

    def show_state(self) -> None:
        with QSignalBlocker(self.volume):
            self.volume.setValue(round(self._sounding.listening.volume * 100))
        self.draw_icon()

    def draw_icon(self) -> None:
        """Again after the look has changed."""
        is_mute = self._sounding.listening.is_mute
        self.button.setIcon(icon("mute" if is_mute else "sound", "wrong" if is_mute else "text"))

    def _say(self, **values: Any) -> None:
        self._sounding.listen(replace(self._sounding.listening, **values))

    def _set_volume(self, value: int) -> None:
        self._say(volume=value / 100)

    def _fill_menu(self) -> None:
        from waxseal.core.sound.audio_devices import device_names

        self._menu.removeAction(self._louder)  # it outlives the others
        self._menu.clear()
        self._menu.addAction(self._louder)
        self._menu.addSeparator()
        group = QActionGroup(self._menu)
        for name, words in (
            ("", self.tr("The usual device")),
            *((one, one) for one in device_names()),
        ):
            act = QAction(words, self._menu, checkable=True)
            act.setChecked(name == self._sounding.listening.device)
            act.triggered.connect(partial(self._use, name))
            group.addAction(act)
            self._menu.addAction(act)
        self._menu.addSeparator()
        late = round(self._sounding.listening.late * 1000)
        words = self.tr("Sound delay: {0} ms…").format(late)
        self._menu.addAction(words, self._ask_late)

    def _use(self, name: str, *_checked: object) -> None:
        self._say(device=name)

    def _ask_late(self) -> None:
        before = round(self._sounding.listening.late * 1000)
        title, words = self.tr("Sound"), self.tr(picture_texts.HOW_LATE)
        late, is_said = QInputDialog.getInt(self, title, words, before, -500, 2000, 5)
        if is_said:
            self._say(late=late / 1000)
