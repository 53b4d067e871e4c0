"""Words, speed, safe writing: small things that everything stands on."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from waxseal.core.folders import has_screen
from waxseal.core.progress import CancelToken, Progress
from waxseal.core.safely import partial_name, write_safely
from waxseal.core.speed import Speedometer
from waxseal.core.words import bytes_words, counted, left_words, plain


def test_odd_names_can_be_shown() -> None:
    assert plain("fine name.exr") == "fine name.exr"
    assert plain("bad\udcff.exr") == "bad\\xff.exr"
    assert plain("line\nbreak\x1b[31m") == "line\\nbreak\\x1b[31m"
    assert plain(Path("/ü/é")) == "/ü/é"


def test_counts_and_sizes_are_said() -> None:
    assert counted(1, "frame") == "1 frame"
    assert counted(3, "frame") == "3 frames"
    assert counted(2, "delivery", "deliveries") == "2 deliveries"
    assert bytes_words(999) == "999 bytes"
    assert bytes_words(11_200_000) == "11.2 MB"
    assert bytes_words(41_000_000_000) == "41.0 GB"


def test_what_is_left_is_said_where_it_is_known() -> None:
    assert left_words(None, ", ") == left_words(0.4, ", ") == ""
    assert left_words(40) == "40 s left"
    assert left_words(200, ", ") == ", 3 min 20 s left"
    assert left_words(7500) == "2 h 5 min left"


def test_speed_is_taken_over_the_last_seconds(monkeypatch: pytest.MonkeyPatch) -> None:
    now = [100.0]
    monkeypatch.setattr("waxseal.core.speed.time.monotonic", lambda: now[0])
    speed = Speedometer("encoding", 100)
    progress = Progress("encoding", 0, 100)
    for done in range(1, 51):
        now[0] += 0.5 if done <= 20 else 0.1
        progress = speed.at(done)
    assert progress.per_second == pytest.approx(8, abs=2.5)
    assert progress.seconds_left == pytest.approx(50 / progress.per_second)
    assert Speedometer("x", 10).at(0) == Progress("x", 0, 10)


def test_partial_names_are_hidden_and_one_a_process() -> None:
    path = Path("/out") / ("long" * 60 + ".mp4")
    assert partial_name(path).name.startswith(".long")
    assert len(partial_name(path).name) < 255
    assert partial_name(path, 1) != partial_name(path)
    assert str(os.getpid()) in partial_name(path).name


def test_writing_replaces_as_a_whole(tmp_path: Path) -> None:
    write_safely(tmp_path / "a", b"one")
    write_safely(tmp_path / "a", b"two")
    assert [(file.name, file.read_bytes()) for file in tmp_path.iterdir()] == [("a", b"two")]


def test_a_screen_is_seen_by_its_names(monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    assert not has_screen()
    monkeypatch.setenv("WAYLAND_DISPLAY", "wayland-0")
    assert has_screen()


def test_a_token_is_cancelled_once_for_all() -> None:
    token = CancelToken()
    token.check()
    token.cancel()
    assert token.is_cancelled
