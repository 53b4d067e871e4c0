"""A column that makes only what is in sight, and edits that are worked out on a thread."""

from __future__ import annotations

from functools import partial
from itertools import count
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import PATIENCE, at_rest, drop
from waxseal.app.background_edits import BackgroundEdits
from waxseal.app.look.card_lane import scrolling
from waxseal.app.look.tooltips import set_tip
from waxseal.app.look.visible_rows import KEPT, VisibleRows
from waxseal.app.window import Window
from waxseal.core.job.edits import Edit
from waxseal.core.job.model import Job, change

COUNT, TALL = 600, 30


class Column:
    """A column of many labels in an area that shows ten of them."""

    def __init__(self, qtbot: QtBot) -> None:
        self.made: list[str] = []
        self.told: list[str] = []
        self.list = VisibleRows[QLabel](self._make, self._tell, usual=TALL, spacing=0)
        inside = QWidget()
        layout = QVBoxLayout(inside)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.list)
        layout.addStretch(1)
        self.area = scrolling(inside)
        self.list.follow(self.area)
        self.area.resize(200, 10 * TALL)
        qtbot.addWidget(self.area)
        self.area.show()
        self.list.show_ids([str(number) for number in range(COUNT)])
        self._qtbot = qtbot
        self.settle()

    def _make(self, one: str) -> QLabel:
        self.made.append(one)
        label = QLabel(one)
        label.setFixedHeight(TALL)
        return label

    def _tell(self, one: str, label: QLabel) -> None:
        self.told.append(one)
        label.setText(f"{one} told")
        self.when_told(one)

    def when_told(self, _one: str) -> None:
        """What telling a widget sets off: nothing, but where a test says so."""

    def settle(self) -> None:
        self._qtbot.wait(20)
        self._qtbot.waitUntil(lambda: not self.list.is_busy, timeout=PATIENCE)

    def scroll(self, y: int) -> None:
        self.area.verticalScrollBar().setValue(y)
        self.settle()

    def at(self, y: int) -> str:
        """What shows at a height of the area."""
        place = self.list.mapFrom(self.area.viewport(), QPoint(10, y))
        label = self.list.childAt(place)
        assert isinstance(label, QLabel)
        return label.text()


@pytest.fixture
def column(qtbot: QtBot) -> Column:
    return Column(qtbot)


def test_of_thousands_only_what_shows_is_made(column: Column) -> None:
    assert len(column.made) < 40
    assert column.list.height() == COUNT * TALL
    assert [column.at(place * TALL + 5) for place in (0, 9)] == ["0", "9"]


