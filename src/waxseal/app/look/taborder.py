"""Tab goes as the eye does: row by row through what is on the screen, inside each part of it.

Qt goes by when widgets were made, and here they are made when they come into sight.
"""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QRect, Qt
from PySide6.QtWidgets import QApplication, QWidget

__all__ = ["focus_next", "reading_order"]


def focus_next(window: QWidget, *, forwards: bool) -> bool:
    """Give the focus to what comes next in a window; whether there is anything."""
    order = list(reading_order(window))
    now = QApplication.focusWidget()
    # What has just been hidden has its place still: from there.
    place = order.index(now) if now in order else -1
    following = [*order[place + 1 :], *order[: place + 1]]
    if not forwards:
        following = [*reversed(order[: max(place, 0)]), *reversed(order[max(place, 0) :])]
    wanted = next((widget for widget in following if takes_tab(widget)), None)
    if wanted is None:
        return False
    reason = Qt.FocusReason.TabFocusReason if forwards else Qt.FocusReason.BacktabFocusReason
    wanted.setFocus(reason)
    return True


def takes_tab(widget: QWidget) -> bool:
    policy = widget.focusPolicy().value & Qt.FocusPolicy.TabFocus.value
    is_there = widget.isVisible() and widget.isEnabled()
    return bool(policy) and is_there and widget.focusProxy() is None


def reading_order(parent: QWidget) -> Iterator[QWidget]:
    """All widgets inside another, shown or not: each before what is inside of it."""
    children = [
        child for child in parent.children() if isinstance(child, QWidget) and not child.isWindow()
    ]
    for child in by_rows(children):
        yield child
        yield from reading_order(child)


def by_rows(widgets: list[QWidget]) -> list[QWidget]:
    """From the top down; those that stand side by side from the left."""
    rows: list[list[QWidget]] = []
    for widget in sorted(widgets, key=lambda one: one.y()):
        if rows and is_beside(rows[-1][0].geometry(), widget.geometry()):
            rows[-1].append(widget)
        else:
            rows.append([widget])
    return [widget for row in rows for widget in sorted(row, key=lambda one: one.x())]


def is_beside(one: QRect, other: QRect) -> bool:
    """Whether two that begin one below the other share more than half of the lower one's height."""
    return other.top() + min(one.height(), other.height()) / 2 < one.bottom()
