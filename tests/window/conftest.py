"""The real window, in folders of its own; nothing of it may be left over."""

from __future__ import annotations

import gc
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.window.driving import put_away
from waxseal.app.look.palette import Look
from waxseal.app.start_window import make_application
from waxseal.app.window import Window
from waxseal.core.helpers import use_helpers


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    gc.freeze()  # what is there from the start stays, as in the application
    return make_application(Look.DAY)


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    use_helpers()
    before = set(threading.enumerate())
    monkeypatch.setattr("waxseal.app.window.WARM_MS", 10_000_000)  # no compiler in every test
    # On a busy machine an encode that steps back would come to nothing while a test waits for it.
    monkeypatch.setattr("waxseal.core.deliver.process.worker_process.BACKGROUND", 0)
    settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
    made = Window(settings, tmp_path / "autosave")
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    yield made
    put_away(made)
    left = [thread for thread in threading.enumerate() if thread not in before]
    assert not left, f"threads left over: {left}"
