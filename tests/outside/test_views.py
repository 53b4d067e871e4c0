"""Views, delivery spaces, CDL and Y'CbCr against references that are not ours."""

from __future__ import annotations

import warnings
from pathlib import Path
from typing import Any

import numpy as np
import PyOpenColorIO as ocio
import pytest
from numpy.typing import NDArray

from tests.making import job_of
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import Cdl
from waxseal.core.job.edits import change_colourway, change_reading, set_correction
from waxseal.core.job.model import Colour, Colourway, Job, Space, View, Working
from waxseal.core.picture import kernels
from waxseal.core.picture.colour.colour_spaces import display_of, display_to_working, exact_display
from waxseal.core.picture.make import light_for, make
from waxseal.core.picture.plane_encoding import BT709_LUMA, BT2020, noise
from waxseal.core.picture.target import Layout, Target
from waxseal.core.picture.transfer_tables import primaries_matrix, whole_table
from waxseal.core.plan.programme import recipe

with warnings.catch_warnings():  # it warns that it has no plotting library, which nobody asked for
    warnings.simplefilter("ignore")
    import colour

Light = NDArray[np.float32]
LINEAR_709 = "Linear Rec.709 (sRGB)"


def config() -> Any:
    return ocio.Config.CreateFromBuiltinConfig("studio-config-latest")


def lights(count: int = 20_000) -> Light:
    """Scene-linear colours over sixteen stops, (1, count, 3)."""
    random = np.random.default_rng(8)
    bright = 2.0 ** random.uniform(-12, 4, (1, count, 1))
    return (bright * random.uniform(0.4, 1, (1, count, 3))).astype(np.float32)


VIEWS = [
    (View.ACES_SDR, Space.SRGB, "sRGB - Display", "ACES 2.0 - SDR 100 nits (Rec.709)"),
    (View.ACES_SDR, Space.BT709, "Rec.1886 Rec.709 - Display", "ACES 2.0 - SDR 100 nits (Rec.709)"),
    (View.ACES_SDR, Space.P3, "Display P3 - Display", "ACES 2.0 - SDR 100 nits (P3 D65)"),
    (View.ACES_HDR, Space.PQ, "Rec.2100-PQ - Display", "ACES 2.0 - HDR 1000 nits (Rec.2020)"),
]


@pytest.mark.parametrize(("view", "space", "display", "name"), VIEWS)
def test_views_against_the_exact_processor(
    view: View, space: Space, display: str, name: str
) -> None:
    """The table is at most 2 codes of 8 bits off, a twentieth on the average."""
    exact = config().getProcessor(
        ocio.DisplayViewTransform(src=LINEAR_709, display=display, view=name)
    )
    reference, ours = lights(), lights()
    exact.getDefaultCPUProcessor().applyRGB(reference)
    process = display_of(Colourway(view=view), space)
    assert process is not None
    process.apply(ours)
    away = np.abs(ours - reference) * 255
    assert away.max() < 2
    assert away.mean() < 0.08


def saturated(count: int) -> NDArray[np.float32]:
    """Lights of every hue, pure or nearly, over sixteen stops; and any three channels at all."""
    random = np.random.default_rng(5)
    hue = random.random((count, 1)) * 6
    pure = np.clip(np.abs((hue + np.array([0.0, 4.0, 2.0])) % 6 - 3) - 1, 0, 1)
    white = random.choice([0.0, 0.02, 0.1, 0.3], (count, 1))
    level = 2.0 ** random.uniform(-9, 7, (count, 1))
    anything = 2.0 ** random.uniform(-12, 8, (count, 3))
    both = np.concatenate([(pure * (1 - white) + white) * level, anything])
    return both.astype(np.float32)[None]


@pytest.mark.parametrize("working", list(Working))
@pytest.mark.parametrize(
    ("view", "space"), [*((one, two) for one, two, _, _ in VIEWS), (View.ACES_HDR, Space.HLG)]
)
def test_the_most_saturated_light_is_within_two_codes_of_the_exact_view(
    working: Working, view: View, space: Space
) -> None:
    colourway = Colourway(view=view, working=working)
    reference, ours = saturated(4000), saturated(4000)
    display_of(colourway, space, exact=True).apply(reference)  # type: ignore[union-attr]
    display_of(colourway, space).apply(ours)  # type: ignore[union-attr]
    away = np.abs(np.clip(ours, 0, 1) - np.clip(reference, 0, 1)) * 255
    assert away.max() <= 2
    assert away.mean() < 0.08


