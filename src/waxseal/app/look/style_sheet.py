"""The style sheet and the font, from a palette. Spacing in steps of 4 px, radius 3 px."""

from __future__ import annotations

import re
from dataclasses import fields
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontInfo, QPalette
from PySide6.QtWidgets import QApplication

from waxseal import fonts
from waxseal.app.look.icons import icon_file
from waxseal.app.look.palette import Palette, current
from waxseal.app.look.text_scale import USUAL_PIXELS, px, set_text_pixels

__all__ = ["apply_look", "dress", "load_font"]

FONTS, FAMILY = Path(fonts.__path__[0]), "Lato"
PIXELS = re.compile(r"(font-size|min-height): (\d+)px")  # of the sheet: what grows with the text


def load_font(app: QApplication) -> None:
    """Our own font, with figures of one width, as large as the desktop's."""
    set_text_pixels(QFontInfo(app.font()).pixelSize())
    for file in FONTS.glob("*.ttf"):
        QFontDatabase.addApplicationFontFromData(file.read_bytes())
    font = QFont(FAMILY)
    font.setPixelSize(px(USUAL_PIXELS))
    font.setFeature(QFont.Tag("tnum"), 1)
    app.setFont(font)


def dress() -> None:
    """Apply the look once the first window is built.

    While a sheet is set, Qt styles each widget again whenever it gets another parent.
    """
    app = QApplication.instance()
    if isinstance(app, QApplication) and not app.styleSheet():
        apply_look(app, current())


def apply_look(app: QApplication, palette: Palette) -> None:
    app.setPalette(qt_palette(palette))
    colours = {name: getattr(palette, name) for name in NAMES}
    sheet = SHEET.format(
        arrow=icon_file(f"down-{palette.look}").as_posix(),
        tick=icon_file(f"tick-{palette.look}").as_posix(),
        **colours,
    )
    app.setStyleSheet(PIXELS.sub(lambda found: f"{found[1]}: {px(int(found[2]))}px", sheet))


NAMES = tuple(one.name for one in fields(Palette) if one.name != "look")


def qt_palette(palette: Palette) -> QPalette:
    roles = {
        QPalette.ColorRole.Window: palette.ground,
        QPalette.ColorRole.Base: palette.field,
        QPalette.ColorRole.AlternateBase: palette.sunken,
        QPalette.ColorRole.Button: palette.raised,
        QPalette.ColorRole.WindowText: palette.text,
        QPalette.ColorRole.Text: palette.text,
        QPalette.ColorRole.ButtonText: palette.text,
        QPalette.ColorRole.ToolTipBase: palette.raised,
        QPalette.ColorRole.ToolTipText: palette.text,
        QPalette.ColorRole.PlaceholderText: palette.quiet,
        QPalette.ColorRole.Highlight: palette.text,
        QPalette.ColorRole.HighlightedText: palette.raised,
        QPalette.ColorRole.Link: palette.text,
    }
    colours = QPalette()
    for role, colour in roles.items():
        colours.setColor(role, QColor(colour))
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText):
        colours.setColor(QPalette.ColorGroup.Disabled, role, QColor(palette.quiet))
    return colours


