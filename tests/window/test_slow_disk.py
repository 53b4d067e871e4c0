"""A disk that takes its time, and one that never answers: the window waits for neither."""

from __future__ import annotations

import builtins
import io
import os
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.making import write_sequence
from tests.window.driving import PATIENCE, at_rest, drop, open_dockets, press, put_away, until_says
from waxseal.app.file_states_cache import FileBook
from waxseal.app.window import Window
from waxseal.core.job.edits import Edit, change_delivery, confirm_rates, lay_over, put_behind
from waxseal.core.plan.filestates import UNKNOWN, state_of

ACCESS_S = 0.03
CALLS = ("stat", "lstat", "open", "scandir", "listdir", "access", "mkdir", "rename", "unlink")


class SlowDisk:
    """Everything under a folder takes a while; what the window's thread asks of it is kept."""

    def __init__(self, folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
        self._folder = str(folder)
        self._window = threading.current_thread()
        self.asked: list[str] = []
        for module, name in (*((os, one) for one in CALLS), (io, "open"), (builtins, "open")):
            monkeypatch.setattr(module, name, partial(self._slowly, getattr(module, name), name))

    def _slowly(self, call: Any, name: str, *words: Any, **more: Any) -> Any:
        path = words[0] if words else ""
        if isinstance(path, str | os.PathLike) and str(path).startswith(self._folder):
            if threading.current_thread() is self._window:
                self.asked.append(f"{name} {path}")
            else:
                time.sleep(ACCESS_S)
        return call(*words, **more)


@pytest.fixture
def far(tmp_path: Path) -> Path:
    """Two shots, some of whose frames are missing."""
    folder = tmp_path / "far"
    for name, frames in (("sh010", range(1, 13)), ("sh020", range(1, 9)), ("logo", range(1, 2))):
        write_sequence(folder / name, f"{name}.%04d.png", frames=frames, width=160, height=90)
    (folder / "sh010" / "sh010.0007.png").unlink()
    return folder


def test_the_windows_thread_asks_no_disk(
    window: Window, qtbot: QtBot, far: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    disk = SlowDisk(far, monkeypatch)
    drop(window, qtbot, far)
    window.document.do(Edit("rate", partial(confirm_rates, rate=Fraction(24))))
    open_dockets(window)
    QApplication.processEvents()
    for frame in (1, 7, 8, 15, 3):
        window.player.go(frame)
        QApplication.processEvents()
    window.player.toggle()
    qtbot.wait(300)
    window.player.stop()
    window.document.do(Edit("over", partial(lay_over, source="s2", at=2)))
    window.document.do(Edit("behind", partial(put_behind, source="s2")))
    window.document.do(
        Edit("size", partial(change_delivery, delivery="d1", folder=str(far), name="film"))
    )
    press(window.outbox.seal_all)
    card = window.outbox.card("d1")
    assert card is not None
    until_says(qtbot, card, "missing")
    window.arriving.look_again(window.document.job)
    window.proving.look_at("d1")
    window.look_again()
    window.document.undo()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    window.outbox.toggle("d1")
    QApplication.processEvents()
    qtbot.waitUntil(lambda: at_rest(window), timeout=PATIENCE)
    assert disk.asked == []
    assert window.player.key_of(1) is not None
    monkeypatch.undo()


def test_what_is_not_known_yet_is_asked_for_and_told(
    qtbot: QtBot, tmp_path: Path, qapp: QApplication
) -> None:
    file = tmp_path / "a"
    file.write_bytes(b"1")
    book = FileBook(qapp)
    try:
        with qtbot.waitSignal(book.learned):
            assert state_of(file).size_bytes == UNKNOWN
        assert state_of(file).size_bytes == 1
        file.write_bytes(b"22")

        def is_another() -> bool:
            return state_of(file).size_bytes == 2

        qtbot.waitUntil(is_another)
    finally:
        book.close()
    assert state_of(file).size_bytes == 2  # the disk again


def test_a_window_ends_though_a_disk_never_answers(
    qtbot: QtBot, tmp_path: Path, far: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its looks at files hang for good: it does not."""
    settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
    window = Window(settings, tmp_path / "autosave")
    drop(window, qtbot, far)
    gone = threading.Event()

    def never(path: Path | str) -> Any:
        gone.wait()

    monkeypatch.setattr("waxseal.app.file_states_cache.look_at", never)
    window.bench.start(lambda _report, _token: gone.wait())  # as one that reads a folder there
    for frame in range(1, 9):
        window.player.go(frame)
        QApplication.processEvents()
    begun = time.monotonic()
    put_away(window)
    took = time.monotonic() - begun
    gone.set()
    assert took < 6


def test_a_process_ends_though_a_thread_never_does(tmp_path: Path) -> None:
    hanging = (
        "import threading\n"
        "from waxseal.app.process_end import end_process\n"
        "threading.Thread(target=threading.Event().wait).start()\n"
        "end_process(7)\n"
    )
    done = subprocess.run([sys.executable, "-c", hanging], check=False, timeout=60)
    assert done.returncode == 7


@pytest.fixture(autouse=True)
def answered_by_the_disk_again() -> Iterator[None]:
    yield
    from waxseal.core.plan.filestates import answer_by

    answer_by(None)
