"""What is drawn by us speaks: roles, names, values and states, as a screen reader asks for them."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtGui import QAccessible, QAccessibleActionInterface
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot
from shiboken6 import isValid

from tests.making import write_sequence, write_tone
from tests.window.driving import drop
from waxseal.app.look import accessibility
from waxseal.app.look.accessibility import DrawnWidget, let_widgets_speak
from waxseal.app.reel_view.shot_row import ShotRow
from waxseal.app.window import Window
from waxseal.core.job.edits import Edit, trim_head

Role = QAccessible.Role
Act = QAccessibleActionInterface


@pytest.fixture
def listened(window: Window, qtbot: QtBot, tmp_path: Path) -> Iterator[Window]:
    """A window with a shot and a sound, and somebody who listens."""
    let_widgets_speak()
    write_tone(tmp_path / "a" / "tone.wav")
    drop(window, qtbot, write_sequence(tmp_path / "a", frames=range(1, 25)))
    QAccessible.setActive(True)
    yield window
    QAccessible.setActive(False)


def told(widget: QWidget) -> tuple[QAccessible.Role, str, str]:
    interface = QAccessible.queryAccessibleInterface(widget)
    assert interface is not None
    name = interface.text(QAccessible.Text.Name)
    return interface.role(), name, interface.text(QAccessible.Text.Value)


def row_of(window: Window) -> ShotRow:
    row = window.ledger.row(window.document.job.reel.shots[0].id)
    assert row is not None
    return row


def test_the_playhead_is_told_by_picture_and_rule(listened: Window) -> None:
    listened.player.go(7)
    assert told(listened.viewer) == (Role.Graphic, "Picture", "frame 7 of 24")
    role, name, value = told(listened.rule)
    assert (role, value) == (Role.Slider, "frame 7 of 24")
    assert name


def test_a_trim_bar_tells_its_ends(listened: Window) -> None:
    row = row_of(listened)
    assert told(row.bar)[::2] == (Role.Slider, "1 to 24 of 1-24")
    shot = listened.document.job.reel.shots[0].id
    listened.document.do(Edit("", lambda job: trim_head(job, shot=shot, first=5)))
    assert told(row.bar) == (Role.Slider, "Trim shot: head 5, tail 24", "5 to 24 of 1-24")


def test_cards_and_rows_tell_their_state(listened: Window) -> None:
    source, delivery = listened.tray.cards["s1"], listened.outbox.cards["d1"]
    row = row_of(listened)
    assert told(source)[::2] == (Role.ListItem, "whole")
    assert told(delivery)[::2] == (Role.ListItem, "draft")
    for card, toggle in (
        (source, partial(listened.tray.toggle, "s1")),
        (delivery, partial(listened.outbox.toggle, "d1")),
        (row, partial(listened.ledger.toggle, row.laid)),
    ):
        interface = QAccessible.queryAccessibleInterface(card)
        assert interface is not None
        assert interface.state().expandable
        assert interface.state().collapsed
        toggle()
        assert interface.state().expanded
        assert not interface.state().collapsed


def acts_of(widget: QWidget) -> QAccessibleActionInterface:
    interface = QAccessible.queryAccessibleInterface(widget)
    assert interface is not None
    acts = interface.actionInterface()
    assert acts is not None
    return acts


def test_cards_and_rows_are_opened_by_their_action(listened: Window) -> None:
    for card in (listened.tray.cards["s1"], listened.outbox.cards["d1"], row_of(listened)):
        acts = acts_of(card)
        assert Act.setFocusAction() in acts.actionNames()
        for is_open in (True, False):
            acts.doAction(Act.toggleAction())
            assert card.is_spoken_open is is_open
        acts.doAction(Act.setFocusAction())
        assert listened.focusWidget() is card


def test_what_has_a_menu_shows_it(listened: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[str] = []
    listened.tray.menu_asked.connect(lambda shown, _at: asked.append(shown))
    listened.ledger.menu_asked.connect(lambda shown, _at: asked.append(shown))
    listened.outbox.cards["d1"].menu_asked.connect(lambda shown, _at: asked.append(shown))
    monkeypatch.setattr("PySide6.QtWidgets.QMenu.exec", lambda *_: None)
    row = row_of(listened)
    for card in (listened.tray.cards["s1"], row, listened.outbox.cards["d1"]):
        acts_of(card).doAction(Act.showMenuAction())
    assert asked == ["s1", row.laid, "d1"]


def test_the_playhead_and_the_ends_of_a_shot_are_moved_by_actions(listened: Window) -> None:
    listened.player.go(7)
    acts_of(listened.rule).doAction(Act.increaseAction())
    assert listened.player.frame == 8
    acts_of(listened.rule).doAction(Act.decreaseAction())
    assert listened.player.frame == 7
    bar = row_of(listened).bar
    acts = acts_of(bar)
    for name in ("head later", "head later", "head earlier", "tail earlier"):
        acts.doAction(name)
    shot = listened.document.job.reel.shots[0]
    assert (shot.first, shot.last) == (2, 23)
    assert told(bar)[2] == "2 to 23 of 1-24"


def test_nothing_is_held_of_what_is_gone(listened: Window) -> None:
    told(listened.viewer)
    card = listened.outbox.cards["d1"]
    told(card)
    told_of_card = next(one for one in accessibility._told if isValid(one) and one.object() is card)
    listened.outbox.remove("d1")
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert not isValid(told_of_card)
    another = DrawnWidget()
    told(another)
    assert told_of_card not in accessibility._told
