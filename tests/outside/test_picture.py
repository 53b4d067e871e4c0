"""Layers, scaling and likeness against references in float64 and against scikit-image."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from skimage.metrics import peak_signal_noise_ratio

from tests.core.picture.test_layers import job_with, light
from waxseal.core.arrive.scanning import scan
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import Exposure, Gamma, Opacity, Saturation
from waxseal.core.job.edits import (
    REEL,
    add_sources,
    change_join,
    change_overlay,
    lay_over,
    put_on_reel,
    set_correction,
    set_ground,
    set_reel_size,
)
from waxseal.core.job.model import Job, JoinKind, Size
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.picture.transfer_tables import decode_srgb, encode_srgb
from waxseal.core.plan.programme import programme, recipe
from waxseal.core.seal.likeness import psnr

LUMA = np.array((0.2126, 0.7152, 0.0722))  # ITU-R BT.709


def over(front: NDArray[np.float64], under: NDArray[np.float64]) -> NDArray[np.float64]:
    """Porter & Duff 1984, on premultiplied values, in float64."""
    return front[..., :3] + under * (1 - front[..., 3:])


def halves(shape: tuple[int, ...], seed: int) -> NDArray[np.float16]:
    return np.random.default_rng(seed).random(shape).astype(np.float16)


def test_over_against_porter_and_duff(tmp_path: Path) -> None:
    under, front = halves((9, 16, 3), 1), halves((9, 16, 4), 2)
    front[..., :3] *= front[..., 3:]
    job = lay_over(job_with(tmp_path, a=under, b=front), source="s2", at=1)
    expected = over(front.astype(np.float64), under.astype(np.float64))
    np.testing.assert_allclose(light(job), expected, rtol=1e-5, atol=1e-6)


@pytest.mark.parametrize("size", [(64, 36), (40, 90), (200, 113), (97, 11)])
def test_scaling_against_the_definition_in_float64(tmp_path: Path, size: tuple[int, int]) -> None:
    """Lanczos of three lobes (Duchon 1979), each axis by its definition, nothing beyond edges.

    But no light is less than none.
    """
    values = halves((36, 64, 3), 3)
    width, height = size
    job = set_reel_size(job_with(tmp_path, a=values), size=Size(width=width, height=height))
    from waxseal.core.job.edits import set_framing
    from waxseal.core.job.model import Framing

    job = set_framing(job, shot="a1", framing=Framing.STRETCH)
    rows, columns = lanczos(36, height), lanczos(64, width)
    expected = np.einsum("ij,jkc,lk->ilc", rows, values.astype(np.float64), columns)
    expected = np.maximum(expected, 0)
    np.testing.assert_allclose(light(job), expected, rtol=1e-4, atol=1e-5)


def lanczos(length: int, to: int) -> NDArray[np.float64]:
    """The matrix that scales one axis."""
    ratio = length / to
    wide = max(1.0, ratio)
    away = (np.arange(length)[None, :] + 0.5 - (np.arange(to)[:, None] + 0.5) * ratio) / wide
    matrix = np.where(np.abs(away) < 3, np.sinc(away) * np.sinc(away / 3), 0.0)
    return np.asarray(matrix / matrix.sum(axis=1, keepdims=True))


def test_psnr_against_scikit_image() -> None:
    random = np.random.default_rng(6)
    one = random.integers(0, 256, (40, 50), np.uint8)
    other = np.clip(one.astype(int) + random.integers(-9, 10, one.shape), 0, 255).astype(np.uint8)
    assert psnr(one, other) == pytest.approx(peak_signal_noise_ratio(one, other, data_range=255))


NUMBERS = st.floats(-2, 2).map(lambda value: round(value, 2))


@settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
@given(
    stops=NUMBERS,
    gamma=st.floats(0.5, 2).map(lambda value: round(value, 2)),
    saturation=st.floats(0, 2).map(lambda value: round(value, 2)),
    opacity=st.floats(0, 1).map(lambda value: round(value, 2)),
    reel_stops=NUMBERS,
    seed=st.integers(0, 50),
)
def test_random_jobs_against_a_reference_in_float64(
    tmp_path_factory: pytest.TempPathFactory,
    stops: float,
    gamma: float,
    saturation: float,
    opacity: float,
    reel_stops: float,
    seed: int,
) -> None:
    """Within one code of 8 bits of the whole pipeline written down plainly."""
    folder = tmp_path_factory.mktemp("random")
    under, front = halves((9, 16, 3), seed), halves((9, 16, 4), seed + 100)
    front[..., :3] *= front[..., 3:]
    job = lay_over(job_with(folder, a=under, b=front), source="s2", at=1)
    job = change_overlay(set_ground(job, colour="#402010"), overlay="o1", length=4)
    for of, one in (
        ("a1", Exposure(stops=stops)),
        ("a1", Saturation(saturation=saturation)),
        ("o1", Gamma(gamma=gamma)),
        ("o1", Opacity(points=((0, opacity),))),
        (REEL, Exposure(stops=reel_stops)),
    ):
        job = set_correction(job, of=of, correction=one)

    shot = under.astype(np.float64) * 2**stops
    grey = (shot @ LUMA)[..., None]
    shot = grey + (shot - grey) * saturation
    laid = front.astype(np.float64)
    alpha = np.where(laid[..., 3:] > 0, laid[..., 3:], 1)
    straight = laid[..., :3] / alpha
    laid[..., :3] = np.where(straight > 0, np.abs(straight) ** (1 / gamma), straight) * alpha
    whole = over(laid * opacity, shot) * 2**reel_stops
    expected = encode_srgb(whole) * 255

    made = make(recipe(job, 1), Target(16, 9, Layout.SCREEN))
    away = np.abs(made.planes[0][..., 2::-1] - expected)
    assert away.max() <= 1.0


def test_half_covering_white_over_black_is_code_188() -> None:
    """Common practice, no source: half of the light, not half of the code."""
    assert round(float(encode_srgb(np.array(0.5)) * 255)) == 188
    assert float(decode_srgb(np.array(0.5))) == pytest.approx(0.214, abs=1e-3)


def test_a_dissolve_of_codes_against_opencv(tmp_path: Path) -> None:
    """`addWeighted` on the codes of both pictures; even steps are common practice, no source."""
    random = np.random.default_rng(7)
    ends = [random.integers(0, 256, (36, 64, 3), np.uint8) for _ in range(2)]
    for name, picture in zip("ab", ends, strict=True):
        (tmp_path / name).mkdir()
        for number in range(1, 7):
            write_pixels(tmp_path / name / f"{name}.{number:04}.png", picture)
    job = put_on_reel(
        add_sources(Job(), sources=scan([tmp_path]).sources),
        sources=["s1", "s2"],
    )
    job = change_join(job, shot="a2", kind=JoinKind.DISSOLVE, length=4)
    planned = programme(job)
    for number in range(1, 9):
        share = max(0.0, min((number - 2) / 5, 1.0))
        codes = make(planned.recipe(number), Target(64, 36, Layout.SCREEN)).planes[0]
        expected = cv2.addWeighted(ends[0], 1 - share, ends[1], share, 0)
        np.testing.assert_allclose(codes[..., 2::-1].astype(int), expected.astype(int), atol=1)
