"""Playing by light copies, and judging what stands still without them."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import PATIENCE, drop
from waxseal.app.window import Window


@pytest.fixture(scope="module")
def heavy(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write_sequence(
        tmp_path_factory.mktemp("film") / "heavy",
        "heavy.%04d.exr",
        frames=range(1, 7),
        width=2600,
        height=1460,
        dtype="float16",
    )


@pytest.fixture
def copied(window: Window, qtbot: QtBot, heavy: Path, monkeypatch: pytest.MonkeyPatch) -> Window:
    """A window whose reel has light copies: no machine of the tests is slow enough to be sure."""
    monkeypatch.setattr(
        "waxseal.core.picture.copies.proxy_writer.seconds_for", lambda *_: iter([60.0])
    )
    monkeypatch.setattr("waxseal.app.proxies.QUIET_MS", 0)
    monkeypatch.setattr("waxseal.core.picture.copies.proxy_folder.LEAST_FREE", 0)
    drop(window, qtbot, heavy)
    window.copying.switch(on=True)
    programme = window.player.programme
    assert programme is not None
    qtbot.waitUntil(lambda: window.pictures.can_play_lightly(programme.recipe(6)), timeout=PATIENCE)
    return window


def test_it_plays_by_copies_and_stands_on_the_frame_itself(copied: Window, qtbot: QtBot) -> None:
    window, player = copied, copied.player
    window.pictures._kept.clear()  # as with a reel that is larger than the memory
    shown = list[bool]()
    player.moved.connect(lambda _frame: shown.append(player.shows_light))
    QTest.keyClick(window.viewer, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: len(shown) >= 5, timeout=PATIENCE)
    assert any(shown)
    QTest.keyClick(window.viewer, Qt.Key.Key_Space)
    assert not player.shows_light
    key = player.key_of(player.frame)
    assert key is not None
    assert not key.is_light
    qtbot.waitUntil(lambda: window.pictures.has(key), timeout=PATIENCE)


def test_without_copies_it_plays_what_is_there(copied: Window, qtbot: QtBot) -> None:
    window, player = copied, copied.player
    window.toggle_copies()
    assert "Light copies are off" in window.message
    window.pictures._kept.clear()  # as with a reel that is larger than the memory
    shown = list[bool]()
    player.moved.connect(lambda _frame: shown.append(player.shows_light))
    QTest.keyClick(window.viewer, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: len(shown) >= 4, timeout=PATIENCE)
    player.stop()
    assert not any(shown)


def test_copies_are_made_once_the_close_look_is_over(copied: Window, tmp_path: Path) -> None:
    assert not copied.closely.is_busy
    files = list((tmp_path / "home" / "cache" / "waxseal" / "light").glob("*.exr"))
    assert len(files) == 6


def test_where_somebody_stands_what_comes_is_read_ahead(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("waxseal.app.view.player.READ_AHEAD", 40)
    drop(window, qtbot, write_sequence(tmp_path / "a", frames=range(1, 101)))
    player, pictures = window.player, window.pictures

    def has(frame: int) -> bool:
        key = player.key_of(frame)
        return key is not None and pictures.has(key)

    player.go(20)
    qtbot.waitUntil(lambda: all(has(frame) for frame in range(20, 61)), timeout=PATIENCE)
    qtbot.wait(50)
    assert not has(62)
    # A hand that moves on is not followed as far.
    player.go(90)
    assert not has(89)
