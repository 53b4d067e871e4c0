"""Measures of one frame, against a plain search through its pixels."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from waxseal.core.arrive.frame_measures import BRIGHT_CODE, CODES, lone_points


def plainly(values: NDArray[np.unsignedinteger]) -> set[tuple[int, int]]:
    """Every pixel but those of the edge, held against the eight around it."""
    most = np.iinfo(values.dtype).max
    found = set()
    for y in range(1, values.shape[0] - 1):
        for x in range(1, values.shape[1] - 1):
            around = values[y - 1 : y + 2, x - 1 : x + 2, :3].astype(float).max(axis=2)
            centre = around[1, 1]
            around[1, 1] = 0
            if centre >= int(most * BRIGHT_CODE) and (centre - around.max()) / most > CODES:
                found.add((x, y))
    return found


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
@given(
    size=st.tuples(st.integers(3, 150), st.integers(3, 12)),
    channels=st.sampled_from([3, 4]),
    spots=st.lists(st.tuples(st.integers(0, 149), st.integers(0, 11)), max_size=8),
    seed=st.integers(0, 1000),
)
def test_the_quick_search_finds_what_a_plain_one_finds(
    dtype: type[np.unsignedinteger],
    size: tuple[int, int],
    channels: int,
    spots: list[tuple[int, int]],
    seed: int,
) -> None:
    height, width = size
    most = np.iinfo(dtype).max
    random = np.random.default_rng(seed)
    values = random.integers(0, most // 3, (height, width, channels)).astype(dtype)
    for down, across in spots:
        values[down % height, across % width, random.integers(0, channels)] = most
    assert {(one.x, one.y) for one in lone_points(values)} == plainly(values)
