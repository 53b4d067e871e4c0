"""The window on a real (virtual) screen: Xvfb, Qt's xcb platform, pixels from the screen."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.making import write_sequence


@pytest.fixture
def screen() -> Iterator[str]:
    """A virtual screen that takes a free number by itself."""
    assert shutil.which("Xvfb"), "Xvfb is missing: run scripts/setup.sh as it says"
    reading, writing = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writing), "-screen", "0", "1400x900x24", "-nolisten", "tcp"],
        pass_fds=[writing],
        stderr=subprocess.DEVNULL,
    )
    os.close(writing)
    with os.fdopen(reading) as pipe:
        number = pipe.readline().strip()
    yield f":{number}"
    server.terminate()
    server.wait()


def test_frames_become_a_sealed_file_on_a_screen(screen: str, tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "frames", frames=range(1, 13), width=160, height=90)
    done = subprocess.run(
        [sys.executable, "-m", "tests.window.on_screen", str(folder), str(tmp_path)],
        env={**os.environ, "DISPLAY": screen, "QT_QPA_PLATFORM": "xcb"},
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "shot.mp4.seal.json").is_file()


def kept_in(autosaves: Path) -> str:
    """The text of the one job that is kept there; empty for none yet."""
    kept = [one for one in autosaves.glob("*") if one.is_file()]
    return kept[0].read_text() if kept else ""


def test_the_command_opens_a_window_and_ctrl_c_closes_it(screen: str, tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "frames")
    process = subprocess.Popen(
        [sys.executable, "-m", "waxseal.cli.main", str(folder)],
        env={**os.environ, "DISPLAY": screen, "QT_QPA_PLATFORM": "xcb"},
        stderr=subprocess.PIPE,
        text=True,
    )
    autosaves, until = tmp_path / "home" / "state" / "waxseal" / "autosave", time.monotonic() + 60
    while not kept_in(autosaves) and time.monotonic() < until:
        time.sleep(0.1)
    assert process.poll() is None
    process.send_signal(signal.SIGINT)
    _, errors = process.communicate(timeout=30)
    assert process.returncode == 0, errors
    assert "Traceback" not in errors
    assert "shot." in kept_in(autosaves)  # it was not saved: it comes back
