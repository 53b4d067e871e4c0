"""The toolkit does not read the sources of what is imported after it."""

from __future__ import annotations

import importlib
import subprocess
import sys
from types import ModuleType

import pytest
from PySide6.QtCore import QObject
from pytestqt.qtbot import QtBot

import waxseal.app.look.keys
import waxseal.core.words
from tests.window.driving import PATIENCE
from waxseal.app import soon
from waxseal.app.importing import uses_toolkit

READ = """
import linecache
{0}
import wave
print("read" if any(name.endswith("wave.py") for name in linecache.cache) else "left alone")
"""


def told(first: str) -> str:
    return subprocess.run(
        [sys.executable, "-c", READ.format(first)], check=True, capture_output=True, text=True
    ).stdout.strip()


def test_sources_are_left_alone_once_the_window_is_there() -> None:
    assert told("import PySide6.QtCore") == "read", "the toolkit does not read them any more"
    assert told("import waxseal.app.importing") == "left alone"


def test_our_own_window_counts_as_a_user_of_the_toolkit() -> None:
    assert uses_toolkit(waxseal.app.look.keys)
    assert not uses_toolkit(waxseal.core.words)


def test_what_opens_in_the_window_is_imported_in_its_free_moments(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    imported: list[str] = []

    def import_module(name: str) -> ModuleType:
        imported.append(name)
        return importlib.import_module(name)

    monkeypatch.setattr("waxseal.app.soon.import_module", import_module)
    parent = QObject()
    soon.Soon(parent).begin()
    assert not imported
    qtbot.waitUntil(lambda: len(imported) == len(soon.NEEDED), timeout=PATIENCE)
