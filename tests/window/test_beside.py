"""A delivery is looked at in the picture: what it will be, and its file beside the reel."""

from __future__ import annotations

from fractions import Fraction
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit, QPushButton
from pytestqt.qtbot import QtBot

from tests.making import gradient, write_sequence
from tests.window.driving import (
    PATIENCE,
    at_rest,
    button,
    choice,
    choose,
    drop,
    field,
    press,
    texts,
    typed,
    until_says,
)
from waxseal.app.look.widgets import Elided
from waxseal.app.view.file_view_bar import BesideBar
from waxseal.app.window import Window
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.preview.file_view import Show
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import Edit, change_delivery, confirm_rates, remove_delivery
from waxseal.core.job.model import Framing, Size, Subject

WIDE, TALL = 320, 180


@pytest.fixture
def reel(window: Window, tmp_path: Path, qtbot: QtBot) -> Window:
    """A reel of eight frames and one delivery."""
    folder = write_sequence(
        tmp_path / "sh", "sh.%04d.png", frames=range(1, 9), width=WIDE, height=TALL
    )
    drop(window, qtbot, folder)
    qtbot.waitUntil(
        lambda: at_rest(window) and len(window.document.job.reel.shots) == 1, timeout=PATIENCE
    )
    window.document.do(Edit("rate", partial(confirm_rates, rate=Fraction(24))))
    return window


@pytest.fixture
def sealed(reel: Window, qtbot: QtBot) -> Window:
    card = reel.outbox.card("d1")
    assert card is not None
    press(reel.outbox.seal_all)
    until_says(qtbot, card, "sealed ·")
    return reel


def bar_of(window: Window) -> BesideBar:
    (bar,) = window.findChildren(BesideBar)
    return bar


def shown(window: Window, qtbot: QtBot) -> None:
    """Wait until the picture under the playhead is there."""
    player = window.player
    qtbot.waitUntil(
        lambda: (key := player.key_of(player.frame)) is not None and window.pictures.has(key),
        timeout=PATIENCE,
    )
    qtbot.wait(20)


def change(window: Window, **fields: object) -> None:
    window.document.do(Edit("settings", lambda job: change_delivery(job, delivery="d1", **fields)))


def test_what_is_not_made_yet_is_seen_as_it_will_be(reel: Window, qtbot: QtBot) -> None:
    bar = bar_of(reel)
    assert not bar.isVisible()
    change(reel, size=Size(width=90, height=90))
    reel.outbox.toggle("d1")
    card = reel.outbox.cards["d1"]
    press(button(card, "As it will be"))
    shown(reel, qtbot)
    assert bar.isVisible()
    offered = [one.text() for one in bar.findChildren(QPushButton) if one.isVisible()]
    assert offered == ["As delivered", "Back to the reel"]
    assert button(bar, "As delivered").isChecked()
    (name,) = bar.findChildren(Elided)
    assert name.whole == reel.document.job.deliveries[0].name
    assert name.isVisible()
    assert name.text(), "also after the bar came to its width"
    room = reel.viewer.room()
    assert room.width() == pytest.approx(room.height(), abs=1)
    # What changes in the delivery changes in the picture, until it is gone.
    change(reel, size=Size(width=90, height=30))
    shown(reel, qtbot)
    room = reel.viewer.room()
    assert room.width() == pytest.approx(3 * room.height(), abs=3)
    change(reel, range=(3, 8))
    reel.player.go(2)
    assert reel.player.key_of(2) is None
    assert not reel.viewer.has_picture
    reel.document.do(Edit("remove", partial(remove_delivery, delivery="d1")))
    assert reel.player.looked is None
    assert not bar.isVisible()
    shown(reel, qtbot)
    assert reel.viewer.has_picture


def test_pixels_that_are_not_square_are_looked_at_as_they_are_seen(
    reel: Window, qtbot: QtBot
) -> None:
    reel.outbox.toggle("d1")
    typed(field(reel.outbox.cards["d1"], "ownPixelShape"), "4:3")
    assert reel.document.job.deliveries[0].pixel_shape == Fraction(4, 3)
    assert "stored as 240 × 180, seen as 320 × 180" in texts(reel.outbox.cards["d1"])
    press(button(reel.outbox.cards["d1"], "As it will be"))
    shown(reel, qtbot)
    room = reel.viewer.room()
    assert room.width() * 9 == pytest.approx(room.height() * 16, abs=10)
    # In a container that cannot say it, square pixels are chosen.
    choose(choice(reel.outbox.cards["d1"], "container"), "MKV")
    assert reel.document.job.deliveries[0].pixel_shape == 1
    left = reel.outbox.cards["d1"].findChildren(QLineEdit, "ownPixelShape")
    assert not any(one.isVisible() for one in left)


