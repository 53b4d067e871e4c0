"""What is open has the room; what can be done with a card, by menu and by key."""

from __future__ import annotations

from pathlib import Path
from unittest.mock import Mock

import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QMenu, QWidget
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import PATIENCE, at_rest, drop, field, press, texts, typed
from waxseal.app.outbox.progress_line import ProgressLine
from waxseal.app.reel_view.hover_frame import HoverFrame
from waxseal.app.window import Window
from waxseal.core.progress import Progress


@pytest.fixture
def reel(window: Window, qtbot: QtBot, tmp_path: Path) -> Window:
    """Two shots of 12 frames."""
    for name in ("sh010", "sh020"):
        write_sequence(tmp_path / name, f"{name}.%04d.png", frames=range(1, 13))
    drop(window, qtbot, tmp_path / "sh010", tmp_path / "sh020")
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    return window


def settle() -> None:
    for _ in range(3):
        QApplication.processEvents()


def widths(window: Window) -> tuple[int, int, int]:
    settle()
    return window.tray.width(), window.ledger.width(), window.outbox.width()


def test_an_open_delivery_has_the_room_and_gives_it_back(reel: Window) -> None:
    before = widths(reel)
    reel.outbox.toggle("d1")
    tray, middle, outbox = widths(reel)
    assert outbox >= 600
    assert tray < before[0]
    assert middle < before[1]
    card = reel.outbox.cards["d1"]
    y = card.mapTo(reel, card.rect().topLeft()).y()
    QTest.keyClick(card, Qt.Key.Key_Escape)
    assert widths(reel) == before
    assert card.mapTo(reel, card.rect().topLeft()).y() == y, "it stays where it is"


def test_on_a_large_screen_nothing_gives_way(reel: Window) -> None:
    reel.resize(2400, 1200)
    tray, _, _ = widths(reel)
    reel.outbox.toggle("d1")
    assert widths(reel)[0] == tray
    assert widths(reel)[2] >= 600


def test_on_a_small_screen_the_in_tray_folds_and_comes_back(reel: Window) -> None:
    reel.resize(1024, 640)
    settle()
    reel.outbox.toggle("d1")
    settle()
    assert not reel.tray.isVisible()
    assert widths(reel)[2] >= 600
    reel.outbox.toggle("d1")
    settle()
    assert reel.tray.isVisible()


def test_an_open_shot_has_half_of_the_height(reel: Window) -> None:
    settle()
    before = reel.ledger.height()
    reel.ledger.toggle("a1")
    settle()
    assert reel.ledger.height() > reel.middle.height() / 2
    reel.ledger.toggle("a1")
    settle()
    assert reel.ledger.height() == before


def test_one_docket_is_open_at_a_time(reel: Window) -> None:
    reel.tray.toggle("s1")
    assert widths(reel)[0] > 400
    reel.ledger.toggle("a1")
    reel.outbox.toggle("d1")
    settle()
    assert [part._open for part in (reel.tray, reel.ledger, reel.outbox)] == ["", "", "d1"]
    reel.tray.show_docket("s2")
    settle()
    assert [part._open for part in (reel.tray, reel.ledger, reel.outbox)] == ["s2", "", ""]


def menu_of(window: Window) -> QMenu:
    return [one for one in window.findChildren(QMenu) if one.isVisible()][-1]


def test_a_delivery_has_a_menu_and_goes_by_a_key(reel: Window) -> None:
    card = reel.outbox.cards["d1"]
    reel.outbox.show_menu("d1", card.mapToGlobal(card.rect().center()))
    menu = menu_of(reel)
    words = [one.text().split("\t")[0] for one in menu.actions() if one.text()]
    assert words == ["Seal this one", "As it will be", "Move up", "Move down", "Remove"]
    menu.close()
    card.setFocus()
    QTest.keyClick(card, Qt.Key.Key_Delete)
    assert reel.document.job.deliveries == ()
    reel.document.undo()
    assert len(reel.document.job.deliveries) == 1


def test_a_source_goes_by_a_key_and_comes_back(reel: Window) -> None:
    card = reel.tray.card("s2")
    assert card is not None
    card.setFocus()
    QTest.keyClick(card, Qt.Key.Key_Delete)
    assert [one.id for one in reel.document.job.sources] == ["s1"]
    reel.document.undo()
    assert [one.id for one in reel.document.job.sources] == ["s1", "s2"]


def test_a_frame_is_typed_from_where_it_is(reel: Window) -> None:
    place = field(reel, "frameField")
    typed(place, "10")
    typed(place, "+5")
    assert reel.player.frame == 15
    typed(place, "-10")
    assert reel.player.frame == 5
    typed(place, "-100")
    assert reel.player.frame == 1


def test_what_is_switched_on_is_ticked(reel: Window) -> None:
    actions = reel.actions_
    actions.show_switches()
    assert actions["loop"].isChecked()
    assert not actions["safe"].isChecked()
    actions["safe"].trigger()
    actions["loop"].trigger()
    actions.show_switches()
    assert actions["safe"].isChecked()
    assert not actions["loop"].isChecked()
    assert not actions["save"].isCheckable()


