"""Patterns as `scan` prints them, Fileseq's and printf's, with a range and without."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.making import write_sequence
from waxseal.core.arrive.patterns import Pattern, parse_pattern
from waxseal.core.arrive.scanning import scan
from waxseal.core.errors import UnreadableInput, WrongUse
from waxseal.core.job.model import Sequence
from waxseal.core.timing.ranges import FrameRange


@pytest.mark.parametrize(
    ("name", "pattern"),
    [
        ("orb.v2.####.exr", Pattern("orb.v2.", ".exr", 4, None)),
        ("orb.@@@.exr", Pattern("orb.", ".exr", 3, None)),
        ("orb.#.exr", Pattern("orb.", ".exr", None, None)),
        ("orb.%04d.exr", Pattern("orb.", ".exr", 4, None)),
        ("orb_%d.png", Pattern("orb_", ".png", 1, None)),
        ("orb.v2.1001-1096#.exr", Pattern("orb.v2.", ".exr", None, FrameRange(1001, 1096))),
        ("orb.-5-5@@@.exr", Pattern("orb.", ".exr", 3, FrameRange(-5, 5))),
        ("orb.0001.exr", None),
        ("folder", None),
    ],
)
def test_a_pattern_is_read(name: str, pattern: Pattern | None) -> None:
    assert parse_pattern(name) == pattern


def test_a_range_that_runs_backwards_gets_a_sentence() -> None:
    with pytest.raises(WrongUse, match="swap its ends"):
        parse_pattern("a.9-3#.exr")


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    write_sequence(tmp_path, "orb.v2.%04d.png", frames=range(1001, 1009))
    write_sequence(tmp_path, "orb.v3.%04d.png", frames=range(1001, 1003))
    return tmp_path


def source_of(path: Path) -> Sequence:
    (source,) = scan([path]).sources
    assert isinstance(source, Sequence)
    return source


@pytest.mark.parametrize("name", ["orb.v2.####.png", "orb.v2.@@@@.png", "orb.v2.%04d.png"])
def test_a_pattern_brings_its_sequence(folder: Path, name: str) -> None:
    source = source_of(folder / name)
    assert source.files.pattern == "orb.v2.####.png"
    assert source.range == FrameRange(1001, 1008)


def test_of_a_range_no_other_frames_come(folder: Path) -> None:
    assert source_of(folder / "orb.v2.1002-1005#.png").range == FrameRange(1002, 1005)


def test_what_scan_prints_can_be_typed_again(folder: Path) -> None:
    for source in scan([folder]).sources:
        assert isinstance(source, Sequence)
        assert source_of(folder / source.files.pattern).files == source.files


def test_what_is_not_there_is_said(folder: Path) -> None:
    with pytest.raises(UnreadableInput, match="No file is called"):
        scan([folder / "orb.v9.####.png"])
    with pytest.raises(UnreadableInput, match="1009 is not there"):
        scan([folder / "orb.v2.1002-1009#.png"])


def test_a_file_that_is_really_called_so_is_that_file(tmp_path: Path) -> None:
    write_sequence(tmp_path, "a#%d.png", frames=range(1, 2))
    (tmp_path / "a#1.png").rename(tmp_path / "a#.png")
    assert source_of(tmp_path / "a#.png").kind == "still"