def test_what_is_scrolled_to_is_there_and_what_is_far_goes(column: Column) -> None:
    for y in range(0, COUNT * TALL, 10 * TALL):
        column.scroll(y)
        assert column.at(TALL // 2) == str(y // TALL)
    assert len(column.list.widgets) <= KEPT
    assert len(set(column.made)) == COUNT


def test_what_is_held_or_has_the_focus_stays(column: Column) -> None:
    column.list.held = "4"
    focused = column.list.need("5")
    assert focused is not None
    focused.setFocusPolicy(focused.focusPolicy().StrongFocus)
    column.area.activateWindow()
    focused.setFocus()
    for y in range(0, COUNT * TALL, 20 * TALL):
        column.scroll(y)
    assert "4" in column.list.widgets
    assert column.list.widgets["5"] is focused


def test_one_that_is_out_of_sight_is_made_when_it_is_needed(column: Column) -> None:
    label = column.list.need("500")
    assert label is not None
    assert label.y() == 500 * TALL
    assert column.list.need("nobody") is None


@pytest.fixture
def at_leisure(monkeypatch: pytest.MonkeyPatch) -> None:
    """However slow the machine is."""
    monkeypatch.setattr("waxseal.app.look.visible_rows.TOLD_FOR_S", 1000.0)


@pytest.mark.usefixtures("at_leisure")
def test_of_many_that_have_changed_a_few_are_told_at_a_time(column: Column) -> None:
    column.scroll(0)
    ids = [str(number) for number in range(COUNT)]
    column.list.held = "17"
    column.list.show_ids(ids, has_changed=True)
    assert column.told == ["17", *ids[:7]]
    column.settle()
    assert sorted(column.told) == sorted(column.list.widgets)
    assert column.at(9 * TALL + 5) == "9 told"


@pytest.mark.usefixtures("at_leisure")
def test_what_has_changed_again_is_told_once_more_and_what_is_needed_at_once(
    column: Column,
) -> None:
    ids, there = [str(number) for number in range(COUNT)], set(column.list.widgets)
    column.list.show_ids(ids, has_changed=True)
    column.list.show_ids(ids, has_changed=True)
    assert column.told == ids[:8] * 2
    assert column.list.need("15") is column.list.widgets["15"]
    assert column.told[-1] == "15"
    column.list.show_ids(ids[1:])  # the first goes, the others are still to be told
    column.settle()
    assert column.told.count("15") == 1
    assert set(column.told) == there


def test_of_a_long_list_fewer_are_told_where_that_takes_long(
    column: Column, monkeypatch: pytest.MonkeyPatch
) -> None:
    ticks = count()  # each call takes a thousandth of a second
    monkeypatch.setattr("waxseal.app.look.visible_rows.monotonic", lambda: next(ticks) / 1000)
    monkeypatch.setattr("waxseal.app.look.visible_rows.TOLD_FOR_S", 0.0035)
    ids = [str(number) for number in range(COUNT)]
    column.list.show_ids(ids, has_changed=True)
    assert column.told == ids[:3]
    column.told.clear()
    column.list.show_ids(ids[:20], has_changed=True)
    assert column.told == ids[:8], "of a short one always as many"
    column.settle()
    assert sorted(column.told) == sorted(column.list.widgets)


def test_what_is_told_may_change_the_list(column: Column, monkeypatch: pytest.MonkeyPatch) -> None:
    """A field that loses its focus while its card is told may say what was typed into it."""
    ids = [str(number) for number in range(COUNT)]

    def take_two_off(one: str) -> None:
        if one == "1" and column.told.count(one) == 1:
            left = [each for each in ids if each not in ("0", "3")]
            column.list.show_ids(left, has_changed=True)

    monkeypatch.setattr(column, "when_told", take_two_off)
    column.list.show_ids(ids, has_changed=True)
    column.settle()
    assert "3" not in column.told
    assert not {"0", "3"} & set(column.list.widgets)
    assert {"1", "2", "4", "5"} <= set(column.told)


def test_one_that_grows_moves_those_below_it(column: Column) -> None:
    grown = column.list.need("2")
    assert grown is not None
    grown.setFixedHeight(5 * TALL)
    column.settle()
    assert column.list.height() == (COUNT + 4) * TALL
    assert column.at(2 * TALL + 5) == column.at(6 * TALL + 5) == "2"
    assert column.at(7 * TALL + 5) == "3"


def test_the_gap_that_something_is_dropped_into(column: Column) -> None:
    assert column.list.gap_at(-5) == (0, 0)
    assert column.list.gap_at(TALL // 2 - 2) == (0, 0)
    assert column.list.gap_at(TALL // 2 + 2) == (1, TALL)
    assert column.list.gap_at(500 * TALL + 3) == (500, 500 * TALL)
    assert column.list.gap_at(COUNT * TALL + 500) == (COUNT, COUNT * TALL)


# ---- edits on a thread -------------------------------------------------------------------------


def named(job: Job, *, name: str) -> Job:
    return change(job, name=job.name + name)


def test_an_edit_of_many_parts_holds_when_it_is_worked_out(window: Window, qtbot: QtBot) -> None:
    elsewhere = BackgroundEdits(window.document)
    done: list[str] = []
    for letter in "ab":
        edit = Edit(f"add {letter}", partial(named, name=letter))
        elsewhere.do(edit, then=partial(done.append, letter))
    assert window.document.job.name == "Untitled", "the window goes on meanwhile"
    qtbot.waitUntil(lambda: not elsewhere.is_busy, timeout=PATIENCE)
    assert window.document.job.name == "Untitledab"
    assert done == ["a", "b"]
    window.document.undo()
    assert window.document.job.name == "Untitleda"
    elsewhere.close()


def test_what_the_user_did_meanwhile_is_kept(window: Window, qtbot: QtBot) -> None:
    elsewhere = BackgroundEdits(window.document)
    elsewhere.amend(Edit("", partial(named, name="found")))
    window.document.do(Edit("name", partial(change, name="mine ")))
    qtbot.waitUntil(lambda: not elsewhere.is_busy, timeout=PATIENCE)
    assert window.document.job.name == "mine found"
    window.document.undo()
    assert window.document.job.name == "Untitledfound", (
        "what was found holds in every job of the past"
    )
    elsewhere.close()


def test_what_was_found_out_does_not_reach_another_job(window: Window, qtbot: QtBot) -> None:
    elsewhere = BackgroundEdits(window.document)
    done: list[str] = []
    elsewhere.amend(Edit("", partial(named, name="found")), then=partial(done.append, "then"))
    window.document.begin(Job(name="another"))
    qtbot.waitUntil(lambda: not elsewhere.is_busy, timeout=PATIENCE)
    assert window.document.job.name == "another"
    assert done == []
    elsewhere.close()


def test_the_same_folder_dropped_twice_at_once_comes_in_once(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    frames = write_sequence(tmp_path / "frames", frames=range(1, 4), width=32, height=18)
    window.take([frames])
    drop(window, qtbot, frames)
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    assert len(window.document.job.sources) == 1
    assert len(window.document.job.reel.shots) == 1


def test_a_tool_tip_is_text_whatever_a_file_is_called(qtbot: QtBot) -> None:
    label = QLabel("x")
    qtbot.addWidget(label)
    set_tip(label, "<img src='/etc/passwd'>.png & more")
    assert label.toolTip() == ("<qt>&lt;img src=&#x27;/etc/passwd&#x27;&gt;.png &amp; more</qt>")
    set_tip(label, "plain.png")
    assert label.toolTip() == "plain.png"
