"""What is drawn by us speaks: roles, names, values and states, as a screen reader asks for them."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import QCoreApplication, QEvent
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot
from shiboken6 import isValid

from tests.making import write_sequence, write_tone
from tests.window.driving import drop
from waxseal.app.look import speaking
from waxseal.app.look.speaking import Drawn, let_widgets_speak
from waxseal.app.reel.row import ShotRow
from waxseal.app.window import Window
from waxseal.core.job.edits import Edit, trim_head

Role = QAccessible.Role


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
    row = window.ledger.row(window.desk.job.reel.shots[0].id)
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
    shot = listened.desk.job.reel.shots[0].id
    listened.desk.do(Edit("", lambda job: trim_head(job, shot=shot, first=5)))
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


def test_nothing_is_held_of_what_is_gone(listened: Window) -> None:
    told(listened.viewer)
    card = listened.outbox.cards["d1"]
    told(card)
    told_of_card = next(one for one in speaking._told if isValid(one) and one.object() is card)
    listened.outbox.remove("d1")
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert not isValid(told_of_card)
    another = Drawn()
    told(another)
    assert told_of_card not in speaking._told