@pytest.mark.parametrize("exact", [False, True])
@pytest.mark.parametrize("space", [Space.SRGB, Space.BT709, Space.P3])
def test_colours_of_a_display_come_back_through_the_inverse(space: Space, *, exact: bool) -> None:
    """All corners and edges of its gamut too; the library's own inverse is a code off at most."""
    colourway = Colourway(view=View.ACES_SDR)
    every = np.random.default_rng(3).random((1, 8000, 3), np.float32)
    edges = every.copy()
    edges[0, :, :2] = np.round(edges[0, :, :2])
    values = np.concatenate([every, edges], axis=1)
    light = values.copy()
    display_to_working(colourway, space).apply(light)
    display_of(colourway, space, exact=exact).apply(light)  # type: ignore[union-attr]
    away = np.abs(light - values) * 255
    assert away.max() <= 2


def test_the_exact_way_is_the_processor_itself() -> None:
    reference, ours = lights(), lights()
    exact_display(Colourway(view=View.ACES_SDR), Space.SRGB).apply(reference)
    process = display_of(Colourway(view=View.ACES_SDR), Space.SRGB, exact=True)
    assert process is not None
    process.apply(ours)
    np.testing.assert_array_equal(ours, reference)


def test_plain_bt1886_against_colour_science() -> None:
    """ITU-R BT.1886 with black at nothing: the 2.4th root."""
    ours = np.linspace(0, 1, 300, dtype=np.float32).reshape(1, -1, 3).copy()
    reference = colour.models.eotf_inverse_BT1886(ours.astype(np.float64))
    process = display_of(Colourway(), Space.BT709)
    assert process is not None
    process.apply(ours)
    np.testing.assert_allclose(ours, reference, atol=2e-4)


def test_plain_pq_against_colour_science() -> None:
    """SMPTE ST 2084; white is 100 cd/m², which the config says: code 0.508."""
    ours = np.repeat(np.geomspace(1e-3, 90, 99, dtype=np.float32)[None, :, None], 3, axis=2).copy()
    reference = colour.models.eotf_inverse_ST2084(ours.astype(np.float64) * 100)
    process = display_of(Colourway(), Space.PQ)
    assert process is not None
    process.apply(ours)
    np.testing.assert_allclose(ours, reference, atol=1e-3)


@pytest.mark.parametrize("name", ["ACEScg", "Linear Rec.2020", "Linear P3-D65", "ACES2065-1"])
def test_primaries_against_opencolorio(name: str) -> None:
    from waxseal.core.job.primaries import PRIMARIES

    ours = {"Linear Rec.2020": "BT.2020", "Linear P3-D65": "P3"}.get(name, name)
    matrix = primaries_matrix(PRIMARIES[ours])
    assert matrix is not None
    unit = np.eye(3, dtype=np.float32).reshape(1, 3, 3).copy()
    config().getProcessor(name, LINEAR_709).getDefaultCPUProcessor().applyRGB(unit)
    np.testing.assert_allclose(matrix, unit[0].T, atol=2e-4)


def one_frame(folder: Path, name: str, values: NDArray[Any]) -> Job:
    (folder / "frames").mkdir()
    write_pixels(folder / "frames" / name, values)
    return job_of(folder / "frames")


def test_cdl_against_opencolorio(tmp_path: Path) -> None:
    """ASC CDL v1.2, not clamped."""
    values = lights(64 * 36).reshape(36, 64, 3).astype(np.float16)
    cdl = Cdl(
        slope=(1.1, 0.9, 1.3), offset=(0.02, -0.01, 0.0), power=(1.2, 0.8, 1.0), saturation=0.7
    )
    job = set_correction(one_frame(tmp_path, "a.exr", values), of="a1", correction=cdl)
    ours = light_for(recipe(job, 1), Target(64, 36, Layout.SCREEN))
    transform = ocio.CDLTransform(
        list(cdl.slope), list(cdl.offset), list(cdl.power), cdl.saturation
    )
    transform.setStyle(ocio.CDL_NO_CLAMP)
    reference = values.astype(np.float32)
    config().getProcessor(transform).getDefaultCPUProcessor().applyRGB(reference)
    np.testing.assert_allclose(ours, reference, rtol=1e-3, atol=1e-4)


