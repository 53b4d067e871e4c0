"""What the window remembers from one day to the next, through one gate.

A file of settings may have been cut short or written by hand: whatever does not have the
type that it should have counts as not said.
"""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QByteArray, QSettings

from waxseal.app.look.palette import Look
from waxseal.app.view.playback_sound import ListeningSettings

__all__ = ["Settings"]

RECENT = 8


class Settings:
    def __init__(self, kept: QSettings) -> None:
        self._kept = kept

    @property
    def look(self) -> Look | None:
        """The look that somebody chose; None is that of the desktop."""
        value = self._kept.value("look")
        return next((look for look in Look if look.value == value), None)

    @look.setter
    def look(self, look: Look) -> None:
        self._kept.setValue("look", look.value)

    @property
    def recent(self) -> list[str]:
        """The paths of the jobs that were open last, the newest first."""
        kept = self._kept.value("recent")
        several = kept if isinstance(kept, list) else [kept]
        return [one for one in several if isinstance(one, str) and "\0" not in one and one]

    def remember(self, path: Path) -> None:
        recent = [str(path.absolute()), *self.recent]
        self._kept.setValue("recent", list(dict.fromkeys(recent))[:RECENT])

    @property
    def listening(self) -> ListeningSettings:
        """How the window is heard."""
        kept = ListeningSettings()
        volume, late = (self._kept.value(f"sound/{one}") for one in ("volume", "late"))
        try:
            volume, late = float(str(volume)), float(str(late))
        except ValueError:
            return kept
        device, is_mute = (self._kept.value(f"sound/{one}") for one in ("device", "mute"))
        if not (0 <= volume <= 1 and -1 <= late <= 3):
            return kept
        return ListeningSettings(volume, str(is_mute) == "true", late, str(device or ""))

    def keep_listening(self, listening: ListeningSettings) -> None:
        self._kept.setValue("sound/volume", listening.volume)
        self._kept.setValue("sound/mute", "true" if listening.is_mute else "false")
        self._kept.setValue("sound/late", listening.late)
        self._kept.setValue("sound/device", listening.device)

    def layout(self, part: str) -> QByteArray:
        """How wide a part's pieces were; empty where that is not known."""
        state = self._kept.value(f"layout/{part}")
        return state if isinstance(state, QByteArray) else QByteArray()

    def keep_layout(self, part: str, state: QByteArray) -> None:
        self._kept.setValue(f"layout/{part}", state)
