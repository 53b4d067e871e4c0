"""Pictures that keep their alpha: straight, premultiplied, untouched, mixed, under a view."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.core.picture.test_clear import half_clear, over_grey, picture
from tests.making import job_of
from waxseal.core.job.corrections import Exposure
from waxseal.core.job.edits import (
    change_colourway,
    change_reading,
    put_behind,
    put_on_reel,
    remove_overlay,
    remove_shot,
    set_correction,
    set_reel_size,
)
from waxseal.core.job.model import Alpha, Job, Size, Space, View
from waxseal.core.picture.arrays import Planes
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import recipe

WIDE, TALL = 16, 8


def target(layout: Layout, alpha: Alpha = Alpha.STRAIGHT, **more: Any) -> Target:
    return Target(WIDE, TALL, layout, alpha=alpha, **more)


def made(job: Job, wanted: Target) -> Planes:
    return make(recipe(job, 1), wanted).planes


def noisy(dtype: Any) -> NDArray[Any]:
    """Any colour under any alpha: hidden colour too."""
    random = np.random.default_rng(4)
    values = random.integers(0, np.iinfo(dtype).max, (TALL, WIDE, 4), endpoint=True, dtype=dtype)
    values[:2, :, 3] = 0
    values[2:4, :, 3] = np.iinfo(dtype).max
    return values


@pytest.mark.parametrize(("dtype", "layout"), [(np.uint8, Layout.RGB8), (np.uint16, Layout.RGB16)])
def test_untouched_codes_and_alpha_come_out_bit_for_bit(
    tmp_path: Path, dtype: Any, layout: Layout
) -> None:
    values = noisy(dtype)
    picture(tmp_path, "a", values, "png")
    job = change_reading(job_of(tmp_path), source="s1", alpha=Alpha.STRAIGHT)
    planes = made(job, target(layout))
    np.testing.assert_array_equal(np.dstack(planes), values)


def test_the_codes_of_10_bits_fill_16(tmp_path: Path) -> None:
    ramp = np.linspace(0, 65_535, WIDE * TALL).astype(np.uint16).reshape(TALL, WIDE, 1)
    picture(tmp_path, "a", np.repeat(ramp, 3, axis=2), "png")
    (red, *_) = made(job_of(tmp_path), Target(WIDE, TALL, Layout.RGB10))
    codes = np.floor(ramp[..., 0] / 65_535 * 1023 + 0.5).astype(int)
    np.testing.assert_array_equal(red, codes * 64 + codes // 16)
    assert (red.min(), red.max()) == (0, 65_535)


@pytest.mark.parametrize("alpha", [Alpha.STRAIGHT, Alpha.PREMULTIPLIED])
def test_a_soft_edge_is_kept_as_the_destination_wants_it(tmp_path: Path, alpha: Alpha) -> None:
    """By hand: sRGB 200 under half alpha is 200 and 128, or 200 x 128 / 255 and 128."""
    values = half_clear(np.uint8, 200, 0)
    values[:, : WIDE // 2, 3] = 128
    picture(tmp_path, "a", values, "png")
    job = change_reading(job_of(tmp_path), source="s1", alpha=Alpha.STRAIGHT)
    job = set_correction(job, of="a1", correction=Exposure(stops=0.0001))  # not untouched
    red, _, _, kept = made(job, target(Layout.RGB8, alpha))
    assert (kept[0, 0], kept[0, -1]) == (128, 0)
    wanted = 200 if alpha is Alpha.STRAIGHT else round(200 * 128 / 255)
    assert abs(int(red[0, 0]) - wanted) <= 1
    assert red[0, -1] == 0


def test_what_is_read_as_premultiplied_goes_out_straight(tmp_path: Path) -> None:
    values = half_clear(np.uint8, 100, 0)
    values[:, : WIDE // 2, 3] = 128
    picture(tmp_path, "a", values, "png")
    job = change_reading(job_of(tmp_path), source="s1", alpha=Alpha.PREMULTIPLIED)
    red, _, _, kept = made(job, target(Layout.RGB8))
    assert abs(int(red[0, 0]) - 100 * 255 / 128) <= 1
    assert kept[0, 0] == 128
    same = made(job, target(Layout.RGB8, Alpha.PREMULTIPLIED))
    np.testing.assert_array_equal(np.dstack(same), values)  # untouched


@pytest.mark.parametrize("view", [View.PLAIN, View.ACES_SDR])
def test_an_opaque_picture_under_a_clear_one_is_opaque(tmp_path: Path, view: View) -> None:
    job = over_grey(tmp_path, half_clear(np.uint8, 255, 0))
    job = change_colourway(job, view=view)
    red, _, _, kept = made(job, target(Layout.RGB8))
    assert (kept == 255).all()
    assert (int(red[0, 0]), int(red[0, -1])) == (255, 60)


@pytest.mark.parametrize("view", [View.PLAIN, View.ACES_SDR])
def test_nothing_is_under_a_picture_that_does_not_fill_the_frame(
    tmp_path: Path, view: View
) -> None:
    picture(tmp_path, "a", np.full((TALL, TALL, 3), 0.5, np.float16), "exr")
    job = set_reel_size(job_of(tmp_path), size=Size(width=WIDE, height=TALL))
    job = change_colourway(job, view=view)
    red, _, _, kept = made(job, target(Layout.RGB16))
    assert (kept[0, 0], kept[0, WIDE // 2], kept[0, -1]) == (0, 65_535, 0)
    assert red[0, 0] == 0
    (light,) = made(job, target(Layout.LIGHT, Alpha.PREMULTIPLIED, space=Space.LINEAR))
    assert light.shape == (TALL, WIDE, 4)
    np.testing.assert_array_equal(light[0, 0], 0)
    np.testing.assert_allclose(light[0, WIDE // 2], (0.5, 0.5, 0.5, 1), atol=1e-3)


def test_what_is_behind_is_left_out(tmp_path: Path) -> None:
    job = over_grey(tmp_path, half_clear(np.uint8, 255, 0))
    job = put_behind(put_on_reel(remove_overlay(job, overlay="o1"), sources=["s2"]), source="s1")
    job = remove_shot(job, shot="a1")
    red, _, _, kept = made(job, target(Layout.RGB8))
    assert (kept[0, 0], kept[0, -1]) == (255, 0)
    assert red[0, -1] == 0


@pytest.mark.parametrize("layout", [Layout.YUV444_10, Layout.YUV420])
def test_a_plane_of_alpha_has_the_whole_range(tmp_path: Path, layout: Layout) -> None:
    values = half_clear(np.uint8, 255, 255)
    picture(tmp_path, "a", values, "png")
    job = change_reading(job_of(tmp_path), source="s1", alpha=Alpha.STRAIGHT)
    luma, cb, _, kept = made(job, target(layout))
    most = (1 << layout.depth) - 1
    assert kept.shape == luma.shape
    assert (kept[0, 0], kept[0, -1]) == (most, 0)
    assert luma[0, 0] == 235 << (layout.depth - 8)
    assert cb.shape == (luma.shape if layout is Layout.YUV444_10 else (TALL // 2, WIDE // 2))


def test_full_range_is_as_jpeg_has_it(tmp_path: Path) -> None:
    """ITU-T T.871 (JFIF), by its formula: white, black, and the pure colours."""
    colours = np.array([(255, 255, 255), (0, 0, 0), (255, 0, 0), (0, 0, 255)], np.uint8)
    picture(tmp_path, "a", np.repeat(colours, 4, axis=0)[None].repeat(TALL, axis=0), "png")
    y, cb, cr = made(job_of(tmp_path), Target(WIDE, TALL, Layout.FULL_422))
    for place, (r, g, b) in enumerate(colours.astype(float)):
        luma = 0.299 * r + 0.587 * g + 0.114 * b
        x = place * 4 + 2
        assert y[0, x] == round(luma)
        assert abs(int(cb[0, x // 2]) - min(255, 128 + (b - luma) / 1.772)) <= 1
        assert abs(int(cr[0, x // 2]) - min(255, 128 + (r - luma) / 1.402)) <= 1
