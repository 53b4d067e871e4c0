"""While a job is opened or saved the window goes on, and nothing is done by halves."""

from __future__ import annotations

import threading
import time
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtGui import QGuiApplication
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import PATIENCE, at_rest, drop
from waxseal.app import desk, sentences
from waxseal.app.waiting import is_waiting, wait_for
from waxseal.app.window import Window
from waxseal.core.errors import JobError
from waxseal.core.job.file import load, save, stamp_of
from waxseal.core.job.model import Job

SLOW_S = 0.2


class Slowly:
    """A slow disk: reads or writes on the way, and remembers on which thread."""

    def __init__(self, act: object) -> None:
        self._act = act
        self.threads: list[int] = []

    def __call__(self, *args: object) -> object:
        self.threads.append(threading.get_ident())
        time.sleep(SLOW_S)
        return self._act(*args)  # type: ignore[operator]


class Turns:
    """How often a timer of the window was heard while something was waited for."""

    def __init__(self) -> None:
        self.heard = 0
        self.says_so = False  # the pointer, that it waits
        self._timer = QTimer(interval=5)
        self._timer.timeout.connect(self._hear)
        self._timer.start()

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
    slow, turns = Slowly(load), Turns()
    monkeypatch.setattr(desk, "load", slow)
    window.take([job])
    assert window.desk.job.name == "orrery"
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
    assert not window.desk.is_saved
    slow, turns = Slowly(save), Turns()
    monkeypatch.setattr(desk, "save", slow)
    monkeypatch.setattr(desk, "stamp_of", Slowly(stamp_of))  # written, and not yet known
    looking = QTimer(interval=10)
    looking.timeout.connect(window.jobwatch.look)
    looking.start()
    assert window.files.save()
    looking.stop()
    assert threading.get_ident() not in slow.threads
    assert turns.heard > 5
    assert window.desk.is_saved
    assert len(load(job).sources) == 1
    qtbot.wait(50)
    assert "changed by something else" not in window.message


def test_what_is_brought_while_a_job_is_opened_is_asked_for_again(
    window: Window, job: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(desk, "load", Slowly(load))
    said: list[str] = []

    def bring() -> None:
        window.take([tmp_path])
        said.append(window.message)

    QTimer.singleShot(int(SLOW_S * 500), bring)
    window.take([job])
    assert said == [sentences.BRING_IT_AGAIN]
    assert window.desk.job.name == "orrery"


def test_a_job_that_comes_while_another_is_saved_is_not_taken_for_it(
    window: Window, job: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The demo is ready in the middle of it: saving that would write over the other's file."""
    window.take([job])
    other = tmp_path / "other.waxseal"
    save(Job(name="other"), other)
    monkeypatch.setattr(desk, "save", Slowly(save))
    QTimer.singleShot(int(SLOW_S * 300), partial(window.files.open_job, other))
    assert window.desk.save(job)
    assert window.desk.job.name == "other"
    assert window.desk.path == other
    assert window.desk.is_saved
    assert load(job).name == "orrery"


def test_what_goes_wrong_on_the_way_is_raised_where_it_was_asked_for() -> None:
    def fail() -> None:
        raise JobError("It is damaged.")

    with pytest.raises(JobError, match="damaged"):
        wait_for(fail)
    assert not is_waiting()
    assert QGuiApplication.overrideCursor() is None


def test_work_that_is_over_at_once_is_waited_for_no_longer() -> None:
    assert [wait_for(partial(abs, -n)) for n in range(300)] == list(range(300))