def test_progress_is_seen_on_the_card_and_in_the_title(
    reel: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    card = reel.outbox.cards["d1"]
    line = card.findChildren(ProgressLine)[0]
    assert not line.isVisible()
    monkeypatch.setattr(reel.sending, "_start_next", lambda: None)
    reel.sending._queue = reel.sending._queue.add("d1").start("d1")
    reel.sending._progressed(Progress("encoding", 6, 24))
    qtbot.waitUntil(line.isVisible, timeout=PATIENCE)
    assert line.accessibleName() == "25 %"
    assert reel.windowTitle().startswith("25 % · ")
    reel.sending._queue = reel.sending._queue.end()
    reel.sending.status_changed.emit("d1")
    assert not line.isVisible()
    assert "%" not in reel.windowTitle()


def test_a_reason_of_several_deliveries_is_said_once(reel: Window, qtbot: QtBot) -> None:
    reel.outbox.add()
    folder = Path(reel.document.job.sequences[0].files.folder)
    (folder / "sh010.0003.png").unlink()
    reel.look_again()
    qtbot.waitUntil(lambda: bool(reel.document.job.sequences[0].missing), timeout=PATIENCE)
    for one in reel.document.job.deliveries:
        reel.sending.send(one.id)
    qtbot.waitUntil(
        lambda: all(one.outcome is not None for one in reel.document.job.deliveries),
        timeout=PATIENCE,
    )
    settle()
    assert texts(reel.outbox).count("1 frame of sh010 cannot be used") == 1
    for one in reel.document.job.deliveries:
        assert "cannot be used" not in texts(reel.outbox.cards[one.id])
    press(reel.outbox.cards["d1"])


def test_a_shot_is_cut_where_somebody_looks(reel: Window) -> None:
    reel.player.go(5)
    reel.actions_["split"].trigger()
    assert [one.last for one in reel.document.job.reel.shots] == [4, 12, 12]
    reel.player.go(7)
    reel.actions_["head here"].trigger()
    assert [one.first for one in reel.document.job.reel.shots] == [1, 7, 1]
    reel.actions_["undo"].trigger()
    reel.player.go(8)
    reel.actions_["tail here"].trigger()
    assert [one.last for one in reel.document.job.reel.shots] == [4, 8, 12]
    reel.actions_["double"].trigger()
    assert [one.source for one in reel.document.job.reel.shots] == ["s1", "s1", "s1", "s2"]
    reel.player.go(1)
    reel.actions_["split"].trigger()
    assert reel.message == "The shot begins here: go to a frame inside of it."


def test_one_hand_plays_back_stops_and_plays_on(reel: Window) -> None:
    reel.player.go(6)
    for key, name in (("Q", "play back"), ("W", "halt"), ("E", "play on"), ("R", "mark head")):
        keys = [one.toString() for one in reel.actions_[name].shortcuts()]
        assert keys[0] == key
    reel.actions_["play back"].trigger()
    assert reel.player.is_playing
    assert reel.player.is_backwards
    reel.actions_["play on"].trigger()
    assert reel.player.is_playing
    assert not reel.player.is_backwards
    reel.actions_["halt"].trigger()
    assert not reel.player.is_playing


def test_a_job_that_cannot_be_read_asks_nothing_about_the_one_that_is_open(
    reel: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    may_leave = Mock(return_value=True)
    monkeypatch.setattr(reel.files, "may_leave", may_leave)
    broken = tmp_path / "broken.waxseal"
    broken.write_text("no job")
    before = reel.document.job
    assert not reel.files.open_job(broken)
    may_leave.assert_not_called()
    assert reel.document.job is before
    assert "cannot be opened" in reel.message


def test_the_frame_under_the_pointer_is_shown_above_the_rule(reel: Window, qtbot: QtBot) -> None:
    hover = reel.rule.findChildren(HoverFrame)[0]
    assert not hover.isVisible()
    x = round(reel.rule.place_of(7) + 2)
    QTest.mouseMove(reel.rule, QPoint(x, 40))
    settle()
    assert hover.isVisible()
    assert "7 · 00:00:00:06" in texts(hover)
    qtbot.waitUntil(lambda: not hover.findChildren(QLabel)[0].pixmap().isNull(), timeout=PATIENCE)
    assert reel.player.frame != 7, "it is only looked at"
    QApplication.sendEvent(reel.rule, QEvent(QEvent.Type.Leave))
    assert not hover.isVisible()


def test_an_in_tray_that_was_folded_stays_folded(reel: Window) -> None:
    reel.actions_["tray"].trigger()
    for _ in range(2):
        reel.outbox.toggle("d1")
        settle()
        assert not reel.tray.isVisible()
    reel.actions_["tray"].trigger()
    settle()
    assert reel.tray.isVisible()


def test_delete_in_a_field_of_a_card_takes_nothing_away(reel: Window) -> None:
    reel.outbox.toggle("d1")
    settle()
    card = reel.outbox.cards["d1"]
    inside = [one for one in card.findChildren(QWidget) if one.focusPolicy() and one.isVisible()]
    assert len(inside) > 5
    for one in inside:
        QTest.keyClick(one, Qt.Key.Key_Delete)
    assert len(reel.document.job.deliveries) == 1
