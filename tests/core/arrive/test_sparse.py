"""Work follows the files that are there, not the numbers that they have."""

from __future__ import annotations

import json
import resource
import time
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.cli.test_commands import run
from tests.making import write_sequence
from waxseal.core.timing.ranges import FrameRange, FrameRuns, runs_of, write_frames

FAR = 9_999_999


@pytest.fixture
def frames(tmp_path: Path) -> Path:
    folder = write_sequence(tmp_path / "a", "a.%07d.png", frames=range(1, 2))
    return write_sequence(folder, "a.%07d.png", frames=range(FAR, FAR + 1))


def test_two_frames_far_apart_cost_no_more_than_two_frames(frames: Path, tmp_path: Path) -> None:
    """They took half a minute and a gigabyte."""
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    begun = time.process_time()
    done = run("scan", frames, "--json")
    assert done.returncode == 1
    (source,) = json.loads(done.stdout)["sources"]
    assert source["rerender"] == f"2-{FAR - 1}"
    (finding,) = source["findings"]
    assert finding["kind"] == "sparse"
    assert "Only 2 of the 9999999 frames" in finding["what"]
    assert time.process_time() - begun < 5
    after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    assert after - before < 200_000  # kilobytes


@pytest.mark.parametrize("stand_in", ["stop", "hold"])
def test_a_range_of_which_next_to_nothing_is_there_is_asked_about(
    frames: Path, tmp_path: Path, stand_in: str
) -> None:
    out = tmp_path / "a.mp4"
    words = ("--rate", "24", "--stand-in", stand_in, "--out", out, "--json")
    done = run("assemble", frames, *words)
    assert done.returncode == 1
    assert "Only 2 of the 9999999 frames" in done.stderr
    assert not out.exists()


def test_who_says_which_frames_there_should_be_is_believed(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "a", "a.%04d.png", frames=range(1, 3))
    write_sequence(folder, "a.%04d.png", frames=range(60, 61))
    words = ("--rate", "24", "--stand-in", "hold", "--out", tmp_path / "a.mp4")
    assert run("assemble", folder, *words).returncode == 1
    done = run("assemble", folder, *words, "--expect", "1-60")
    assert done.returncode == 0, done.stderr


numbers = st.sets(st.integers(-30, 60), max_size=40)


@given(numbers, numbers, st.integers(-30, 60), st.integers(0, 40))
def test_runs_are_the_same_frames_as_a_set(
    one: set[int], other: set[int], first: int, count: int
) -> None:
    runs, span = FrameRuns(runs_of(sorted(one))), FrameRange(first, first + count)
    assert list(runs) == sorted(one)
    assert len(runs) == len(one)
    assert {frame for frame in range(-31, 62) if frame in runs} == one
    assert set(runs.within(span)) == one & set(span)
    assert set(runs.outside_in(span)) == set(span) - one
    assert list(runs.joined(other)) == sorted(one | other)
    assert runs == tuple(sorted(one))
    assert runs[:3] == tuple(sorted(one))[:3]
    assert write_frames(runs) == write_frames(sorted(one))
