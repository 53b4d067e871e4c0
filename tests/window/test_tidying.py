"""The collector of circles stops everything: it works while nobody does."""

from __future__ import annotations

import gc
import weakref
from collections.abc import Iterator

import pytest
from PySide6.QtCore import QObject

from waxseal.app.tidying import RESTING, Tidying


class Circle:
    def __init__(self) -> None:
        self.itself = self


@pytest.fixture
def as_before() -> Iterator[None]:
    thresholds = gc.get_threshold()
    yield
    gc.unfreeze()
    gc.set_threshold(*thresholds)


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
    tidying = Tidying(parent, lambda: state[0])
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
    tidying = Tidying(parent, lambda: None)
    circle = old_circle()
    for _ in range(3 * RESTING):
        tidying.look()
    assert circle() is not None
