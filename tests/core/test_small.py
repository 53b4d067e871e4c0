"""Words, speed, safe writing: small things that everything stands on."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from waxseal.core.atomic_write import partial_name, write_safely
from waxseal.core.folders import has_screen
from waxseal.core.progress import CancelToken, Progress
from waxseal.core.speedometer import Speedometer
from waxseal.core.text_format import bytes_words, counted, left_words, plain


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
    monkeypatch.setattr("waxseal.core.speedometer.time.monotonic", lambda: now[0])
    speed = Speedometer("encoding", 1000)
    assert speed.at(0) == Progress("encoding", 0, 1000)
    progress = Progress("encoding", 0, 1000)
    for done in range(1, 501):
        now[0] += 0.5 if done <= 200 else 0.1
        progress = speed.at(done)
    assert progress.per_second == pytest.approx(10)
    assert progress.seconds_left == pytest.approx(50)


def test_a_speed_is_said_when_it_is_known_and_leaves_rests_out(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    now = [100.0]
    monkeypatch.setattr("waxseal.core.speedometer.time.monotonic", lambda: now[0])
    speed = Speedometer("encoding", 400)
    now[0] += 60  # until the first frame is there
    assert speed.at(1) == Progress("encoding", 1, 400)
    now[0] += 0.5
    assert speed.at(40).seconds_left is None  # an encoder takes its first pictures at once
    now[0] += 3.5
    assert speed.at(41).per_second == pytest.approx(10)
    speed.skip(200)  # they were there from before
    speed.rest(600)
    now[0] += 600 + 4
    progress = speed.at(281)
    assert progress.per_second == pytest.approx(10)
    assert progress.seconds_left == pytest.approx(11.9)


def test_a_burst_at_the_end_of_a_segment_does_not_change_the_speed_much(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    now = [100.0]
    monkeypatch.setattr("waxseal.core.speedometer.time.monotonic", lambda: now[0])
    speed, done, said = Speedometer("encoding", 10_000), 0, []
    for _segment in range(8):
        for frames, seconds in ((50, 0.04), (46, 0.1), (0, 3.4)):  # it waits, then goes on
            for _frame in range(frames):
                now[0], done = now[0] + seconds, done + 1
                said.append(speed.at(done).per_second)
            now[0] += 0 if frames else seconds
    assert all(8 < one < 16 for one in said[300:]), (min(said[300:]), max(said[300:]))


def test_partial_names_are_hidden_and_one_a_process() -> None:
    path = Path("/out") / ("long" * 60 + ".mp4")
    assert partial_name(path).name.startswith(".long")
    assert len(partial_name(path).name) < 255
    assert partial_name(path, "1") != partial_name(path)
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
