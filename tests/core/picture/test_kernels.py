"""The compiled kernels are held to the plain ones: the same bits, for every kind of picture."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.core.picture import plain_kernels as plain
from waxseal.core.job.model import Colour
from waxseal.core.picture import kernels as compiled
from waxseal.core.picture.colour import colour_spaces
from waxseal.core.picture.colour.display_values import in_display_values, to_display, to_light
from waxseal.core.picture.kernels.constants import ADDED, CLEAR
from waxseal.core.picture.kernels.stored_picture import StoredPicture
from waxseal.core.picture.scale_weights import weights
from waxseal.core.picture.target import Filter
from waxseal.core.picture.transfer_tables import (
    alpha_table,
    encode_srgb,
    encoded_table,
    encoded_table_of_bits,
    linear_table,
    stored_as_integers,
)

KINDS = [
    (np.uint8, 3, Colour.SRGB),
    (np.uint8, 4, Colour.SRGB),
    (np.uint16, 3, Colour.SRGB),
    (np.float16, 4, Colour.LINEAR),
    (np.float32, 3, Colour.LINEAR),
]


def picture(dtype: type, channels: int, height: int = 35, width: int = 53) -> np.ndarray:
    random = np.random.default_rng(5)
    if dtype in (np.uint8, np.uint16):
        most = np.iinfo(dtype).max
        return random.integers(0, most, (height, width, channels), dtype, endpoint=True)
    values: np.ndarray = random.normal(0.3, 2.0, (height, width, channels)).astype(dtype)
    values[0, :6, 0] = [np.nan, np.inf, -np.inf, 0.0, -0.0, 65_504]
    return values


@pytest.mark.parametrize(("dtype", "channels", "colour"), KINDS)
def test_planes_and_screen_are_the_same_bits(dtype: type, channels: int, colour: Colour) -> None:
    values = stored_as_integers(picture(dtype, channels))
    kind = np.dtype(dtype) if np.dtype(dtype).kind == "u" else np.dtype(np.float16)
    table = encoded_table(kind, colour)
    made = []
    for kernels in (plain, compiled):
        y, cb, cr = (np.zeros(shape, np.uint8) for shape in ((36, 54), (18, 27), (18, 27)))
        screen = np.zeros((35, 53, 4), np.uint8)
        kernels.to_yuv420(values, table, y, cb, cr)
        kernels.to_screen(values, table, screen)
        made.append((y, cb, cr, screen))
    for one, other in zip(*made, strict=True):
        np.testing.assert_array_equal(one, other)


@pytest.mark.parametrize(("dtype", "channels", "colour"), KINDS)
@pytest.mark.parametrize("with_matrix", [False, True])
def test_linear_light_and_what_is_laid_over_are_the_same_bits(
    dtype: type, channels: int, colour: Colour, with_matrix: bool
) -> None:
    values = stored_as_integers(picture(dtype, channels))
    kind = np.dtype(dtype) if np.dtype(dtype).kind == "u" else np.dtype(np.float16)
    matrix = np.array([[0.8, 0.15, 0.05], [0.1, 0.8, 0.1], [0.0, 0.2, 0.8]], np.float32)
    made = []
    for kernels in (plain, compiled):
        stored = StoredPicture(
            values,
            linear_table(kind, colour),
            alpha_table(kind),
            matrix if with_matrix else None,
            is_straight=colour is Colour.SRGB,
            channels=values.shape[2],
        )
        light = kernels.to_linear(stored)
        canvas = picture(np.float32, 3)
        if values.shape[2] == 4:
            kernels.lay_stored(canvas, stored, 0.7)
        made.append((light, canvas))
    for one, other in zip(*made, strict=True):
        np.testing.assert_array_equal(one, other)


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
@pytest.mark.parametrize("order", [1, -1])  # -1: not in one piece
def test_light_of_what_is_opaque_has_no_alpha(dtype: type, order: int) -> None:
    values = picture(dtype, 4)[:, :47]
    values[..., 3] = 77
    kind = np.dtype(dtype)
    table, alphas = linear_table(kind, Colour.SRGB), alpha_table(kind)
    holed = values.copy()
    holed[34, 46, 3] = 76

    def light(kernels: Any, values: NDArray[Any], channels: int, covered: int | None) -> Any:
        values = values[:, ::order]
        stored = StoredPicture(values, table, alphas, None, True, channels, covered)  # noqa: FBT003
        return kernels.to_linear(stored)

    for kernels in (plain, compiled):
        opaque, known = light(kernels, values, 4, 77), light(plain, values, 3, None)
        np.testing.assert_array_equal(opaque, known)
        np.testing.assert_array_equal(
            light(kernels, holed, 4, 77), light(plain, holed, 4, None), "one pixel is not"
        )


def test_light_is_coded_by_its_bits() -> None:
    light = picture(np.float32, 3)
    light[1, :4, 1] = [-np.nan, 1.0, 1e-9, 2.0**-17]
    made: list[tuple[NDArray[Any], ...]] = []
    table = encoded_table_of_bits()
    for kernels in (plain, compiled):
        indexes = np.zeros((35, 53, 3), np.uint16)
        kernels.index_light(light, indexes)
        planes = tuple(np.zeros(size, np.uint8) for size in ((36, 54), (18, 27), (18, 27)))
        kernels.light_to_yuv420(light, table, *planes)
        made.append((indexes, *planes))
        again = tuple(np.zeros_like(plane) for plane in planes)
        kernels.to_yuv420(indexes, table, *again)
        for one, other in zip(planes, again, strict=True):
            np.testing.assert_array_equal(one, other)
    for one, other in zip(*made, strict=True):
        np.testing.assert_array_equal(one, other)
    found = made[0][0]
    assert (found[~(light > 0)] == 0).all(), "what is negative or no number is dark"
    assert (found[light >= 1] == len(table) - 1).all()
    middle = (light > 1e-4) & (light < 1)
    np.testing.assert_allclose(table[found[middle]], encode_srgb(light[middle]), atol=0.0003)


@pytest.mark.parametrize("chosen", list(Filter))
@pytest.mark.parametrize("to", [(17, 20), (35, 53), (80, 90)])
def test_scaling_is_the_same_bits(chosen: Filter, to: tuple[int, int]) -> None:
    light = picture(np.float32, 4)
    light = np.nan_to_num(light, posinf=4, neginf=-4)
    down = weights(35, to=to[0], first=0, last=to[0] - 1, chosen=chosen)
    across = weights(53, to=to[1], first=2, last=to[1] - 1, chosen=chosen)
    light[20, 20] = np.nan
    for least in (-np.inf, 0.0):
        one, other = (k.resample(light, down, across, least) for k in (plain, compiled))
        assert one.shape == (to[0], to[1] - 2, 4)
        np.testing.assert_array_equal(one, other)
        assert np.isnan(one).any()
        assert (np.nanmin(one) < 0) == (least < 0)


def test_views_get_the_same_bits() -> None:
    light = picture(np.float32, 3)
    made = []
    for kernels in (plain, compiled):
        four, indexes = np.empty((35, 53, 4), np.float32), np.zeros((35, 53, 3), np.uint16)
        kernels.widen(light, four)
        kernels.to_indexes(four, indexes)
        three = np.zeros_like(light)
        kernels.narrow(four, three)
        np.testing.assert_array_equal(three, light)
        made.append((four, indexes))
    for one, other in zip(*made, strict=True):
        np.testing.assert_array_equal(one, other)
    assert (made[0][0][..., 3] == 1).all()
    assert (made[0][1][np.isnan(light)] == 0).all()


def test_what_is_clear_is_marked_and_kept_alike() -> None:
    light = picture(np.float32, 4)
    light[::2, ::3, 3] = 0
    light[:8, :, :3] = 0
    light[5, :9, 0], light[6, 3, 3], light[7, 4, 1] = np.nan, np.nan, -0.0
    made = []
    for kernels in (plain, compiled):
        kept, marks = light.copy(), np.empty((35, 53), np.uint8)
        assert kernels.mark_clear(kept, marks)
        kernels.keep_added(kept, marks, np.array([0.1, 0.2, 0.3, 9], np.float32))
        made.append((kept, marks))
        assert not kernels.mark_clear(np.ones((2, 2, 4), np.float32), marks[:2, :2].copy())
    for one, other in zip(*made, strict=True):
        np.testing.assert_array_equal(one, other)
    assert set(np.unique(made[0][1])) == {0, CLEAR, ADDED}


@pytest.mark.parametrize("channels", [3, 4])
def test_display_values_are_the_same_bits_and_those_of_the_curve(channels: int) -> None:
    """Against the formula in twice the precision, and there and back."""
    light = picture(np.float32, channels, width=700) * np.float32(1000)  # several at a time
    light[1:20] /= np.float32(1e5)
    for curve, formula in zip(in_display_values(), (to_display, to_light), strict=True):
        one, other = light.copy(), light.copy()
        plain.bend(one, curve)
        curve.apply(other)
        np.testing.assert_array_equal(one, other)
        known = np.clip(np.nan_to_num(light[..., :3], nan=0), -curve.most, curve.most)
        wanted = np.sign(known) * formula(np.abs(known.astype(np.float64)))
        np.testing.assert_allclose(one[..., :3], wanted, rtol=2e-7)
        np.testing.assert_array_equal(one[..., 3:], light[..., 3:])
    encode, decode = in_display_values()
    whole = np.nan_to_num(light, posinf=1, neginf=-1)
    both = whole.copy()
    encode.apply(both)
    decode.apply(both)
    np.testing.assert_allclose(both, whole, rtol=5e-7)


def test_display_values_are_those_of_the_colour_library() -> None:
    """One curve, laid out twice: corrections in display values use the library's."""
    light = np.geomspace(1e-6, 1e4, 3000).astype(np.float32).reshape(1, -1, 3)
    for ours, is_encoding in zip(in_display_values(), (True, False), strict=True):
        one, other = light.copy(), light.copy()
        ours.apply(one)
        colour_spaces.make_process(colour_spaces.curve(encode=is_encoding)).apply(other)
        np.testing.assert_allclose(one, other, rtol=3e-5)  # so much its own power is off


