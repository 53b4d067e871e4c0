"""The picture's sizes: fitted, chosen, at the pointer, dragged."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import drag, drop, turn_wheel
from waxseal.app.view.zoom_view import FIT, Room, Zoom
from waxseal.app.window import Window

ROOM = Room(QSize(1920, 1080), QRectF(0, 0, 600, 400))
points = st.tuples(st.floats(1, 599), st.floats(1, 399))


def at(point: tuple[float, float], shown: QRectF) -> tuple[float, float]:
    """The reel's pixel under a point of the room."""
    return (point[0] - shown.x()) / shown.width(), (point[1] - shown.y()) / shown.height()


@given(first=points, second=points, scale=st.floats(1.0, 16.0))
def test_what_is_under_the_pointer_stays_there(
    first: tuple[float, float], second: tuple[float, float], scale: float
) -> None:
    """Where the frame is larger than the room, and no edge holds it."""
    before = Zoom(1.0).scaled(2.0, QPointF(*first), ROOM)
    after = before.scaled(max(2.0, scale), QPointF(*second), ROOM)
    one, other = at(second, before.place(ROOM)), at(second, after.place(ROOM))
    assert one == pytest.approx(other, abs=1e-6)


@given(point=points, scale=st.floats(0.01, 40.0), by=points)
def test_no_room_is_left_empty_beside_a_large_picture(
    point: tuple[float, float], scale: float, by: tuple[float, float]
) -> None:
    zoom = FIT.scaled(scale, QPointF(*point), ROOM).moved(QPointF(*by) * 9, ROOM)
    shown = zoom.place(ROOM).adjusted(-1e-6, -1e-6, 1e-6, 1e-6)
    if shown.width() >= 600 and shown.height() >= 400:
        assert shown.contains(ROOM.inside)
    else:
        assert shown.center().x() == pytest.approx(300) or shown.width() >= 600


def test_a_dense_screen_shows_a_pixel_as_one_of_its_own() -> None:
    dense = Room(QSize(1920, 1080), QRectF(0, 0, 600, 400), ratio=2.0)
    assert Zoom(1.0).place(dense).width() == 960
    assert Zoom(1.0).scale_in(dense) == 1.0


@pytest.fixture
def looked(window: Window, qtbot: QtBot, tmp_path: Path) -> Window:
    frames = write_sequence(tmp_path / "frames", frames=range(1, 3), width=1600, height=900)
    drop(window, qtbot, frames)
    return window


def test_the_keys_do_what_the_menu_says(looked: Window) -> None:
    fitted = looked.viewer.room()
    for key, width in (
        (Qt.Key.Key_1, 1600),
        (Qt.Key.Key_2, 3200),
        (Qt.Key.Key_5, 800),
        (Qt.Key.Key_0, fitted.width()),
    ):
        QTest.keyClick(looked, key, Qt.KeyboardModifier.ControlModifier)
        assert looked.viewer.room().width() == width
    looked.actions_["one"].trigger()
    assert looked.viewer.room().width() == 1600
    assert looked.player._size == (1600, 900), "every pixel of it is made"


def test_a_double_click_shows_every_pixel_where_it_was_and_back(looked: Window) -> None:
    fitted = looked.viewer.room()
    point = QPoint(round(fitted.x() + fitted.width() / 4), round(fitted.center().y()))
    QTest.mouseDClick(looked.viewer, Qt.MouseButton.LeftButton, pos=point)
    shown = looked.viewer.room()
    assert shown.width() == 1600
    assert (point.x() - shown.x()) / shown.width() == pytest.approx(0.25, abs=0.01)
    QTest.mouseDClick(looked.viewer, Qt.MouseButton.LeftButton, pos=point)
    assert looked.viewer.room() == fitted


def test_a_large_picture_is_dragged(looked: Window) -> None:
    looked.viewer.show_at(1.0)
    before = looked.viewer.room()
    start = looked.viewer.rect().center()
    drag(looked.viewer, start, start + QPoint(60, 40))
    after = looked.viewer.room()
    assert (after.x() - before.x(), after.y() - before.y()) == pytest.approx((60, 40))


def test_the_wheel_enlarges_where_the_focus_is(looked: Window) -> None:
    before = looked.viewer.room()
    looked.outbox.seal_all.setFocus()
    turn_wheel(looked.viewer, 1)
    assert looked.viewer.room() == before
    looked.viewer.setFocus()
    turn_wheel(looked.viewer, 1)
    assert looked.viewer.room().width() == pytest.approx(before.width() * 1.25)
    turn_wheel(looked.viewer, -1)
    assert looked.viewer.room().width() == pytest.approx(before.width())
