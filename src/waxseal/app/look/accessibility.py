"""What is drawn by us speaks to assistive technology: a role, a value, a state, what it does.

Its name and description it says as every widget does.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, runtime_checkable

from PySide6.QtCore import QObject
from PySide6.QtGui import QAccessible, QAccessibleInterface, QAccessibleValueChangeEvent
from PySide6.QtWidgets import QAccessibleWidget, QWidget
from shiboken6 import isValid
from typing_extensions import override

__all__ = ["Accessible", "Acts", "DrawnWidget", "let_widgets_speak", "say_value"]

# What can be done with a widget, by the toolkit's name for it, or by one in our own words.
Acts = dict[str, Callable[[], object]]


@runtime_checkable
class Accessible(Protocol):
    """A widget that says what it is. spoken_value: what it shows now, in words; may be empty.

    spoken_acts: what can be done with it besides giving it the focus.
    """

    spoken_role: QAccessible.Role

    def spoken_value(self) -> str: ...

    def spoken_acts(self) -> Acts: ...


@runtime_checkable
class Expandable(Protocol):
    """A widget that can be opened and closed."""

    is_spoken_open: bool


class DrawnWidget(QWidget):
    """A widget that is drawn by us: a picture, and what its description says."""

    spoken_role = QAccessible.Role.Graphic

    def spoken_value(self) -> str:
        return self.accessibleDescription()

    def spoken_acts(self) -> Acts:
        return {}


class Spoken(QAccessibleWidget):
    """What a screen reader is told of a widget."""

    def __init__(self, widget: QWidget, speaks: Accessible) -> None:
        super().__init__(widget, speaks.spoken_role)
        self._speaks = speaks

    @override
    def text(self, kind: QAccessible.Text) -> str:
        if kind is QAccessible.Text.Value:
            return self._speaks.spoken_value()
        return super().text(kind)

    @override
    def state(self) -> QAccessible.State:
        state = super().state()
        if isinstance(self._speaks, Expandable):
            state.expandable = True
            state.expanded = self._speaks.is_spoken_open
            state.collapsed = not self._speaks.is_spoken_open
        return state

    @override
    def actionNames(self) -> list[str]:
        return [*super().actionNames(), *self._speaks.spoken_acts()]

    @override
    def doAction(self, actionName: str) -> None:
        act = self._speaks.spoken_acts().get(actionName)
        if act is None:
            super().doAction(actionName)
        else:
            act()


# Held here until the toolkit has taken them apart, with their widgets: it does that itself.
_told: list[Spoken] = []


def told_of(_kind: str, one: QObject) -> QAccessibleInterface | None:
    """The toolkit asks for each class of a widget, from its own to the first."""
    if not isinstance(one, QWidget) or not isinstance(one, Accessible):
        return None
    _told[:] = [spoken for spoken in _told if isValid(spoken)]
    _told.append(Spoken(one, one))
    return _told[-1]


def let_widgets_speak() -> None:
    """Once for an application. Nothing is made until somebody listens."""
    QAccessible.installFactory(told_of)


def say_value(widget: QWidget) -> None:
    """Tell those who listen that a widget shows something else now."""
    if QAccessible.isActive() and isinstance(widget, Accessible):
        event = QAccessibleValueChangeEvent(widget, widget.spoken_value())
        QAccessible.updateAccessibility(event)
