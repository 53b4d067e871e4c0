"""A fault of a library that would end the window: seen before it is shipped."""

from __future__ import annotations

import sys

from PySide6.QtCore import QObject, QPoint


def test_void_calls_do_not_give_none_away() -> None:
    """PySide6 6.12.0 returned one reference to None too many on each void call (3.11)."""
    thing, point = QObject(), QPoint()
    before = sys.getrefcount(None)
    for number in range(2000):
        thing.setObjectName("x")
        point.setX(number)
    assert abs(sys.getrefcount(None) - before) < 500
