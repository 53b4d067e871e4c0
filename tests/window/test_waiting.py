"""While a job is opened or saved the window goes on, and nothing is done by halves."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtGui import QGuiApplication
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import PATIENCE, at_rest, drop
from waxseal.app import document, window_texts
from waxseal.app.modal_wait import is_waiting, wait_for
from waxseal.app.window import Window
from waxseal.core.errors import JobError
from waxseal.core.job.job_file import load, save, stamp_of
from waxseal.core.job.model import Job

MOST_S = 20.0  # that a slow disk takes at the most, where nothing comes


class Slowly:
    """A slow disk: reads or writes only after something came, and remembers on which thread."""

    def __init__(self, act: object, has_come: Callable[[], bool]) -> None:
        self._act, self._has_come = act, has_come
        self.threads: list[int] = []

    def __call__(self, *args: object) -> object:
        self.threads.append(threading.get_ident())
        until = time.monotonic() + MOST_S
        while not self._has_come() and time.monotonic() < until:
            time.sleep(0.01)
        return self._act(*args)  # type: ignore[operator]


class Turns:
    """How often a timer of the window was heard while something was waited for."""

    def __init__(self) -> None:
        self.heard = 0
        self.says_so = False  # the pointer, that it waits
        self._timer = QTimer(interval=5)
        self._timer.timeout.connect(self._hear)
        self._timer.start()

    def are_enough(self) -> bool:
        return self.heard > 5 and self.says_so

    def _hear(self) -> None:
        self.heard += is_waiting()
        self.says_so = self.says_so or QGuiApplication.overrideCursor() is not None


@pytest.fixture
def job(tmp_path: Path) -> Path:
    path = tmp_path / "orrery.waxseal"
    save(Job(name="orrery"), path)
    return path


def test_a_job_is_opened_away_from_the_window(
    window: Window, job: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    turns = Turns()
    slow = Slowly(load, turns.are_enough)
    monkeypatch.setattr(document, "load", slow)
    window.take([job])
    assert window.document.job.name == "orrery"
    assert threading.get_ident() not in slow.threads
    assert turns.heard > 5
    assert turns.says_so
    assert not is_waiting()
    assert QGuiApplication.overrideCursor() is None


def test_a_job_is_saved_away_from_the_window_and_is_not_taken_for_another_s(
    window: Window, qtbot: QtBot, job: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.take([job])
    drop(window, qtbot, write_sequence(tmp_path / "r", "shot.%04d.png"))
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    assert not window.document.is_saved
    turns, looked, written = Turns(), list[int](), list[int]()

    def write(*args: Any) -> None:
        save(*args)
        written.append(len(looked))

    def has_been_looked_at() -> bool:
        """Written, and not yet known to be ours, while somebody looks at the file."""
        return len(looked) > sum(written) + 2

    slow = Slowly(write, turns.are_enough)
    monkeypatch.setattr(document, "save", slow)
    monkeypatch.setattr(document, "stamp_of", Slowly(stamp_of, has_been_looked_at))
    looking = QTimer(interval=10)
    looking.timeout.connect(window.jobwatch.look)
    looking.timeout.connect(lambda: looked.append(1))
    looking.start()
    assert window.files.save()
    looking.stop()
    assert threading.get_ident() not in slow.threads
    assert turns.heard > 5
    assert window.document.is_saved
    assert len(load(job).sources) == 1
    qtbot.wait(50)
    assert "changed by something else" not in window.message


def test_what_is_brought_while_a_job_is_opened_is_asked_for_again(
    window: Window, job: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    said: list[str] = []
    monkeypatch.setattr(document, "load", Slowly(load, lambda: bool(said)))

    def bring() -> None:
        window.take([tmp_path])
        said.append(window.message)

    QTimer.singleShot(100, bring)
    window.take([job])
    assert said == [window_texts.BRING_IT_AGAIN]
    assert window.document.job.name == "orrery"


def test_a_job_that_comes_while_another_is_saved_is_not_taken_for_it(
    window: Window, job: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The demo is ready in the middle of it: saving that would write over the other's file."""
    window.take([job])
    other = tmp_path / "other.waxseal"
    save(Job(name="other"), other)
    come = list[Path]()
    monkeypatch.setattr(document, "save", Slowly(save, lambda: bool(come)))

    def bring() -> None:
        come.append(other)
        window.files.open_job(other)

    QTimer.singleShot(50, bring)
    assert window.document.save(job)
    assert window.document.job.name == "other"
    assert window.document.path == other
    assert window.document.is_saved
    assert load(job).name == "orrery"


@pytest.mark.usefixtures("qapp")
def test_what_goes_wrong_on_the_way_is_raised_where_it_was_asked_for() -> None:
    def fail() -> None:
        raise JobError("It is damaged.")

    with pytest.raises(JobError, match="damaged"):
        wait_for(fail)
    assert not is_waiting()
    assert QGuiApplication.overrideCursor() is None


@pytest.mark.usefixtures("qapp")
def test_work_that_is_over_at_once_is_waited_for_no_longer() -> None:
    assert [wait_for(partial(abs, -n)) for n in range(300)] == list(range(300))
