"""Bands give the bits that the long way gives, and are taken only where they may be."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.core.picture.plain_kernels import plainly
from tests.core.picture.test_layers import finished, job_with
from waxseal.core.frames.frame_writer import write_light
from waxseal.core.frames.headers import look
from waxseal.core.job.corrections import Exposure, Opacity
from waxseal.core.job.edits import (
    REEL,
    change_colourway,
    change_overlay,
    change_placing,
    lay_over,
    set_correction,
    set_ground,
)
from waxseal.core.job.model import Blend, Job, Space, View, Working
from waxseal.core.picture import layer_light, row_bands
from waxseal.core.picture.light.light_reader import read_frame
from waxseal.core.picture.make import canvas_for, make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import recipe

WIDE = 40
BAND = row_bands.BAND
TALL = BAND * 2 + 22
ACES = {"view": View.ACES_SDR}


def picture(seed: int, channels: int, height: int) -> NDArray[Any]:
    random = np.random.default_rng(seed)
    light = random.random((height, WIDE, channels)).astype(np.float32) * 1.2
    if channels == 4:
        light[..., 3] = np.clip(light[..., 3], 0, 1)
        light[..., :3] *= light[..., 3:]
    return light


def two_layers(folder: Path, *, height: int = TALL, channels: int = 4, under: int = 4) -> Job:
    job = job_with(folder, a=picture(1, under, height), b=picture(2, channels, height))
    job = set_ground(job, colour="#336699")
    return lay_over(job, source="s2", at=1)


def target(layout: Layout, height: int, **more: Any) -> Target:
    return Target(WIDE, height, layout, **more)


def both_ways(
    job: Job, wanted: Target, monkeypatch: pytest.MonkeyPatch
) -> tuple[tuple[NDArray[Any], ...], tuple[NDArray[Any], ...]]:
    one = recipe(job, 1)
    assert row_bands.flat_layers(one, canvas_for(one, wanted, None, None))
    banded = make(one, wanted).planes
    with monkeypatch.context() as patched:
        patched.setattr(row_bands, "MOST_LAYERS", 0)
        return banded, make(one, wanted).planes


@pytest.mark.parametrize("height", [2, BAND - 1, BAND, BAND + 1, 2 * BAND, 2 * BAND + 1, TALL])
@pytest.mark.parametrize("layout", [Layout.YUV420, Layout.YUV420_10, Layout.YUV422_10])
def test_two_layers_have_the_same_bits(
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    height: int,
    layout: Layout,
) -> None:
    job = two_layers(tmp_path, height=height)
    banded, long = both_ways(job, target(layout, height, dither=True), monkeypatch)
    for ours, theirs in zip(banded, long, strict=True):
        np.testing.assert_array_equal(ours, theirs)


@pytest.mark.parametrize("blend", list(Blend))
@pytest.mark.parametrize(
    ("view", "space"),
    [(View.PLAIN, Space.SRGB), (View.ACES_SDR, Space.SRGB), (View.ACES_HDR, Space.PQ)],
)
def test_blends_and_views_have_the_same_bits(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, blend: Blend, view: View, space: Space
) -> None:
    job = two_layers(tmp_path, under=3)  # under a view the ground, which is graphics, is not seen
    overlay = job.reel.overlays[0].id
    job = change_overlay(job, overlay=overlay, blend=blend)
    job = set_correction(job, of=overlay, correction=Opacity(points=((0, 0.7),)))
    job = change_colourway(job, view=view, working=Working.ACESCG)
    wanted = target(Layout.YUV420_10, TALL, space=space)
    banded, long = both_ways(job, wanted, monkeypatch)
    for ours, theirs in zip(banded, long, strict=True):
        np.testing.assert_array_equal(ours, theirs)


def test_what_meets_graphics_after_a_view_goes_the_long_way(tmp_path: Path) -> None:
    wanted = target(Layout.YUV420, TALL)
    for channels, is_flat in ((3, True), (4, False)):
        job = change_colourway(two_layers(tmp_path / str(channels), under=channels), **ACES)
        one = recipe(job, 1)
        assert bool(row_bands.flat_layers(one, canvas_for(one, wanted, None, None))) is is_flat


def test_what_is_hidden_is_not_read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    job, wanted = two_layers(tmp_path, channels=3), target(Layout.YUV420, TALL)
    read: list[str] = []

    def note(pick: Any, *rest: Any) -> Any:
        read.append(pick.file.path)
        return read_frame(pick, *rest)

    monkeypatch.setattr(row_bands, "read_frame", note)
    make(recipe(job, 1), wanted)
    assert len(set(read)) == 1
    job = set_correction(job, of=job.reel.overlays[0].id, correction=Opacity(points=((0, 0.5),)))
    read.clear()
    make(recipe(job, 1), wanted)
    assert len(set(read)) == 2


@pytest.mark.parametrize("how", ["finish", "moved", "turned", "smaller", "reel"])
def test_what_is_not_flat_goes_the_long_way(tmp_path: Path, how: str) -> None:
    job, wanted = two_layers(tmp_path), target(Layout.YUV420, TALL)
    if how == "finish":
        job = finished(job, Exposure(stops=1))
    elif how == "reel":
        job = set_correction(job, of=REEL, correction=Exposure(stops=1))
    elif how == "moved":
        job = change_placing(job, of="a1", x=1)
    elif how == "turned":
        job = change_placing(job, of="a1", mirrored=True)
    else:
        wanted = Target(WIDE // 2, TALL // 2, Layout.YUV420)
    one = recipe(job, 1)
    assert row_bands.flat_layers(one, canvas_for(one, wanted, None, None)) == []


def test_a_file_that_was_replaced_by_another_size_goes_the_long_way(tmp_path: Path) -> None:
    """Its header may be known from the picture before."""
    job, wanted = two_layers(tmp_path), target(Layout.YUV420, TALL)
    one = recipe(job, 1)
    canvas = canvas_for(one, wanted, None, None)
    assert len(row_bands.flat_frames(one, canvas, None)) == 2
    assert one.shot is not None
    path = Path(one.shot.pick.file.path)
    write_light(path, picture(3, 4, TALL // 2))
    assert row_bands.flat_layers(one, canvas)
    assert row_bands.flat_frames(one, canvas, None) == []
    made = make(one, wanted).planes
    with plainly():
        long = make(one, wanted).planes
    for ours, theirs in zip(made, long, strict=True):
        np.testing.assert_array_equal(ours, theirs)


def test_a_header_is_read_once_as_long_as_its_file_is_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    looked: list[str] = []

    def note(path: Path, *rest: Any) -> Any:
        looked.append(path.name)
        return look(path, *rest)

    monkeypatch.setattr(layer_light, "look", note)
    job, wanted = two_layers(tmp_path), target(Layout.YUV420, TALL)
    for _ in range(3):
        make(recipe(job, 1), wanted)
    assert len(looked) == len(set(looked)) == 2
    shot = recipe(job, 1).shot
    assert shot is not None
    os.utime(shot.pick.file.path, ns=(1, 1))
    make(recipe(job, 1), wanted)
    assert len(looked) == 3
