from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from waxseal.core.job.model import Framing
from waxseal.core.picture.framing import Box, framing_words, is_framed_whole, placed_box, scale_size
from waxseal.core.picture.scale_weights import weights
from waxseal.core.picture.target import Filter


@pytest.mark.parametrize(
    ("source", "frame", "framing", "box"),
    [
        ((1920, 1080), (1920, 1080), Framing.FIT, Box(0, 0, 1920, 1080)),
        ((1920, 1080), (1080, 1080), Framing.FILL, Box(-420, 0, 1920, 1080)),
        ((3840, 2160), (1080, 1080), Framing.FILL, Box(-420, 0, 1920, 1080)),
        ((640, 480), (1920, 1080), Framing.FIT, Box(240, 0, 1440, 1080)),
        ((640, 480), (1920, 1080), Framing.STRETCH, Box(0, 0, 1920, 1080)),
        ((640, 480), (1920, 1080), Framing.ACTUAL, Box(640, 300, 640, 480)),
        ((1000, 563), (1920, 1080), Framing.FIT, Box(0, 0, 1920, 1080)),  # no thin border
    ],
)
def test_where_a_picture_lies(
    source: tuple[int, int], frame: tuple[int, int], framing: Framing, box: Box
) -> None:
    found = placed_box(source, frame, framing)
    if framing is Framing.FIT and source == (1000, 563):
        assert found.height == 1080
        assert abs(found.width - 1920) <= 2
    else:
        assert found == box


sides = st.integers(16, 4096)


@given(st.tuples(sides, sides), st.tuples(sides, sides))
def test_fit_never_hangs_over_and_fill_never_leaves_a_border(
    source: tuple[int, int], frame: tuple[int, int]
) -> None:
    fit, fill = placed_box(source, frame, Framing.FIT), placed_box(source, frame, Framing.FILL)
    assert fit.width <= frame[0]
    assert fit.height <= frame[1]
    assert fit.width == frame[0] or fit.height == frame[1]
    assert fill.width >= frame[0]
    assert fill.height >= frame[1]
    assert fill.x <= 0
    assert fill.y <= 0


def test_the_framing_is_said_in_pixels() -> None:
    words = framing_words((1920, 1080), (1080, 1080), Framing.FILL)
    assert words == "fills: 420 px cropped each left and right"
    words = framing_words((640, 480), (1920, 1080), Framing.FIT)
    assert words == "fits: 240 px of ground each left and right"
    assert framing_words((640, 360), (1920, 1080), Framing.FIT) == "fits, at 300 %"
    assert framing_words((640, 360), (640, 360), Framing.FIT) == "fits"
    assert framing_words((1920, 1080), (1280, 720), Framing.FILL) == "fills, at 66.67 %"


def test_what_stays_whole_is_told_from_what_does_not() -> None:
    assert is_framed_whole((640, 360), (1920, 1080), Framing.FIT)
    assert is_framed_whole((640, 360), (1920, 1080), Framing.STRETCH)
    assert not is_framed_whole((640, 480), (1920, 1080), Framing.STRETCH)
    assert not is_framed_whole((640, 480), (1920, 1080), Framing.FIT)
    assert not is_framed_whole((640, 480), (1920, 1080), Framing.FILL)


def test_a_box_is_scaled_with_its_frame() -> None:
    assert scale_size(Box(240, 0, 1440, 1080), (1920, 1080), (960, 540)) == Box(120, 0, 720, 540)
    assert scale_size(Box(1, 2, 3, 4), (9, 9), (9, 9)) == Box(1, 2, 3, 4)


@given(length=st.integers(1, 300), to=st.integers(1, 300), chosen=st.sampled_from(list(Filter)))
def test_weights_sum_to_one_and_stay_inside(length: int, to: int, chosen: Filter) -> None:
    made = weights(length, to=to, first=0, last=to - 1, chosen=chosen)
    np.testing.assert_allclose(made.values.sum(axis=1), 1, atol=1e-5)
    assert made.starts.min() >= 0
    assert (made.starts + made.values.shape[1]).max() <= length


def test_area_is_the_mean_of_what_is_covered() -> None:
    made = weights(6, to=3, first=0, last=2, chosen=Filter.AREA)
    dense = np.zeros((3, 6))
    for row, start in enumerate(made.starts):
        dense[row, start : start + made.values.shape[1]] += made.values[row]
    np.testing.assert_allclose(dense, np.kron(np.eye(3), [0.5, 0.5]), atol=1e-6)


def test_a_part_of_the_results_is_that_part_of_all() -> None:
    whole = weights(100, to=37, first=0, last=36)
    part = weights(100, to=37, first=10, last=20)
    np.testing.assert_array_equal(whole.starts[10:21], part.starts)
    np.testing.assert_array_equal(whole.values[10:21], part.values)
