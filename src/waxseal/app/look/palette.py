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
    """Colours by what they are for. One means one thing.

    wax: seals, and the one button that makes them; wrong: what is lost or wrong; heed: look here;
    good: there, whole, within its limit; repeated: frames that come again; focus: where the
    keyboard is, and nothing else; wave: sounds; line: rules, which carry nothing; edge: of what
    can be changed. What can be pressed is ink: text, underlined.

    Text on its ground is at least 4.5:1, and edges, marks and drawings 3:1 (WCAG 2.1, success
    criteria 1.4.3 and 1.4.11); `repeated` always comes with words.
    """

    look: Look
    ground: str
    raised: str
    sunken: str
    field: str
    line: str
    edge: str
    text: str
    quiet: str
    wax: str
    on_wax: str
    wrong: str
    good: str
    repeated: str
    heed: str
    focus: str
    wave: str
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
    field="#FFFDF8",
    line="#DAD1C2",
    edge="#867D6D",
    text="#262320",
    quiet="#6B6358",
    wax="#8F2430",
    on_wax="#FBF8F1",
    wrong="#8F2430",
    good="#2E6A5C",
    repeated="#8FAFA4",
    heed="#7C5A10",
    focus="#24589C",
    wave="#857C6C",
    surround="#5A5A5A",
    on_surround="#F2F2F2",
)
LAMP = Palette(
    look=Look.LAMP,
    ground="#201E1B",
    raised="#2B2825",
    sunken="#181614",
    field="#1A1816",
    line="#423D37",
    edge="#857C70",
    text="#E9E2D5",
    quiet="#A79E90",
    wax="#C04A54",
    on_wax="#FFF8F2",
    wrong="#E2868D",
    good="#6FB3A2",
    repeated="#41695F",
    heed="#D2A84C",
    focus="#8DB7F2",
    wave="#8A8275",
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