@pytest.mark.parametrize("channels", [3, 4])
def test_what_is_looked_up_in_a_table_is_the_same_bits(channels: int) -> None:
    random = np.random.default_rng(7)
    light = (2.0 ** random.uniform(-14, 9, (23, 31, channels))).astype(np.float32)
    light[0, :6, 0] = [np.nan, np.inf, -np.inf, 0.0, -1.0, 65_504]
    light[1] = light[1, :, :1]  # greys: equal parts in every cell
    matrix = np.array([[0.6, 0.3, 0.1], [0.1, 0.9, 0.0], [0.05, 0.1, 0.85]], np.float32)
    grid = random.random((9, 9, 9, 3), np.float32)
    rough = random.integers(0, 2, (8, 8, 8), np.uint8)
    made = []
    for kernels in (plain, compiled):
        shown = np.empty((23, 31, 3), np.float32)
        unsure = np.empty((23, 31), np.uint8)
        kernels.look_up(light, matrix, grid, rough, shown, unsure)
        made.append((shown, unsure))
    for one, other in zip(*made, strict=True):
        np.testing.assert_array_equal(one, other)


@pytest.mark.parametrize(("across", "down"), [(2, 2), (2, 1), (1, 1)])
@pytest.mark.parametrize("is_full", [False, True])
@pytest.mark.parametrize("spreads", [False, True])
def test_codes_of_every_layout_are_the_same_bits(
    across: int, down: int, is_full: bool, spreads: bool
) -> None:
    values, table = picture(np.uint16, 4)[:34, :52], encoded_table(np.dtype(np.uint16), Colour.SRGB)
    random = np.random.default_rng(6)
    spread = random.random((34, 52) if spreads else (1, 1), np.float32)
    made = []
    for kernels in (plain, compiled):
        y, cb, cr = (
            np.zeros((34 // n, 52 // m), np.uint16) for n, m in ((1, 1), *[(down, across)] * 2)
        )
        coefficients = (0.299, 0.114)
        kernels.to_ycbcr(values, table, (y, cb, cr), coefficients, 10, spread, is_full=is_full)
        rgb = tuple(np.zeros((34, 52), np.uint8) for _ in range(3))
        kernels.to_rgb(values, table, rgb, 255, spread)
        made.append((y, cb, cr, *rgb))
    for one, other in zip(*made, strict=True):
        np.testing.assert_array_equal(one, other)


@pytest.mark.parametrize(
    ("dtype", "one"), [(np.uint8, 255), (np.uint16, 65_535), (np.uint16, 15_360)]
)
def test_whether_all_is_covered(dtype: type, one: int) -> None:
    values: NDArray[Any] = np.random.default_rng(5).integers(0, 255, (33, 47, 4)).astype(dtype)
    values[..., 3] = one
    for kernels in (plain, compiled):
        assert kernels.is_covered(values, one)
        assert kernels.is_covered(values[:, ::-1], one), "turned, and not in one piece"
    for place, other in (((0, 0), one - 1), ((32, 46), 0), ((16, 3), one ^ 1), ((20, 5), one >> 1)):
        holed = values.copy()
        holed[(*place, 3)] = other
        for kernels in (plain, compiled):
            assert not kernels.is_covered(holed, one), place
            assert not kernels.is_covered(holed[::-1], one), place
            assert not fill(kernels, holed, one)[0], place
            assert not fill(kernels, holed[::-1], one)[0], place
            assert fill(kernels, holed, None)[0], "nothing is asked"


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_asking_whether_all_is_covered_changes_no_code(dtype: type) -> None:
    values = picture(dtype, 4)[:33, :47]
    values[..., 3] = 77
    for kernels in (plain, compiled):
        for order in (slice(None), slice(None, None, -1)):  # in one piece, and not
            asked, *planes = fill(kernels, values[order], 77)
            assert asked
            for one, other in zip(planes, fill(plain, values[order], None)[1:], strict=True):
                np.testing.assert_array_equal(one, other)


def fill(kernels: Any, values: NDArray[Any], covered: int | None) -> tuple[Any, ...]:
    y, cb, cr = (np.zeros(shape, np.uint8) for shape in ((34, 48), (17, 24), (17, 24)))
    table = np.arange(65_536, dtype=np.float32) / np.float32(65_535)
    return kernels.to_yuv420(values, table, y, cb, cr, covered), y, cb, cr
