"""Which frame shows when, against tables made by hand."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from waxseal.core.errors import WrongUse
from waxseal.core.timing.frame_order import frames_in_order

BY_HAND: list[tuple[dict[str, Any], list[int]]] = [
    ({}, [1, 2, 3, 4, 5]),
    ({"backwards": True}, [5, 4, 3, 2, 1]),
    ({"without": ((2, 3),)}, [1, 4, 5]),
    ({"without": ((1, 1), (5, 9))}, [2, 3, 4]),
    ({"holds": ((2, 3),)}, [1, 2, 2, 2, 3, 4, 5]),
    ({"to_and_fro": True}, [1, 2, 3, 4, 5, 4, 3, 2]),
    ({"to_and_fro": True, "backwards": True}, [5, 4, 3, 2, 1, 2, 3, 4]),
    ({"times": 2}, [1, 2, 3, 4, 5, 1, 2, 3, 4, 5]),
    (
        {"without": ((4, 5),), "holds": ((3, 2),), "to_and_fro": True, "times": 2},
        [1, 2, 3, 3, 3, 2, 1, 2, 3, 3, 3, 2],
    ),
]


@pytest.mark.parametrize(("how", "expected"), BY_HAND)
def test_frames_in_order(how: dict[str, Any], expected: list[int]) -> None:
    assert list(frames_in_order(1, 5, **how)) == expected


def test_nothing_left_and_too_much_are_said() -> None:
    with pytest.raises(WrongUse, match="left out"):
        frames_in_order(1, 5, without=((0, 9),))
    with pytest.raises(WrongUse, match="at most"):
        frames_in_order(1, 1_000_000, times=1000)
    with pytest.raises(WrongUse, match="hold fewer"):
        frames_in_order(1, 1000, holds=tuple((n, 100_000) for n in range(1, 200)))


@given(first=st.integers(-50, 50), count=st.integers(1, 40), times=st.integers(1, 4))
def test_a_loop_to_and_fro_repeats_no_end(first: int, count: int, times: int) -> None:
    frames = list(frames_in_order(first, first + count - 1, to_and_fro=True, times=times))
    assert len(frames) == times * max(1, 2 * count - 2)
    if count > 1:
        assert all(one != other for one, other in pairwise(frames))