def test_a_camera_log_against_opencolorio(tmp_path: Path) -> None:
    """Any space of the config; ACEScct is one that a standard describes (S-2016-001)."""
    values = np.random.default_rng(1).integers(5000, 50_000, (36, 64, 3), np.uint16)
    job = one_frame(tmp_path, "a.tif", values)
    job = change_reading(job, source="s1", colour=Colour.OWN, space="ACEScct")
    ours = light_for(recipe(job, 1), Target(64, 36, Layout.SCREEN))
    reference = (values / 65_535).astype(np.float32)
    config().getProcessor("ACEScct", LINEAR_709).getDefaultCPUProcessor().applyRGB(reference)
    np.testing.assert_allclose(ours, reference, rtol=1e-3, atol=1e-4)


def test_working_in_acescg_gives_the_same_codes(tmp_path: Path) -> None:
    values = lights(64 * 36).reshape(36, 64, 3).astype(np.float16)
    job = one_frame(tmp_path, "a.exr", values)
    target = Target(64, 36, Layout.SCREEN)
    one = make(recipe(job, 1), target).planes[0].astype(int)
    other = make(recipe(change_colourway(job, working=Working.ACESCG), 1), target).planes[0]
    assert np.abs(one - other).max() <= 1


@pytest.mark.parametrize("view", [View.PLAIN, View.ACES_SDR])
def test_display_encoded_frames_keep_their_codes_under_every_view(
    tmp_path: Path, view: View
) -> None:
    values = np.random.default_rng(2).integers(0, 256, (36, 64, 3), np.uint8)
    job = change_colourway(one_frame(tmp_path, "a.png", values), view=view)
    shown = make(recipe(job, 1), Target(64, 36, Layout.SCREEN)).planes[0][..., 2::-1]
    np.testing.assert_array_equal(shown, values)


COLOURS = {
    "ITU-R BT.601": (0.299, 0.114),  # the recommendation's own figures: 2.5.1
    "ITU-R BT.709": BT709_LUMA,
    "ITU-R BT.2020": BT2020,
}


@pytest.mark.parametrize("name", COLOURS)
@pytest.mark.parametrize("depth", [8, 10])
def test_ycbcr_against_colour_science(name: str, depth: int) -> None:
    """75 % bars and white, in codes: BT.601-7 2.5, BT.709-6 item 3.4, BT.2020-2 table 5."""
    bars = np.array([[1, 1, 1], [1, 1, 0], [0, 1, 1], [0, 1, 0], [1, 0, 1], [1, 0, 0], [0, 0, 1]])
    codes = np.repeat((bars * 0.75 * 65_535 + 0.5).astype(np.uint16), 8, axis=0)[None].repeat(4, 0)
    reference = colour.RGB_to_YCbCr(
        bars * 0.75, K=colour.WEIGHTS_YCBCR[name], out_bits=depth, out_legal=True, out_int=True
    )
    y = np.zeros((4, 56), np.uint16)
    cb, cr = (np.zeros((4, 28), np.uint16) for _ in range(2))
    half = np.full((1, 1), 0.5, np.float32)
    kernels.to_ycbcr(codes, whole_table(), (y, cb, cr), COLOURS[name], depth, half)
    ours = np.stack([y[0, 4::8], cb[0, 2::4], cr[0, 2::4]], axis=-1)
    np.testing.assert_allclose(ours, reference, atol=1)


def test_the_short_and_the_long_way_to_planes_give_the_same_codes() -> None:
    values = np.random.default_rng(4).integers(0, 65_536, (36, 64, 3), np.uint16)
    y = np.zeros((36, 64), np.uint8)
    cb, cr = (np.zeros((18, 32), np.uint8) for _ in range(2))
    kernels.to_yuv420(values, whole_table(), y, cb, cr)
    long = (np.zeros_like(y), np.zeros_like(cb), np.zeros_like(cr))
    half = np.full((1, 1), 0.5, np.float32)
    kernels.to_ycbcr(values, whole_table(), long, BT709_LUMA, 8, half)
    for one, other in zip((y, cb, cr), long, strict=True):
        away = np.abs(one.astype(int) - other)
        assert away.max() <= 1  # the order of the sums is another
        assert (away > 0).mean() < 0.001


def test_dithering_keeps_the_mean_of_what_lies_between_two_codes() -> None:
    values = np.full((64, 64, 3), 32_800, np.uint16)
    y = np.zeros((64, 64), np.uint8)
    cb, cr = (np.zeros((32, 32), np.uint8) for _ in range(2))
    kernels.to_ycbcr(values, whole_table(), (y, cb, cr), BT709_LUMA, 8, noise(64, 64))
    exact = 16 + 219 * 32_800 / 65_535
    assert len(np.unique(y)) == 2
    assert y.mean() == pytest.approx(exact, abs=0.02)
