"""The two looks, and which one is in force."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QGuiApplication

__all__ = ["DAY", "LAMP", "Look", "Palette", "current", "desktop_look", "set_look"]


class Look(StrEnum):
    DAY = "day"
    LAMP = "lamp"


@dataclass(frozen=True, slots=True)
class Palette:
    """Colours by what they are for.

    Text on its ground is 4.5:1 at the least, and the edge of what can be changed 3:1
    (WCAG 2.1, success criteria 1.4.3 and 1.4.11).
    """

    look: Look
    ground: str
    raised: str
    sunken: str
    line: str
    edge: str
    text: str
    quiet: str
    accent: str
    on_accent: str
    good: str
    heed: str
    surround: str
    on_surround: str

    def colour(self, name: str, alpha: float = 1.0) -> QColor:
        colour = QColor(str(getattr(self, name)))
        colour.setAlphaF(alpha)
        return colour


DAY = Palette(
    look=Look.DAY,
    ground="#F3EEE4",
    raised="#FBF8F1",
    sunken="#E9E2D5",
    line="#D5CBBB",
    edge="#867D6D",
    text="#262320",
    quiet="#6B6358",
    accent="#8F2430",
    on_accent="#FBF8F1",
    good="#2E6A5C",
    heed="#7C5A10",
    surround="#5A5A5A",
    on_surround="#F2F2F2",
)
LAMP = Palette(
    look=Look.LAMP,
    ground="#201E1B",
    raised="#2B2825",
    sunken="#181614",
    line="#45403A",
    edge="#80786C",
    text="#E9E2D5",
    quiet="#A79E90",
    accent="#D8727A",
    on_accent="#201A1A",
    good="#6FB3A2",
    heed="#D2A84C",
    surround="#2E2E2E",
    on_surround="#E6E6E6",
)


class _InForce:
    """What the application draws with: one for all its windows, as fonts and styles are."""

    palette = DAY


def current() -> Palette:
    return _InForce.palette


def set_look(look: Look) -> Palette:
    _InForce.palette = DAY if look is Look.DAY else LAMP
    return _InForce.palette


def desktop_look() -> Look:
    """What the desktop prefers."""
    dark = QGuiApplication.styleHints().colorScheme() is Qt.ColorScheme.Dark
    return Look.LAMP if dark else Look.DAY
