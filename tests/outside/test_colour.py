"""Colour against published values and colour-science, which is not our code."""

from __future__ import annotations

import warnings
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.frames.movies.ycbcr import PlaneCoding, rgb_of_planes
from waxseal.core.job.model import BT709
from waxseal.core.job.primaries import PRIMARIES
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout, Target
from waxseal.core.picture.transfer_tables import (
    decode_film_log,
    decode_srgb,
    encode_srgb,
    primaries_matrix,
)
from waxseal.core.plan.programme import recipe

with warnings.catch_warnings():  # it warns that it has no plotting library, which nobody asked for
    warnings.simplefilter("ignore")
    import colour


# IEC 61966-2-1, from memory; confirmed below against colour-science.
@pytest.mark.parametrize(
    ("linear", "encoded"),
    [(0.0031308, 0.04045), (0.18, 0.46136), (0.21404, 0.5), (0.0, 0.0), (1.0, 1.0)],
)
def test_srgb_published_points(linear: float, encoded: float) -> None:
    assert encode_srgb(np.array([linear]))[0] == pytest.approx(encoded, abs=5e-6)
    assert decode_srgb(np.array([encoded]))[0] == pytest.approx(linear, abs=5e-6)


def test_srgb_against_colour_science() -> None:
    values = np.linspace(0, 1, 4097)
    reference = colour.models.eotf_inverse_sRGB(values)
    np.testing.assert_allclose(encode_srgb(values), reference, atol=2e-7)
    np.testing.assert_allclose(decode_srgb(values), colour.models.eotf_sRGB(values), atol=2e-7)


# ITU-R BT.709 75 % bars as 8-bit Y'CbCr, from memory; confirmed below by colour-science.
BARS = {
    "white": ((191.25, 191.25, 191.25), (180, 128, 128)),
    "yellow": ((191.25, 191.25, 0), (168, 44, 136)),
    "cyan": ((0, 191.25, 191.25), (145, 147, 44)),
    "green": ((0, 191.25, 0), (133, 63, 52)),
    "magenta": ((191.25, 0, 191.25), (63, 193, 204)),
    "red": ((191.25, 0, 0), (51, 109, 212)),
    "blue": ((0, 0, 191.25), (28, 212, 120)),
}


@pytest.mark.parametrize("bar", BARS)
def test_seventy_five_percent_bars(tmp_path: Path, bar: str) -> None:
    codes, expected = BARS[bar]
    sixteen = np.array(codes) * 257 + 0.5  # 75 % needs more than 8 bits
    values = np.broadcast_to(sixteen.astype(np.uint16), (16, 16, 3)).copy()
    (tmp_path / "frames").mkdir()
    write_pixels(tmp_path / "frames" / "a.png", values)
    planes = make(recipe(job_of(tmp_path / "frames"), 1), Target(16, 16, Layout.YUV420)).planes
    assert tuple(int(plane[4, 4]) for plane in planes) == expected
    reference = colour.RGB_to_YCbCr(
        np.array(codes) / 255,
        K=colour.WEIGHTS_YCBCR["ITU-R BT.709"],
        in_bits=8,
        out_bits=8,
        out_legal=True,
        out_int=True,
    )
    assert tuple(int(value) for value in reference) == expected


def test_any_colour_is_within_one_code_of_colour_science(tmp_path: Path) -> None:
    flat = np.random.default_rng(9).integers(0, 256, (12, 3), np.uint8)
    tall = np.repeat(np.repeat(flat[None], 8, axis=0), 8, axis=1)
    (tmp_path / "frames").mkdir()
    write_pixels(tmp_path / "frames" / "a.png", tall)
    planes = make(recipe(job_of(tmp_path / "frames"), 1), Target(96, 8, Layout.YUV420)).planes
    for number, codes in enumerate(flat):
        reference = (
            colour.RGB_to_YCbCr(
                codes / 255,
                K=colour.WEIGHTS_YCBCR["ITU-R BT.709"],
                out_bits=8,
                out_legal=True,
                out_int=False,
            )
            * 255
        )
        ours = (
            planes[0][4, number * 8 + 4],
            planes[1][2, number * 4 + 2],
            planes[2][2, number * 4 + 2],
        )
        np.testing.assert_allclose(ours, reference, atol=0.51)


@pytest.mark.parametrize("name", ["ACEScg", "P3-D65", "ITU-R BT.2020"])
def test_primaries_against_colour_science(name: str) -> None:
    space = colour.RGB_COLOURSPACES[name]
    xy = (*np.ravel(space.primaries), *space.whitepoint)
    ours = primaries_matrix(tuple(float(value) for value in xy))  # type: ignore[arg-type]
    assert ours is not None
    reference = colour.matrix_RGB_to_RGB(space, colour.RGB_COLOURSPACES["sRGB"], "Bradford")
    np.testing.assert_allclose(ours, reference, atol=2e-4)
    assert primaries_matrix(BT709) is None


def test_half_of_the_light_is_code_188() -> None:
    """Common practice, no source: the mean of black and white is 188, not 128."""
    assert round(float(encode_srgb(np.array([0.5]))[0] * 255)) == 188


def test_rates_are_exact_fractions() -> None:
    assert Fraction(24_000, 1001) != Fraction("23.976")


def test_film_log_against_colour_science() -> None:
    """Kodak's Cineon curve, black 95, white 685; the reference takes its own offset."""
    codes = np.linspace(0, 1, 1024)
    reference = colour.models.log_decoding_Cineon(codes)
    np.testing.assert_allclose(decode_film_log(codes), reference, rtol=1e-6, atol=1e-9)
    assert decode_film_log(np.array([685 / 1023]))[0] == pytest.approx(1.0)
    assert decode_film_log(np.array([95 / 1023]))[0] == pytest.approx(0.0, abs=1e-12)


@pytest.mark.parametrize(
    ("ours", "theirs"),
    [
        ("BT.709", "ITU-R BT.709"),
        ("ACEScg", "ACEScg"),
        ("ACES2065-1", "ACES2065-1"),
        ("P3", "P3-D65"),
        ("BT.2020", "ITU-R BT.2020"),
    ],
)
def test_primaries_are_the_published_ones(ours: str, theirs: str) -> None:
    space = colour.RGB_COLOURSPACES[theirs]
    points = np.concatenate([space.primaries.ravel(), space.whitepoint])
    np.testing.assert_allclose(PRIMARIES[ours], points, atol=1e-4)


@pytest.mark.parametrize(
    ("matrix", "name"), [(1, "ITU-R BT.709"), (6, "ITU-R BT.601"), (9, "ITU-R BT.2020")]
)
@pytest.mark.parametrize("bits", [8, 10])
def test_movie_planes_against_colour_science(matrix: int, name: str, bits: int) -> None:
    """Y'CbCr of limited range, coded by the reference, comes back as R'G'B'."""
    random = np.random.default_rng(4)
    rgb = random.uniform(0.02, 0.98, (40, 60, 3))
    codes = colour.RGB_to_YCbCr(
        rgb, K=colour.WEIGHTS_YCBCR[name], out_bits=bits, out_legal=True, out_int=True
    )
    kind = np.uint8 if bits == 8 else np.uint16
    planes = tuple(np.ascontiguousarray(codes[..., at]).astype(kind) for at in range(3))
    found = rgb_of_planes(planes, PlaneCoding(matrix, bits, is_full=False)) / 65_535
    assert np.abs(found - rgb).max() < 2.5 / 2**bits
