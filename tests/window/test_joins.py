"""Joins in the real window: the docket of a shot, its row, its menu and the rule."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QApplication, QColorDialog, QMenu, QPushButton
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import (
    PATIENCE,
    at_rest,
    button,
    choice,
    choose,
    drop,
    field,
    press,
    typed,
    until_says,
)
from waxseal.app.look.palette import current
from waxseal.app.reel_view.join_section import JoinSection
from waxseal.app.reel_view.shot_row import ShotRow
from waxseal.app.window import Window
from waxseal.core.job.corrections import Values
from waxseal.core.job.model import JoinKind


@pytest.fixture
def reel(window: Window, qtbot: QtBot, tmp_path: Path) -> Window:
    """Three shots of 12, 12 and 3 frames."""
    for name, count in (("sh010", 12), ("sh020", 12), ("sh030", 3)):
        write_sequence(tmp_path / name, f"{name}.%04d.png", frames=range(1, count + 1))
    drop(window, qtbot, *(tmp_path / name for name in ("sh010", "sh020", "sh030")))
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    return window


def opened(reel: Window, shot: str) -> JoinSection:
    reel.ledger.toggle(shot)
    QApplication.processEvents()
    row = row_of(reel, shot)
    return row.findChildren(JoinSection)[-1]


def row_of(reel: Window, shot: str) -> ShotRow:
    row = reel.ledger.row(shot)
    assert row is not None
    return row


def length(reel: Window) -> int:
    timeline = reel.player.timeline
    assert timeline is not None
    return timeline.length


def test_a_dissolve_is_chosen_typed_and_undone(reel: Window, qtbot: QtBot) -> None:
    section = opened(reel, "a2")
    choose(choice(section, "join"), "dissolve")
    assert length(reel) == 27 - 11, "half a second, but for the frame that a shot keeps"
    until_says(qtbot, section, "The shots are too short: it takes 11 of 12 frames.")
    typed(field(section, "join length"), "4")
    assert length(reel) == 23
    until_says(qtbot, section, "the reel is 4 frames shorter than with a cut.")
    until_says(qtbot, row_of(reel, "a2"), "dissolve 4")
    assert row_of(reel, "a2").accessibleName() == "Shot 2, sh020, dissolve 4"
    reel.player.go(10)
    qtbot.waitUntil(lambda: reel.viewer.has_picture, timeout=PATIENCE)
    for expected in (16, 27):
        reel.document.undo()
        assert length(reel) == expected


def test_the_first_shot_meets_nothing(reel: Window) -> None:
    assert not opened(reel, "a1").isVisible()
    assert opened(reel, "a2").isVisible()


def test_a_dip_has_a_colour_and_all_shots_can_be_joined_alike(
    reel: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    section = opened(reel, "a2")
    choose(choice(section, "join"), "dip")
    typed(field(section, "join length"), "2")
    chosen = QColor("#ff8000")
    monkeypatch.setattr(QColorDialog, "getColor", lambda *_args, **_named: chosen)
    colour = section.findChild(QPushButton, "join colour")
    assert isinstance(colour, QPushButton)
    press(colour)
    choose(choice(section, "join values"), Values.LINEAR.value)
    assert colour.text() == "#ff8000"
    press(button(section, "Join all shots alike"))
    joins = {shot.join for shot in reel.document.job.reel.shots}
    (join,) = joins
    assert (join.kind, join.length, join.colour) == (JoinKind.DIP, 2, "#ff8000")
    assert join.values is Values.LINEAR
    assert length(reel) == 27
    until_says(qtbot, row_of(reel, "a3"), "dip 2")


def test_a_wrong_length_is_complained_of_and_nothing_changes(reel: Window) -> None:
    section = opened(reel, "a2")
    choose(choice(section, "join"), "dissolve")
    before = reel.document.job
    typed(field(section, "join length"), "0")
    assert reel.document.job is before
    typed(field(section, "join length"), "some")
    assert reel.document.job is before
    assert "“some”" in reel.message


def test_the_menu_of_a_row_offers_the_other_kinds(reel: Window) -> None:
    def titles() -> list[str]:
        (menu,) = [one for one in reel.findChildren(QMenu) if one.isVisible()]
        return [one.text() for one in menu.actions()]

    reel.menus.shot("a1", QPoint(0, 0))
    assert not [title for title in titles() if "shot before" in title]
    close_menus(reel)
    reel.menus.shot("a2", QPoint(0, 0))
    offered = [title for title in titles() if "shot before" in title]
    assert offered == ["Dissolve from the shot before", "Dip from the shot before"]
    (menu,) = [one for one in reel.findChildren(QMenu) if one.isVisible()]
    next(one for one in menu.actions() if one.text() == offered[1]).trigger()
    assert reel.document.job.shot("a2").join.kind is JoinKind.DIP
    close_menus(reel)


def close_menus(reel: Window) -> None:
    for menu in reel.findChildren(QMenu):
        menu.close()
        menu.deleteLater()
    QApplication.sendPostedEvents(None, 0)
    QApplication.processEvents()


def test_the_rule_and_the_bar_show_where_a_join_is(reel: Window, qtbot: QtBot) -> None:
    section = opened(reel, "a2")
    choose(choice(section, "join"), "dip")
    typed(field(section, "join length"), "8")
    qtbot.waitUntil(lambda: at_rest(reel) and not reel.rule.is_busy, timeout=PATIENCE)
    rule, black = reel.rule, QColor("#000000").rgb()
    drawn = rule.grab().toImage()
    middle = rule.place_of(13)
    columns = range(int(middle) - 40, int(middle) + 40)
    assert any(drawn.pixel(x, 24) == black for x in columns), "the colour of the dip"
    bar = row_of(reel, "a2").bar
    shown = bar.grab().toImage()
    whole = current().colour("good").rgb()
    corner, tail = bar.handle("head").toPoint(), bar.handle("tail").toPoint()
    assert shown.pixel(corner.x() + 8, corner.y() - 4) == black
    assert shown.pixel(tail.x() - 8, tail.y() - 4) == whole


def test_the_small_picture_of_a_row_is_none_of_the_shot_before(reel: Window) -> None:
    section = opened(reel, "a2")
    choose(choice(section, "join"), "dissolve")
    typed(field(section, "join length"), "6")
    recipe = row_of(reel, "a2")._recipe
    assert recipe is not None
    assert {pick.source for pick in recipe.picks()} == {"s2"}


def test_a_docket_that_is_opened_first_comes_to_the_top(reel: Window, qtbot: QtBot) -> None:
    """To the top, or as far as there is anything below it.

    It grows only when its layout is through: what has no room yet cannot be scrolled to.
    """
    reel.resize(1280, 800)
    reel.ledger.toggle("a3")
    row, area = row_of(reel, "a3"), reel.ledger._area

    def top() -> int:
        return row.mapTo(area.viewport(), QPoint(0, 0)).y()

    def is_in_sight() -> bool:
        return top() == 0 or (
            row.height() > 60 and top() + row.height() <= area.viewport().height()
        )

    qtbot.waitUntil(is_in_sight, timeout=PATIENCE)
