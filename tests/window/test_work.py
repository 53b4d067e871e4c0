"""Work on threads gives way to the window while it is busy, and always goes on."""

from __future__ import annotations

import threading
import weakref
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import pytest
from PySide6.QtCore import QObject
from pytestqt.qtbot import QtBot
from shiboken6 import delete

from waxseal.app import task_pool
from waxseal.app.task_pool import LATE_S, MOST_S, REST_S, Pulse, Workbench
from waxseal.core.errors import Cancelled
from waxseal.core.progress import CancelToken, Progress, Report

PATIENCE_S = 60.0

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
    monkeypatch.setattr(task_pool, "monotonic", made.monotonic)
    monkeypatch.setattr(task_pool, "sleep", made.sleep)
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


class Owner(QObject):
    """Hears of work, and on which thread."""

    def __init__(self) -> None:
        super().__init__()
        self.heard: list[tuple[str, object, bool]] = []

    def hear(self, what: str, value: object = None) -> None:
        on_ours = threading.current_thread() is threading.main_thread()
        self.heard.append((what, value, on_ours))


def hearing(owner: Owner) -> dict[str, Callable[..., None]]:
    return {
        what: partial(owner.hear, what) for what in ("finished", "failed", "progressed", "stopped")
    }


def test_what_work_says_is_heard_in_order_on_the_windows_thread(
    parent: QObject, qtbot: QtBot
) -> None:
    bench, owner = Workbench(parent), Owner()

    def count(report: Report, _token: CancelToken) -> str:
        for done in range(3):
            report(Progress("", done, 3))
        return "three"

    bench.start(count, **hearing(owner))
    qtbot.waitUntil(lambda: not bench.is_busy)
    expected: list[tuple[str, object, bool]] = [
        ("progressed", Progress("", done, 3), True) for done in range(3)
    ]
    assert owner.heard == [*expected, ("finished", "three", True)]
    bench.close()


def test_how_work_ended_is_heard(parent: QObject, qtbot: QtBot) -> None:
    bench, owner = Workbench(parent, threads=1), Owner()
    trouble = ValueError("no such frame")

    def fail(_report: Report, _token: CancelToken) -> None:
        raise trouble

    def wait(_report: Report, token: CancelToken) -> None:
        while True:
            token.check()

    bench.start(fail, **hearing(owner))
    bench.start(wait, **hearing(owner)).token.cancel()
    qtbot.waitUntil(lambda: not bench.is_busy)
    assert owner.heard == [("failed", trouble, True), ("stopped", None, True)]
    bench.close()


def test_what_is_gone_is_told_nothing(parent: QObject, qtbot: QtBot) -> None:
    bench, owner = Workbench(parent), Owner()
    go_on = threading.Event()

    def wait(_report: Report, _token: CancelToken) -> bool:
        return go_on.wait(PATIENCE_S)

    bench.start(wait, **hearing(owner))
    delete(owner)
    go_on.set()
    qtbot.waitUntil(lambda: not bench.is_busy)
    assert owner.heard == []
    bench.close()


def test_the_threads_let_go_of_no_callback(parent: QObject, qtbot: QtBot) -> None:
    """What a callback belongs to may be a Qt object that nobody else holds."""
    bench, where = Workbench(parent), list[threading.Thread]()

    class Held:
        def hear(self, _value: object) -> None: ...

    def start() -> None:
        held = Held()
        weakref.finalize(held, lambda: where.append(threading.current_thread()))
        bench.start(lambda _report, _token: None, finished=held.hear)

    for _ in range(200):
        start()
    qtbot.waitUntil(lambda: not bench.is_busy)
    bench.close()
    assert where == [threading.main_thread()] * 200


def test_work_that_is_no_longer_wanted_does_not_rest(clock: Clock) -> None:
    token = task_pool.PoliteToken(clock.pulse)
    clock.now += 2 * LATE_S
    token.cancel()
    with pytest.raises(Cancelled):
        token.check()
    assert clock.rested == 0
