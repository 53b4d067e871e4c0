"""The line that is there while a delivery is looked at: what of it is shown, and the way back."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QPushButton

from waxseal.app.look.leave_out import LeaveOut
from waxseal.app.look.text_scale import px
from waxseal.app.look.tooltips import set_tip
from waxseal.app.look.widgets import Elided, button
from waxseal.app.view import picture_texts
from waxseal.app.view.player import Player
from waxseal.core.deliver.preview.file_view import Show
from waxseal.core.text_format import plain

__all__ = ["BesideBar"]


class BesideBar(QFrame):
    def __init__(self, player: Player) -> None:
        super().__init__()
        self.setObjectName("lane")
        self._player = player
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 4, 10, 2)
        row.setSpacing(4)
        self._name = Elided("", "name", middle=True)
        row.addWidget(self._name, 1)
        self._shows = QButtonGroup(self)
        self._buttons: dict[Show, QPushButton] = {}
        for show, words, tip in (
            (
                Show.REEL,
                self.tr("As delivered"),
                self.tr(picture_texts.AS_THE_DELIVERY_WILL_HAVE_IT),
            ),
            (Show.FILE, self.tr("File"), self.tr(picture_texts.WHAT_THE_FILE_SHOWS)),
            (Show.BOTH, self.tr("Both"), self.tr(picture_texts.DRAG_THE_EDGE)),
            (Show.DIFFERENCE, self.tr("Difference"), self.tr(picture_texts.HOW_FAR_APART)),
        ):
            made = button(words, partial(self._choose, show), "choice")
            made.setCheckable(True)
            set_tip(made, tip)
            self._shows.addButton(made)
            self._buttons[show] = made
            row.addWidget(made)
        back = button(self.tr("Back to the reel"), partial(player.look_at, None), "word")
        set_tip(back, self.tr(picture_texts.BACK_TO_THE_REEL))
        row.addWidget(back)
        LeaveOut(self, row, (self._name,))
        self.setMinimumWidth(px(280))
        player.looked_changed.connect(self._show_looked)
        self._show_looked()

    def _choose(self, show: Show) -> None:
        if self._player.looked is not None:
            self._player.look_at(replace(self._player.looked, show=show))

    def _show_looked(self) -> None:
        looked, timeline = self._player.looked, self._player.timeline
        self.setVisible(looked is not None)
        if looked is None or timeline is None:
            return
        name = looked.file.name if looked.file else timeline.job.delivery(looked.delivery).name
        self._name.say(plain(name))
        for show, made in self._buttons.items():
            made.setChecked(show is looked.show)
            made.setVisible(looked.file is not None or not show.needs_file)
