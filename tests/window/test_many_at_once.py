"""An edit of many sources at once: worked out away from the window where they are many."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import PATIENCE, at_rest, drop, press
from waxseal.app import background_edits
from waxseal.app.window import Window
from waxseal.core.job import edits
from waxseal.core.job.model import Job


@pytest.fixture(params=[1, 150], ids=["away from the window", "at once"])
def crowd(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> bool:
    """Whether the job is treated as one of many sources."""
    monkeypatch.setattr(background_edits, "CROWD", request.param)
    return bool(request.param == 1)


@pytest.fixture
def threads(monkeypatch: pytest.MonkeyPatch) -> set[int]:
    """The threads on which rates are confirmed."""
    found: set[int] = set()
    usual = edits.reading_edits.say_guessed

    def confirm(job: Job, **fields: object) -> Job:
        found.add(threading.get_ident())
        return usual(job, **fields)  # type: ignore[arg-type]

    monkeypatch.setattr(edits.reading_edits, "say_guessed", confirm)
    return found


@pytest.fixture
def full(window: Window, qtbot: QtBot, tmp_path: Path) -> Window:
    for name in ("a", "b", "c"):
        write_sequence(tmp_path / "r" / name, f"{name}.%04d.png")
    drop(window, qtbot, tmp_path / "r")
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    return window


def test_a_delivery_that_waited_for_a_rate_begins_once_it_is_confirmed(
    full: Window,
    qtbot: QtBot,
    threads: set[int],
    monkeypatch: pytest.MonkeyPatch,
    *,
    crowd: bool,
) -> None:
    sent: list[object] = []
    monkeypatch.setattr(full.sending, "send_all", sent.append)
    full.outbox.send_all()
    assert full.outbox.asking.isVisible()
    assert not sent
    press(full.outbox.asking.yes)
    qtbot.waitUntil(lambda: bool(sent), timeout=PATIENCE)
    assert full.document.job.guessed_from is None
    assert (threading.get_ident() in threads) is not crowd
    full.document.undo()
    assert full.document.job.guessed_from is not None, "one act, one step of undo"
    press(full.outbox.asking.yes)
    qtbot.waitUntil(lambda: full.document.job.guessed_from is None, timeout=PATIENCE)
    qtbot.waitUntil(lambda: at_rest(full), timeout=PATIENCE)
    assert len(sent) == 1, "a confirmation alone delivers nothing"


def test_what_was_said_before_is_of_the_past(full: Window, qtbot: QtBot, *, crowd: bool) -> None:
    assert crowd in (True, False)
    full.say("something that was")
    press(full.outbox.asking.yes)
    qtbot.waitUntil(lambda: full.document.job.guessed_from is None, timeout=PATIENCE)
    assert full.message == ""
