from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from waxseal.core.errors import WrongUse
from waxseal.core.timing.ranges import (
    FrameRange,
    gaps_between,
    parse_range,
    runs_of,
    write_frames,
)


def test_both_ends_count() -> None:
    assert FrameRange(0, 200).count == 201
    assert 0 in FrameRange(0, 200)
    assert 201 not in FrameRange(0, 200)


@pytest.mark.parametrize(
    ("text", "first", "last"),
    [("1-48", 1, 48), ("7", 7, 7), ("-3-5", -3, 5), ("-8--2", -8, -2), (" 1 - 2 ", 1, 2)],
)
def test_a_range_is_read(text: str, first: int, last: int) -> None:
    assert parse_range(text) == FrameRange(first, last)


@pytest.mark.parametrize("text", ["", "a-b", "5-1", "1-2-3", "1..5", "1-99999999"])
def test_what_is_no_range_gets_a_sentence(text: str) -> None:
    with pytest.raises(WrongUse):
        parse_range(text)


def test_frames_are_written_in_the_trade_s_notation() -> None:
    assert write_frames([]) == ""
    assert write_frames([61, 62, 63, 150]) == "61-63,150"
    assert write_frames([3, 1, 2, 2]) == "1-3"


@given(st.sets(st.integers(-1000, 1000)))
def test_fileseq_reads_what_we_write(frames: set[int]) -> None:
    from fileseq import FrameSet

    written = write_frames(frames)
    assert {int(frame) for frame in FrameSet(written)} == frames if written else not frames


@given(st.sets(st.integers(-500, 500), min_size=1))
def test_runs_and_gaps_make_the_whole_range(frames: set[int]) -> None:
    runs = runs_of(sorted(frames))
    held = {frame for first, last in runs for frame in range(first, last + 1)}
    assert held == frames
    assert set(gaps_between(runs)) == set(range(min(frames), max(frames) + 1)) - frames
    assert all(one[1] + 1 < two[0] for one, two in pairwise(runs))
