"""The end of the work is heard and seen, also where the window is not looked at."""

from __future__ import annotations

import shutil
from contextlib import suppress

from PySide6.QtCore import QProcess
from PySide6.QtWidgets import QApplication, QWidget

from waxseal.core.errors import WaxSealError
from waxseal.core.sound.chime import chime_file

__all__ = ["announce"]

# The usual programs of a desktop that play a file, and that show a message.
PLAYERS, NOTIFIER = ("pw-play", "paplay", "aplay"), "notify-send"


def announce(window: QWidget, words: str, *, is_good: bool) -> None:
    """Chime, show a message on the desktop, and mark the window where it is not in front."""
    QApplication.alert(window)
    if window.isActiveWindow():
        return  # whoever looks at it sees it
    notifier = shutil.which(NOTIFIER)
    if notifier is not None:
        told = ["--app-name=Wax Seal", "--expire-time=20000", "Wax Seal", words]
        QProcess.startDetached(notifier, told)
    player = next((found for found in map(shutil.which, PLAYERS) if found), None)
    with suppress(OSError, WaxSealError):
        if player is None:
            QApplication.beep()
        else:
            QProcess.startDetached(player, [str(chime_file(is_good=is_good))])
