"""By keyboard alone: where Tab goes, where the focus stays, which letters open what."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable
from functools import partial
from itertools import pairwise
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QFileDialog,
    QLabel,
    QLineEdit,
    QMenu,
    QToolTip,
    QWidget,
)
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import (
    PATIENCE,
    at_rest,
    button,
    choice,
    drop,
    open_dockets,
    press,
)
from waxseal.app.outbox.seal_drawing import SealDrawing
from waxseal.app.window import Window
from waxseal.core.deliver.format.output_path import path_of


@pytest.fixture
def frames(tmp_path: Path) -> Path:
    return write_sequence(tmp_path / "frames", frames=range(1, 9), width=160, height=90)


@pytest.fixture
def full(window: Window, qtbot: QtBot, frames: Path) -> Window:
    """One of everything, with its docket open."""
    drop(window, qtbot, frames)
    open_dockets(window)
    QApplication.processEvents()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    return window


def focus() -> QWidget:
    widget = QApplication.focusWidget()
    assert widget is not None
    return widget


def place_of(widget: QWidget, window: Window) -> tuple[int, int]:
    place = widget.mapTo(window, widget.rect().center())
    return place.x(), place.y()


def test_tab_goes_from_a_card_into_its_docket_and_to_the_button_below(full: Window) -> None:
    card = full.outbox.card("d1")
    assert card is not None
    card.setFocus()
    seen = []
    for _ in range(50):
        QTest.keyClick(focus(), Qt.Key.Key_Tab)
        seen.append(focus())
        if seen[-1] is full.outbox.seal_all:
            break
    inside, last = seen[:-1], seen[-1]
    assert inside[0].objectName() == "deliveryName", "one Tab from the card to its name"
    assert last is full.outbox.seal_all
    heights = [place_of(one, full)[1] for one in inside if card.isAncestorOf(one)]
    assert all(later > earlier - 4 for earlier, later in pairwise(heights)), "row by row"
    for _ in seen:
        QTest.keyClick(focus(), Qt.Key.Key_Backtab)
    assert focus() is card


def test_tab_passes_everything_once_and_comes_round(full: Window) -> None:
    full.viewer.setFocus()
    seen: list[QWidget] = []
    while len(seen) < 300:
        QTest.keyClick(focus(), Qt.Key.Key_Tab)
        if focus() in seen:
            break
        seen.append(focus())
    assert focus() is seen[0]
    assert full.viewer in seen
    lanes = [next((n for n, one in enumerate(seen) if lane.isAncestorOf(one)), -1)
             for lane in (full.tray, full.middle, full.outbox)]  # fmt: skip
    assert all(place >= 0 for place in lanes)
    # Whole lanes, one after the other, from the left: cut where the walk began.
    names = "".join(
        letter
        for one in seen
        for letter, lane in (("t", full.tray), ("m", full.middle), ("o", full.outbox))
        if lane.isAncestorOf(one)
    )
    assert re.fullmatch(r"m*o+t+m*|m+o+t+m+", names), names


def test_an_edit_in_the_outbox_keeps_its_focus(full: Window, qtbot: QtBot) -> None:
    box = choice(full.outbox, "quality")
    box.setFocus()
    QTest.keyClick(box, Qt.Key.Key_Down)
    qtbot.waitUntil(lambda: at_rest(full), timeout=PATIENCE)
    assert full.outbox.isAncestorOf(focus())
    assert focus().objectName() == "quality"


def test_the_focus_goes_on_after_the_rate_is_confirmed(full: Window, qtbot: QtBot) -> None:
    asking = full.outbox.asking
    asking.yes.setFocus()
    QTest.keyClick(asking.yes, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: not asking.isVisible(), timeout=PATIENCE)
    assert full.outbox.isAncestorOf(focus())


def test_confirming_in_the_in_tray_keeps_the_focus_on_its_card(full: Window, qtbot: QtBot) -> None:
    card = full.tray.card("s1")
    assert card is not None
    full.tray.toggle("s1")
    QApplication.processEvents()
    confirm = next(
        one
        for one in card.findChildren(QAbstractButton)
        if one.isVisible() and "onfirm" in one.text()
    )
    confirm.setFocus()
    press(confirm)
    qtbot.waitUntil(lambda: at_rest(full), timeout=PATIENCE)
    assert focus() is card or card.isAncestorOf(focus())


def test_what_gets_the_focus_scrolls_into_sight(full: Window) -> None:
    full.resize(1280, 500)
    QApplication.processEvents()
    card = full.outbox.card("d1")
    assert card is not None
    card.setFocus()
    for _ in range(12):
        QTest.keyClick(focus(), Qt.Key.Key_Tab)
        QApplication.processEvents()
        if not card.isAncestorOf(focus()):
            break
        assert not focus().visibleRegion().isEmpty(), focus().accessibleName()


def letters(words: list[str]) -> list[str]:
    found = (re.search("&([^&])", text) for text in words)
    return [match[1].casefold() for match in found if match]


def test_no_letter_opens_two_things(full: Window) -> None:
    full.ledger.toggle_reel()
    bar = [action.text() for action in full.menuBar().actions()]
    buttons = [one.text() for one in full.findChildren(QAbstractButton) if one.isVisible()]
    titles = [one.text() for one in full.findChildren(QLabel) if one.isVisible() and one.buddy()]
    seen = [*buttons, *titles]
    twice = [letter for letter, times in Counter(letters([*bar, *seen])).items() if times > 1]
    assert twice == []
    for menu in full.findChildren(QMenu):
        inside = [action.text() for action in menu.actions() if not action.isSeparator()]
        twice = [letter for letter, times in Counter(letters(inside)).items() if times > 1]
        assert twice == [], menu.title()


def test_every_button_of_an_open_docket_can_be_reached(full: Window) -> None:
    card = full.outbox.card("d1")
    assert card is not None
    wanted = {one for one in card.findChildren(QAbstractButton) if one.isVisible()}
    card.setFocus()
    while card.isAncestorOf(focus()) or focus() is card:
        QTest.keyClick(focus(), Qt.Key.Key_Tab)
        wanted.discard(focus())
    assert wanted == set()
    assert button(card, "Seal this one").isEnabled()


def changed_pixels(window: Window, widget: QWidget, act: Callable[[], object]) -> int:
    """How many pixels of a widget are others after something is done."""
    before = widget.grab().toImage()
    act()
    QApplication.processEvents()
    after = widget.grab().toImage()
    return sum(
        before.pixel(x, y) != after.pixel(x, y)
        for y in range(before.height())
        for x in range(before.width())
    )


def test_the_focus_is_seen_wherever_it_is(full: Window) -> None:
    """WCAG 2.1, success criterion 2.4.7."""
    row, card = full.ledger.row("a1"), full.outbox.card("d1")
    assert row is not None
    assert card is not None
    full.ledger.toggle("a1")
    full.outbox.toggle("d1")
    for widget in (full.viewer, row, card, full.outbox.seal_all, full.transport.frame_field):
        full.tray.setFocus()
        QApplication.processEvents()
        give = partial(widget.setFocus, Qt.FocusReason.TabFocusReason)
        around = 2 * (widget.width() + widget.height())
        assert changed_pixels(full, widget, give) > min(around, 200) / 2, widget.accessibleName()


def test_escape_gives_a_field_its_old_value(full: Window) -> None:
    field = full.ledger._rate
    before, job = field.text(), full.document.job
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "nonsense")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert "nonsense" in field.accessibleDescription(), "it is said where it stands"
    assert QToolTip.text() == field.toolTip()
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert (field.text(), field.accessibleDescription()) == (before, "")
    assert field.hasFocus()
    full.outbox.setFocus()
    full.viewer.setFocus()
    assert full.document.job is job


def test_state_and_keys_are_told(full: Window) -> None:
    """What a screen reader says of cards, rows and the picture."""
    card, row = full.outbox.card("d1"), full.ledger.row("a1")
    assert card is not None
    assert row is not None
    assert card.accessibleDescription() == "open; Return closes it"
    full.outbox.toggle("d1")
    assert card.accessibleDescription() == "Return opens it"
    assert "Alt+Up" in row.accessibleDescription()
    full.player.go(5)
    assert full.viewer.accessibleDescription() == "frame 5 of 8"
    seal = card.findChild(SealDrawing)
    assert seal is not None
    assert seal.accessibleName() == "Seal: draft"


def test_from_an_empty_job_to_a_sealed_file_by_keyboard_alone(
    window: Window, qtbot: QtBot, frames: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Add frames, give the file a name, confirm the rate, seal: no mouse."""
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(frames))
    window.viewer.setFocus()
    QTest.keySequence(window, window.actions_["add folder"].shortcut())
    qtbot.waitUntil(
        lambda: at_rest(window) and len(window.document.job.reel.shots) == 1, timeout=PATIENCE
    )
    card = window.outbox.card("d1")
    assert card is not None
    for _ in range(60):  # to the delivery, and into it
        if focus() is card:
            break
        QTest.keyClick(focus(), Qt.Key.Key_Tab)
    assert focus() is card
    QTest.keyClick(card, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: bool(card.findChildren(QLineEdit, "deliveryName")), timeout=PATIENCE)
    qtbot.wait(50)
    QTest.keyClick(focus(), Qt.Key.Key_Tab)
    assert focus().objectName() == "deliveryName"
    QTest.keyClick(focus(), Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(focus(), "by hand")
    QTest.keyClick(focus(), Qt.Key.Key_Return)
    QTest.keySequence(window, window.actions_["seal"].shortcut())
    assert focus() is window.outbox.asking.yes  # the rate is a guess: that is asked first
    QTest.keyClick(focus(), Qt.Key.Key_Space)

    def is_sealed() -> bool:
        outcome = window.document.job.deliveries[0].outcome
        return outcome is not None and outcome.state.value == "sealed"

    qtbot.waitUntil(is_sealed, timeout=PATIENCE)
    assert path_of(window.document.job.deliveries[0]).name == "by hand.mp4"
    assert path_of(window.document.job.deliveries[0]).is_file()
