"""Controls that have no room for their words: the words end in an ellipsis.

A module of its own: the classes that Qt draws controls with take 20 ms to load.
"""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QPushButton,
    QStyle,
    QStyleOptionButton,
    QStyleOptionComboBox,
    QStylePainter,
    QWidget,
)

from waxseal.app.look.tooltips import set_tip

__all__ = ["draw_button", "draw_choice"]


def elided(widget: QWidget, text: str, room: int) -> str:
    """The text, or as much of it as there is room for; then its tool tip has the whole."""
    shown = widget.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, room)
    if shown != text and not widget.toolTip():
        set_tip(widget, text)
    return shown


def draw_button(button: QPushButton, spare: int) -> None:
    """spare: how much wider it is than its words need, in pixels; negative here."""
    option = QStyleOptionButton()
    button.initStyleOption(option)
    room = button.fontMetrics().horizontalAdvance(button.text()) + spare
    option.text = elided(button, button.text(), room)
    QStylePainter(button).drawControl(QStyle.ControlElement.CE_PushButton, option)


def draw_choice(box: QComboBox) -> None:
    option = QStyleOptionComboBox()
    box.initStyleOption(option)
    field = box.style().subControlRect(
        QStyle.ComplexControl.CC_ComboBox,
        option,
        QStyle.SubControl.SC_ComboBoxEditField,
        box,
    )
    option.currentText = elided(box, box.currentText(), field.width() - 2)
    painter = QStylePainter(box)
    painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
    painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