def test_a_file_beside_the_reel(sealed: Window, qtbot: QtBot) -> None:
    bar, viewer = bar_of(sealed), sealed.viewer
    sealed.outbox.toggle("d1")
    press(button(sealed.outbox.cards["d1"], "Compare with its file"))
    shown(sealed, qtbot)
    assert button(bar, "Both").isChecked()
    # The edge follows the pointer, and the keys.
    room = viewer.room()
    quarter = QPoint(round(room.x() + room.width() / 4), round(room.center().y()))
    QTest.mousePress(viewer, Qt.MouseButton.LeftButton, pos=room.center().toPoint())
    QTest.mouseMove(viewer, quarter)
    QTest.mouseRelease(viewer, Qt.MouseButton.LeftButton, pos=quarter)
    assert viewer.edge.share == pytest.approx(0.25, abs=0.01)
    viewer.setFocus()
    QTest.keyClick(viewer, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    assert viewer.edge.share == pytest.approx(0.27, abs=0.01)
    QTest.mouseMove(viewer, quarter + QPoint(40, 0))
    assert viewer.edge.share == pytest.approx(0.27, abs=0.01)  # let go
    # The codes of both are said.
    qtbot.waitUntil(lambda: "file" in viewer.values_words(), timeout=PATIENCE)
    words = viewer.values_words()
    assert "reel" in words
    assert "apart" in words
    press(button(bar, "Difference"))
    shown(sealed, qtbot)
    assert sealed.player.looked is not None
    assert sealed.player.looked.show is Show.DIFFERENCE
    press(button(bar, "File"))
    sealed.player.step(2)
    shown(sealed, qtbot)
    assert viewer.has_picture
    press(button(bar, "Back to the reel"))
    assert sealed.player.looked is None


def test_a_picture_that_was_there_before_is_shown_when_its_size_comes_back(
    reel: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    shown(reel, qtbot)
    reel.player.go(5)
    shown(reel, qtbot)
    fifth = reel.viewer.grab().toImage()
    reel.player.go(1)
    shown(reel, qtbot)
    assert reel.viewer.grab().toImage() != fifth
    monkeypatch.setattr(reel.pictures, "_do", lambda *_: None)  # nothing is made any more
    before = reel.viewer.room()
    reel.resize(1200, 700)
    qtbot.waitUntil(lambda: reel.viewer.room() != before, timeout=PATIENCE)
    reel.player.go(5)
    reel.resize(1280, 800)
    qtbot.waitUntil(lambda: reel.viewer.grab().toImage() == fifth, timeout=PATIENCE)


def test_nothing_of_a_file_stays_on_the_reel(sealed: Window, qtbot: QtBot) -> None:
    sealed.outbox.ask_for(sealed.outbox.look_asked)
    shown(sealed, qtbot)
    assert sealed.viewer.has_picture
    sealed.pictures._kept.clear()
    sealed.player.look_at(None)
    assert not sealed.viewer.has_picture  # until the reel's own is made
    shown(sealed, qtbot)
    assert sealed.viewer.has_picture


def test_a_key_shows_the_delivery_and_goes_back(sealed: Window, qtbot: QtBot) -> None:
    sealed.viewer.setFocus()
    QTest.keyClick(sealed.viewer, Qt.Key.Key_D)
    assert sealed.player.looked is not None
    assert sealed.player.looked.file == path_of(sealed.document.job.deliveries[0])
    QTest.keyClick(sealed.viewer, Qt.Key.Key_D)
    assert sealed.player.looked is None


def test_it_plays_beside_the_reel(sealed: Window, qtbot: QtBot) -> None:
    sealed.outbox.ask_for(sealed.outbox.look_asked)
    shown(sealed, qtbot)
    seen: set[int] = set()
    sealed.player.moved.connect(seen.add)
    sealed.player.toggle()
    qtbot.waitUntil(lambda: seen >= set(range(1, 9)), timeout=PATIENCE)
    sealed.player.stop()
    assert sealed.viewer.has_picture


def test_a_file_that_is_no_movie_any_more_is_said(sealed: Window, qtbot: QtBot) -> None:
    path_of(sealed.document.job.deliveries[0]).write_bytes(b"nothing of a movie")
    sealed.outbox.ask_for(sealed.outbox.look_asked)
    qtbot.waitUntil(lambda: bool(sealed.viewer.trouble), timeout=PATIENCE)
    assert "cannot be decoded" in sealed.viewer.trouble
    assert not sealed.viewer.has_picture


def test_light_says_where_it_is_looked_at(reel: Window) -> None:
    change(reel, codec="EXR", container="frames")
    reel.outbox.ask_for(reel.outbox.look_asked)
    assert "in-tray" in reel.message
    assert reel.player.looked is None


def test_a_frame_that_comes_again_is_seen_beside_the_old_file(
    sealed: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    sealed.outbox.ask_for(sealed.outbox.look_asked)
    before = sealed.player.key_of(3)
    write_pixels(tmp_path / "sh" / "sh.0003.png", 255 - gradient(3, width=WIDE, height=TALL))
    sealed.player.go(3)
    qtbot.waitUntil(lambda: sealed.player.key_of(3) != before)


def test_what_a_delivery_keeps_is_dragged_and_typed(
    reel: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    change(reel, size=Size(width=180, height=180), framing=Framing.FILL)
    reel.outbox.ask_for(reel.outbox.look_asked)
    shown(reel, qtbot)
    shot = reel.document.job.reel.shots[0].id
    middle = reel.viewer.room().center().toPoint()
    QTest.mousePress(reel.viewer, Qt.MouseButton.LeftButton, pos=middle)
    for step in (10, 20, 30):
        QTest.mouseMove(reel.viewer, middle + QPoint(step, 0))
    QTest.mouseRelease(reel.viewer, Qt.MouseButton.LeftButton, pos=middle + QPoint(30, 0))
    share = 30 / reel.viewer.room().width() * 180 / 320
    assert reel.document.job.shot(shot).subject.x == pytest.approx(0.5 - share, abs=0.001)
    assert reel.document.history.undo_name == "what is kept"
    reel.ledger.toggle(shot)
    across = field(reel.ledger, "keeps across")
    assert float(across.text()) == pytest.approx(100 * (0.5 - share), abs=1)
    typed(across, "40")
    assert reel.document.job.shot(shot).subject.x == pytest.approx(0.4)
    reel.document.undo()
    reel.document.undo()  # the whole drag is one step
    assert reel.document.job.shot(shot).subject == Subject()
    change(reel, framing=Framing.FIT)
    assert not across.isVisible()
