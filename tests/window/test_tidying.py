"""The collector of circles stops everything: it works on the window's thread, while nobody does."""

from __future__ import annotations

import gc
import threading
import weakref
from collections.abc import Iterator

import pytest
from PySide6.QtCore import QObject

from waxseal.app.gc_control import MANY, RESTING, GarbageControl


class Circle:
    def __init__(self) -> None:
        self.itself = self


@pytest.fixture
def as_before() -> Iterator[None]:
    yield
    gc.unfreeze()


def old_circle() -> weakref.ref[Circle]:
    """One that is too old for the looks at young objects."""
    circle = Circle()
    gc.collect(1)
    gc.collect(1)
    return weakref.ref(circle)


@pytest.mark.usefixtures("as_before", "qapp")
def test_all_objects_are_looked_at_once_nothing_has_moved_for_a_while() -> None:
    state: list[object] = ["playing is over"]
    parent = QObject()
    tidying = GarbageControl(parent, lambda: state[0])
    circle = old_circle()
    tidying.look()  # the first sees what there is
    for _ in range(RESTING - 1):
        tidying.look()
    assert circle() is not None
    state[0] = "the playhead has moved"
    for _ in range(RESTING):
        tidying.look()
    assert circle() is not None
    tidying.look()
    assert circle() is None


@pytest.mark.usefixtures("as_before", "qapp")
def test_never_while_it_plays() -> None:
    parent = QObject()
    tidying = GarbageControl(parent, lambda: None)
    circle = old_circle()
    for _ in range(3 * RESTING):
        tidying.look()
    assert circle() is not None


@pytest.mark.usefixtures("as_before", "qapp")
def test_a_circle_with_qt_objects_goes_on_the_windows_thread() -> None:
    parent = QObject()
    tidying = GarbageControl(parent, object)
    where: list[threading.Thread] = []

    class Widget(QObject):
        def __init__(self) -> None:
            super().__init__()
            self.itself = self

    weakref.finalize(Widget(), lambda: where.append(threading.current_thread()))

    def work() -> None:
        made = [[number] for number in range(MANY // 2)]
        assert made

    other = threading.Thread(target=work)
    other.start()
    other.join()
    assert where == []
    tidying.look()
    assert where == [threading.main_thread()]


@pytest.mark.usefixtures("as_before", "qapp")
def test_a_look_at_very_many_young_objects_is_put_off() -> None:
    parent = QObject()
    state: list[object] = ["at work"]
    tidying = GarbageControl(parent, lambda: state[0])
    tidying.look()
    circle = weakref.ref(Circle())
    many = [[number] for number in range(2 * MANY)]
    tidying.look()
    assert circle() is not None
    del many
    for _ in range(RESTING):
        tidying.look()
    assert circle() is None
