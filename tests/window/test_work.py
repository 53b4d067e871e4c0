"""Work on threads gives way to the window while it is busy, and always goes on."""

from __future__ import annotations

from dataclasses import dataclass

import pytest
from PySide6.QtCore import QObject
from pytestqt.qtbot import QtBot

from waxseal.app import work
from waxseal.app.work import LATE_S, MOST_S, REST_S, Pulse, Workbench
from waxseal.core.errors import Cancelled
from waxseal.core.progress import CancelToken, Report

pytestmark = pytest.mark.usefixtures("qapp")


@dataclass
class Clock:
    """A time that passes only while somebody rests."""

    pulse: Pulse
    beats_after: float = float("inf")
    now: float = 100.0
    rested: float = 0.0

    def monotonic(self) -> float:
        return self.now

    def sleep(self, seconds: float) -> None:
        self.now += seconds
        self.rested += seconds
        if self.rested >= self.beats_after:
            self.pulse._beat()


@pytest.fixture
def parent() -> QObject:
    return QObject()


@pytest.fixture
def clock(parent: QObject, monkeypatch: pytest.MonkeyPatch) -> Clock:
    made = Clock(Pulse(parent))
    monkeypatch.setattr(work, "monotonic", made.monotonic)
    monkeypatch.setattr(work, "sleep", made.sleep)
    made.pulse.begin()
    return made


def test_beside_an_idle_window_work_never_rests(clock: Clock) -> None:
    clock.now += LATE_S / 2
    clock.pulse.give_way()
    assert clock.rested == 0


def test_work_rests_until_the_window_is_idle_again(clock: Clock) -> None:
    clock.beats_after = MOST_S / 2
    clock.now += 2 * LATE_S
    clock.pulse.give_way()
    assert MOST_S / 2 <= clock.rested < MOST_S / 2 + 2 * REST_S


def test_beside_a_window_that_is_busy_for_long_work_goes_on(clock: Clock) -> None:
    clock.now += 2 * LATE_S
    clock.pulse.give_way()
    assert MOST_S <= clock.rested < MOST_S + 2 * REST_S


def test_the_pulse_beats_as_long_as_there_is_work(parent: QObject, qtbot: QtBot) -> None:
    bench = Workbench(parent)

    def wait(_report: Report, token: CancelToken) -> None:
        while True:
            token.check()

    bench.start(wait)
    before = bench._pulse._last
    qtbot.waitUntil(lambda: bench._pulse._last > before)
    bench.close()
    assert not bench._pulse._timer.isActive()


def test_work_that_is_no_longer_wanted_does_not_rest(clock: Clock) -> None:
    token = work.PoliteToken(clock.pulse)
    clock.now += 2 * LATE_S
    token.cancel()
    with pytest.raises(Cancelled):
        token.check()
    assert clock.rested == 0
