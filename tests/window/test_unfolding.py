"""Dockets that are made when they are opened, and choices among many: what another look costs."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QListView
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import drop
from waxseal.app.look.key_widgets import Choice
from waxseal.app.look.palette import Look
from waxseal.app.reel_view.reel_docket import ReelDocket
from waxseal.app.window import Window


def test_a_closed_docket_is_made_afresh_after_another_look(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    drop(window, qtbot, write_sequence(tmp_path / "r", "shot.%04d.png"))
    window.ledger.toggle_reel()
    window.use_look(Look.DAY)
    assert len(window.ledger.findChildren(ReelDocket)) == 1, "it is open: it stays"
    window.ledger.toggle_reel()
    window.use_look(Look.LAMP)
    assert not window.ledger.findChildren(ReelDocket)
    window.ledger.toggle_reel()
    (docket,) = window.ledger.findChildren(ReelDocket)
    assert docket.isVisible()
    (behind,) = [one for one in docket.findChildren(Choice) if one.objectName() == "behind"]
    assert [behind.itemText(place) for place in range(behind.count())] == [
        "the ground alone",
        window.document.job.sequences[0].name,
    ]


def test_a_choice_measures_one_of_its_rows(window: Window) -> None:
    choices = [one for one in window.findChildren(Choice) if one.objectName() != "speed"]
    assert not choices, "none is made before a docket is opened"
    window.tray.toggle_habits()
    window.ledger.toggle_reel()
    choices = window.findChildren(Choice)
    assert choices
    for one in choices:
        rows = one.view()
        assert isinstance(rows, QListView)
        assert rows.uniformItemSizes(), one.objectName()