SHEET = """
QMainWindow, QMenuBar, QScrollArea, #lane {{ background: {ground}; }}
QMenuBar {{ padding: 2px 4px; border-bottom: 1px solid {line}; }}
QMenuBar::item {{ padding: 4px 8px; background: transparent; border-radius: 3px; }}
QMenuBar::item:selected {{ background: {sunken}; }}
QMenu {{ background: {raised}; border: 1px solid {line}; padding: 4px; }}
QMenu::item {{ padding: 4px 24px 4px 12px; border-radius: 3px; }}
QMenu::item:selected {{ background: {text}; color: {raised}; }}
QMenu::item:disabled {{ color: {quiet}; }}
QMenu::separator {{ height: 1px; background: {line}; margin: 4px 8px; }}
QToolTip {{ background: {raised}; color: {text}; border: 1px solid {line}; padding: 4px; }}
QScrollArea {{ border: none; }}
QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
QScrollBar::handle:vertical {{ background: {edge}; border-radius: 3px; min-height: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QSplitter::handle {{ background: {line}; }}

#header {{ background: {ground}; border-bottom: 1px solid {line}; }}
#footer {{ background: {ground}; border-top: 1px solid {line}; }}
#jobName {{ font-size: 17px; font-weight: 600; }}
#laneTitle {{ font-size: 11px; font-weight: 600; color: {quiet}; letter-spacing: 1.5px; }}
#columnTitle {{ font-size: 11px; color: {quiet}; }}
#name {{ font-weight: 600; }}
#quiet {{ color: {quiet}; }}
#small {{ color: {quiet}; font-size: 12px; }}
#good {{ color: {good}; }}
#heed {{ color: {heed}; }}
#bad {{ color: {wrong}; }}
#strong {{ font-weight: 600; font-size: 14px; }}

#card {{ background: {raised}; border: 1px solid {edge}; padding: 1px; border-radius: 3px; }}
#card:hover {{ background: {sunken}; }}
#card[open="true"] {{ border: 1px solid {text}; background: {raised}; }}
#card[chosen="true"] {{ border: 2px solid {focus}; padding: 0; }}
#row {{
    border-bottom: 1px solid {line}; border-left: 3px solid transparent; background: transparent;
}}
#row[chosen="true"] {{ background: {raised}; border-left: 3px solid {focus}; }}
#hover {{ background: {raised}; border: 1px solid {edge}; }}
#band {{ background: {sunken}; border-radius: 3px; }}
#docket {{ border-top: 1px solid {line}; }}
#habits {{ border-top: 1px solid {line}; border-bottom: 1px solid {line}; }}

QLineEdit, QComboBox, QSpinBox {{
    background: {field}; border: 1px solid {edge}; border-radius: 3px; padding: 2px 4px;
    min-height: 18px; selection-background-color: {text}; selection-color: {raised};
}}
QLineEdit:focus, QComboBox:focus, QSpinBox:focus {{
    border: 2px solid {focus}; padding: 1px 3px;
}}
QLineEdit[wrong="true"] {{ border: 2px solid {wrong}; color: {wrong}; padding: 1px 3px; }}
QComboBox::drop-down {{ border: none; width: 16px; }}
QComboBox::down-arrow {{ image: url({arrow}); width: 10px; height: 10px; }}
QComboBox QAbstractItemView {{ background: {raised}; border: 1px solid {line}; outline: none; }}
QPushButton {{
    background: {raised}; border: 1px solid {edge}; border-radius: 3px; padding: 3px 10px;
}}
QPushButton:hover {{ border-color: {text}; }}
QPushButton:focus {{ border: 2px solid {focus}; padding: 2px 9px; }}
QPushButton:disabled {{ color: {quiet}; }}
QPushButton#seal {{
    background: {wax}; color: {on_wax}; border: 1px solid {wax}; font-weight: 600;
    font-size: 14px; padding: 9px;
}}
QPushButton#seal:disabled {{ background: {sunken}; color: {quiet}; border-color: {line}; }}
QPushButton#seal:focus {{ border: 2px solid {focus}; padding: 8px; }}
#specs::item {{ padding: 2px 0; }}
QPushButton#choice {{ padding: 1px 8px; }}
QPushButton#choice:checked {{ background: {text}; color: {ground}; border-color: {text}; }}
QPushButton#choice:focus {{ border: 2px solid {focus}; padding: 0 7px; }}
QPushButton#word {{
    background: transparent; border: 2px solid transparent; color: {text}; padding: 0 2px;
    font-size: 12px; font-weight: 600; text-decoration: underline;
}}
QPushButton#word:disabled {{ color: {quiet}; text-decoration: none; }}
QPushButton#word:hover {{ background: {sunken}; }}
QPushButton#word:focus {{ border-color: {focus}; border-radius: 3px; }}
QCheckBox::indicator {{
    width: 12px; height: 12px; border: 1px solid {edge}; border-radius: 2px; background: {field};
}}
QCheckBox::indicator:checked {{ image: url({tick}); }}
QCheckBox::indicator:focus {{ border: 1px solid {focus}; }}
QCheckBox:focus {{ color: {focus}; }}
QToolButton {{ background: transparent; border: 1px solid transparent; border-radius: 3px;
    padding: 4px; }}
QToolButton:hover {{ background: {sunken}; }}
QToolButton:checked {{ background: {sunken}; }}
QToolButton:focus {{ border: 2px solid {focus}; padding: 3px; }}
QToolButton::menu-button {{ border: none; width: 12px; }}
#mark {{ border: 1px solid {quiet}; border-radius: 3px; padding: 0 5px; font-size: 12px; }}
#mark[tone="good"] {{ color: {good}; border-color: {good}; }}
#mark[tone="bad"] {{ color: {wrong}; border-color: {wrong}; }}
#mark[tone="heed"] {{ color: {heed}; border-color: {heed}; }}
QDialog {{ background: {ground}; }}
QListWidget {{ background: {field}; border: 1px solid {edge}; border-radius: 3px; }}
QListWidget::item {{ padding: 4px; }}
QListWidget::item:selected {{ background: {text}; color: {raised}; }}
"""
