"""Sharp scaling: it is sharp, and throws nothing around what is brighter than white."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.core.picture.test_layers import finished, flat, job_with, light
from waxseal.core.job.corrections import Grain, Sharpen
from waxseal.core.job.edits import set_framing, set_reel_size
from waxseal.core.job.model import Framing, Size
from waxseal.core.picture.framing import Box, placed_box
from waxseal.core.picture.scale_weights import weights
from waxseal.core.picture.target import Filter

GROUND = 0.2


def scaled(folder: Path, values: NDArray[Any], width: int, height: int) -> NDArray[np.float32]:
    job = set_reel_size(job_with(folder, a=values), size=Size(width=width, height=height))
    return light(set_framing(job, shot="a1", framing=Framing.STRETCH))


def with_pixel(value: float) -> NDArray[np.float32]:
    values = flat(GROUND, GROUND, GROUND, width=64, height=64).copy()
    values[31, 31] = value
    return values


@pytest.mark.parametrize("value", [200.0, np.inf])
@pytest.mark.parametrize(("width", "height"), [(32, 32), (48, 48), (96, 96), (128, 128)])
def test_a_highlight_throws_no_black_dots_and_no_bright_rings(
    tmp_path: Path, value: float, width: int, height: int
) -> None:
    made = scaled(tmp_path / "bright", with_pixel(value), width, height)[..., 0]
    white = scaled(tmp_path / "white", with_pixel(1.0), width, height)[..., 0]
    assert made.min() >= white.min() - 1e-3
    assert made.min() > 0
    around = max(1, width / 64) * 2 + 1  # the pixels that the highlight itself covers
    assert (made > GROUND * 1.3).sum() <= around**2


def test_what_is_dark_between_highlights_stays_dark(tmp_path: Path) -> None:
    values = flat(50.0, 50.0, 50.0, width=64, height=64).copy()
    values[:, 28:36] = 0.0
    made = scaled(tmp_path, values, 128, 128)[..., 0]
    assert made[:, 60:68].max() < 0.05
    assert made.min() >= 0


def test_negative_light_stays_where_it_is(tmp_path: Path) -> None:
    made = scaled(tmp_path, with_pixel(-4.0), 32, 32)[..., 0]
    assert made.min() < -0.4
    assert (made < 0).sum() <= 9
    assert made.max() < GROUND * 1.3


def zone_plate(size: int) -> NDArray[np.float32]:
    rows, columns = np.mgrid[0:size, 0:size] / size - 0.5
    wave = (1 + np.cos(size * np.pi * 0.8 * (rows**2 + columns**2))) / 2
    return np.repeat(wave[..., None], 3, axis=2).astype(np.float32)


@pytest.mark.parametrize("to", [96, 200, 256, 320])
def test_a_zone_plate_is_as_sharp_as_the_filter_is(tmp_path: Path, to: int) -> None:
    """By its definition (Duchon 1979) in float64: not one pixel differs, but what was below 0."""
    from tests.outside.test_picture import lanczos

    values = zone_plate(160)
    matrix = lanczos(160, to)
    stored = values.astype(np.float16).astype(np.float64)
    expected = np.einsum("ij,jkc,lk->ilc", matrix, stored, matrix, optimize=True)
    made = scaled(tmp_path, values, to, to)
    np.testing.assert_allclose(made, np.maximum(expected, 0), atol=2e-5)


# ---- in whole pixels -------------------------------------------------------------------------


@pytest.mark.parametrize("framing", [Framing.FIT, Framing.FILL])
@pytest.mark.parametrize("source", [(1000, 561), (1999, 1123), (640, 361), (333, 777)])
@pytest.mark.parametrize("frame", [(1280, 720), (1080, 1081), (999, 501)])
def test_what_is_scaled_has_its_centre_in_the_centre(
    framing: Framing, source: tuple[int, int], frame: tuple[int, int]
) -> None:
    box = placed_box(source, frame, framing)
    assert 2 * box.x + box.width == frame[0]
    assert 2 * box.y + box.height == frame[1]
    if framing is Framing.FILL:
        assert box.x <= 0 <= box.x + box.width - frame[0]
        assert box.y <= 0 <= box.y + box.height - frame[1]


def test_what_is_not_scaled_keeps_its_size() -> None:
    assert placed_box((1280, 719), (1280, 720), Framing.FIT) == Box(0, 0, 1280, 719)


# ---- light is neither lost nor made ----------------------------------------------------------


def test_sharpen_keeps_negative_light(tmp_path: Path) -> None:
    values = flat(-0.3, -0.3, -0.3, width=32, height=32).copy()
    values[:, 16:] = 0.4
    made = light(finished(job_with(tmp_path, a=values), Sharpen(amount=1, radius=20)))[..., 0]
    assert made[16, 0] == pytest.approx(-0.3, abs=1e-3)
    assert made.min() >= -0.3005, "none is made deeper"


@pytest.mark.parametrize("level", [0.0005, 0.002, 0.02, 0.18, 0.8])
def test_grain_keeps_the_mean_of_all_light(tmp_path: Path, level: float) -> None:
    values = flat(level, level, level, width=320, height=180)
    made = light(finished(job_with(tmp_path, a=values), Grain(amount=20, size=1)))
    assert made.min() >= 0
    stored = float(np.float16(level))
    assert float(made.mean()) == pytest.approx(stored, rel=0.02)


@pytest.mark.parametrize("chosen", list(Filter))
@pytest.mark.parametrize(
    ("length", "to"), [(640, 1280), (1920, 1280), (3840, 1920), (5, 3), (2, 9)]
)
def test_no_result_is_made_of_pixels_that_weigh_nothing(
    chosen: Filter, length: int, to: int
) -> None:
    """They would cost time, and one that is infinite would spoil a result that it is no part of."""
    made = weights(length, to=to, first=0, last=to - 1, chosen=chosen)
    assert (made.values != 0).any(axis=0).all()
    np.testing.assert_allclose(made.values.sum(axis=1), 1, atol=1e-6)
    assert made.starts.min() >= 0
    assert (made.starts + made.values.shape[1]).max() <= length
