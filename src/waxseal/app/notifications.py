"""The end of the work is heard and seen, also where the window is not looked at."""

from __future__ import annotations

import shutil
from contextlib import suppress

from PySide6.QtCore import QProcess
from PySide6.QtWidgets import QApplication, QWidget

from waxseal.app.view.playback_sound import PlaybackSound
from waxseal.core.errors import WaxSealError
from waxseal.core.sound.chime import chime_file
from waxseal.core.sound.sound_files import probe_sound

__all__ = ["announce"]

NOTIFIER = "notify-send"  # the usual program of a desktop that shows a message


def announce(window: QWidget, sounding: PlaybackSound, words: str, *, is_good: bool) -> None:
    """Chime, show a message on the desktop, and mark the window where it is not in front."""
    QApplication.alert(window)
    if window.isActiveWindow():
        return  # whoever looks at it sees it
    notifier = shutil.which(NOTIFIER)
    if notifier is not None:
        told = ["--app-name=Wax Seal", "--expire-time=20000", "Wax Seal", words]
        QProcess.startDetached(notifier, told)
    if sounding.levels is None:  # nothing is played that it would break off
        with suppress(OSError, WaxSealError):
            sounding.play_alone(probe_sound(chime_file(is_good=is_good)))
