"""The pixel kernels in NumPy, written for reading: what the compiled ones are held to.

All arithmetic is float32, one rounding an operation in the order written here: the same bits.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

import numpy as np
import pytest
from numpy.typing import NDArray

from waxseal.core.picture import kernels
from waxseal.core.picture.arrays import Codes, Integers, Light
from waxseal.core.picture.kernels.constants import (
    ADD,
    ADDED,
    AXIS_BEND,
    AXIS_BRIGHT,
    AXIS_DARK,
    AXIS_FIRST_STOP,
    AXIS_LONG,
    BLUE,
    BLUE_SCALE,
    CLEAR,
    FULL_RANGE,
    GREEN,
    LIMITED_RANGE,
    MULTIPLY,
    OVER,
    RED,
    RED_SCALE,
)
from waxseal.core.picture.kernels.stored_picture import StoredPicture
from waxseal.core.picture.scale_weights import Weights
from waxseal.core.picture.transfer_tables import (
    BITS_LOW,
    BITS_ROUND,
    BITS_SHIFT,
    DARKEST,
    Table,
)

if TYPE_CHECKING:
    from waxseal.core.picture.colour.display_values import PiecewiseCurve

__all__ = [
    "bend",
    "blend",
    "divide_alpha",
    "index_light",
    "is_covered",
    "keep_added",
    "lay_stored",
    "light_to_yuv420",
    "look_up",
    "mark_clear",
    "multiply_alpha",
    "narrow",
    "plainly",
    "resample",
    "to_indexes",
    "to_linear",
    "to_rgb",
    "to_screen",
    "to_ycbcr",
    "to_yuv420",
    "widen",
]


Marks = NDArray[np.uint8]

HALF_UP = np.float32(0.5)


def is_covered(values: Integers, one: int) -> bool:
    """Whether the fourth channel is `one` everywhere. values: (h, w, 4)."""
    alpha = values[..., 3]
    # Where anything is clear, the first row mostly says so.
    return bool((alpha[0] == one).all() and (alpha == one).all())


def to_yuv420(
    values: Integers, table: Table, y: Codes, cb: Codes, cr: Codes, covered: int | None = None
) -> bool:
    """Fill three planes with limited-range BT.709 Y'CbCr, chroma sited left.

    values, table: encoded R'G'B' is table[values], 0..1.
    covered: what the fourth channel has to be everywhere. False: it is not, and
        the planes hold nothing of use.
    y: (2n, 2m) uint8, as large as values or a row or column larger, which then
        repeats the last one; cb, cr: (n, m) uint8.
    Chroma is the mean of two lines and of 1-2-1 pixels around each even one.
    Source: ITU-R BT.709-6, items 3.2 and 4.6; ITU-T H.264, E.2.1 for the siting.
    """
    if covered is not None and not is_covered(values, covered):
        return False
    red, green, blue = (even_out(table[values[..., at]], y.shape) for at in range(3))
    luma = (red * RED + green * GREEN) + blue * BLUE
    y[:] = luma * np.float32(219) + np.float32(16.5)
    red, green, blue = halve(red), halve(green), halve(blue)
    luma = (red * RED + green * GREEN) + blue * BLUE
    cb[:] = (blue - luma) * BLUE_SCALE + np.float32(128.5)
    cr[:] = (red - luma) * RED_SCALE + np.float32(128.5)
    return True


def even_out(plane: Table, shape: tuple[int, ...]) -> Table:
    rows, columns = shape[0] - plane.shape[0], shape[1] - plane.shape[1]
    return np.pad(plane, ((0, rows), (0, columns)), "edge") if rows or columns else plane


def halve(plane: Table) -> Table:
    lines = plane[0::2] + plane[1::2]
    even, odd = lines[:, 0::2], lines[:, 1::2]
    before = np.concatenate([even[:, :1], odd[:, :-1]], axis=1)
    return np.asarray((before + odd + (even + even)) * np.float32(0.125))


def to_screen(values: Integers, table: Table, screen: Codes) -> None:
    """Fill a (height, width, 4) uint8 picture with B, G, R, 255: what a screen shows."""
    for at in range(3):
        screen[..., 2 - at] = table[values[..., at]] * np.float32(255) + HALF_UP
    screen[..., 3] = 255


def to_rgb(
    values: Integers,
    table: Table,
    planes: tuple[NDArray[Any], NDArray[Any], NDArray[Any]],
    most: int,
    spread: NDArray[np.float32],
) -> None:
    """Fill planes of R, G and B with codes from 0 to `most`, uint8 or uint16.

    values, table: encoded R'G'B' is table[values], 0..1. spread: as of `to_ycbcr`.
    """
    if spread.size > 1:
        for at, plane in enumerate(planes):
            plane[:] = table[values[..., at]] * np.float32(most) + spread
        return
    # Nothing is spread: the codes are worked out once for the whole table.
    codes = (table * np.float32(most) + spread[0, 0]).astype(planes[0].dtype)
    for at, plane in enumerate(planes):
        np.take(codes, values[..., at], out=plane, mode="clip")


def to_linear(stored: StoredPicture) -> Light:
    """Scene-linear premultiplied light of a stored picture."""
    values, covered = stored.values, stored.covered
    channels = 3 if covered is not None and is_covered(values, covered) else stored.channels
    light = np.empty((*values.shape[:2], channels), np.float32)
    colours = [stored.table[values[..., at]] for at in range(3)]
    if stored.matrix is not None:
        colours = [
            (colours[0] * row[0] + colours[1] * row[1]) + colours[2] * row[2]
            for row in stored.matrix
        ]
    alpha = stored.alphas[values[..., 3]] if channels == 4 else None
    for at, colour in enumerate(colours):
        light[..., at] = colour * alpha if stored.is_straight and alpha is not None else colour
    if alpha is not None:
        light[..., 3] = alpha
    return light


def resample(light: Light, down: Weights, across: Weights, least: float = -np.inf) -> Light:
    """Scale a picture, (h, w, n): lines first, then pixels in a line.

    least: what comes out below it becomes it.
    """
    height, width, channels = light.shape
    tall = scale_lines(np.ascontiguousarray(light).reshape(height, -1), down)
    turned = turn_over(tall.reshape(-1, width, channels))
    wide = scale_lines(turned.reshape(width, -1), across)
    made = turn_over(wide.reshape(len(wide), -1, channels))
    return np.maximum(made, np.float32(least), out=made)


def scale_lines(lines: Light, weights: Weights) -> Light:
    """(n, m) to (len(weights), m). A line at a time: what is added up stays in the cache."""
    made = np.empty((len(weights.starts), lines.shape[1]), np.float32)
    taps = weights.values.shape[1]
    parts = np.empty((taps, lines.shape[1]), np.float32)
    starts, values = weights.starts.tolist(), weights.values[:, :, np.newaxis]
    for total, start, value in zip(made, starts, values, strict=True):
        np.multiply(lines[start : start + taps], value, out=parts)
        # Along the first axis lines are added up one after the other, as compiled.
        np.add.reduce(parts, axis=0, out=total, initial=np.float32(0))
    return made


def turn_over(light: Light) -> Light:
    """(h, w, n) to (w, h, n). A pixel is moved as one thing, several times as fast as by value."""
    height, width, channels = light.shape
    pixel = np.dtype(np.complex128) if channels == 4 else np.dtype((np.void, 4 * channels))
    pixels = np.ascontiguousarray(light).view(pixel)[..., 0]
    return np.ascontiguousarray(pixels.T).view(np.float32).reshape(width, height, channels)


def index_light(light: Light, indexes: NDArray[np.uint16]) -> None:
    """Fill `indexes` of the table of bits for opaque light; what is no number is dark.

    light, indexes: (height, width, 3).
    """
    bits = np.fmin(np.fmax(light, np.float32(DARKEST)), np.float32(1)).view(np.int32)
    indexes[:] = ((bits + BITS_ROUND) >> BITS_SHIFT) - BITS_LOW


def light_to_yuv420(light: Light, table: Table, y: Codes, cb: Codes, cr: Codes) -> None:
    """The planes of `to_yuv420` for opaque light and the table of bits."""
    indexes = np.empty(light.shape, np.uint16)
    index_light(light, indexes)
    to_yuv420(indexes, table, y, cb, cr)


def blend(canvas: Light, front: Light, at: tuple[int, int], opacity: float, mode: int) -> None:
    """Lay a picture over, add, multiply or screen it; the canvas is changed in place.

    canvas: (H, W, 3 or 4), front: (h, w, 3 or 4), both premultiplied; at: the
        column and row of front's first pixel, all of which lie inside the canvas.
    mode: an index of BLENDS. What is above one is not clipped; screen adds
        nothing where the canvas is at one already.
    Source: Porter & Duff 1984 for over and add (plus); the rest as the trade has them.
    """
    height, width = front.shape[:2]
    under = canvas[at[1] : at[1] + height, at[0] : at[0] + width]
    part = np.float32(opacity)
    light = front[..., :3] * part
    alpha = front[..., 3:] * part if front.shape[2] == 4 else np.float32(part)
    clear = np.float32(1) - np.clip(alpha, np.float32(0), np.float32(1))
    if mode == OVER:
        under[..., :3] = light + under[..., :3] * clear
    elif mode == ADD:
        under[..., :3] += light
    elif mode == MULTIPLY:
        under[..., :3] *= clear + light
    else:
        room = np.float32(1) - np.minimum(under[..., :3], np.float32(1))
        under[..., :3] += light * room
    if canvas.shape[2] == 4 and mode != MULTIPLY:
        under[..., 3:] = (np.float32(1) - clear) + under[..., 3:] * clear


def lay_stored(canvas: Light, stored: StoredPicture, opacity: float) -> None:
    """Lay a stored picture with alpha over an opaque canvas of its size, (h, w, 3), in place."""
    blend(canvas, to_linear(stored), (0, 0), opacity, OVER)


def divide_alpha(light: Light) -> None:
    """Premultiplied to straight, in place; what is clear stays as it is. (h, w, 4)."""
    alpha = light[..., 3:]
    light[..., :3] /= np.where(alpha > 0, alpha, np.float32(1))


def multiply_alpha(light: Light) -> None:
    """Straight to premultiplied, in place; what is clear stays as it is. (h, w, 4)."""
    alpha = light[..., 3:]
    light[..., :3] *= np.where(alpha > 0, alpha, np.float32(1))


def to_indexes(encoded: Light, indexes: NDArray[np.uint16]) -> None:
    """Encoded 0..1 to 16-bit integers for `whole_table`; (h, w, 3 or 4). No number is 0."""
    bounded = np.clip(np.nan_to_num(encoded[..., :3], nan=0.0), np.float32(0), np.float32(1))
    indexes[:] = bounded * np.float32(65_535) + HALF_UP


def mark_clear(light: Light, marks: Marks) -> bool:
    """Where premultiplied light is clear: CLEAR, or ADDED where it has colour none the less.

    Returns whether it is anywhere.
    """
    clear = light[..., 3] <= 0
    marks[:] = clear
    marks[clear & light[..., :3].any(axis=2)] = ADDED
    return bool(clear.any())


def keep_added(light: Light, marks: Marks, black: Light) -> None:
    """Where a picture is clear, subtract from colour what a transform makes of black.

    A pixel that had no colour before gets none.
    """
    light[marks == CLEAR, :3] = 0
    light[marks == ADDED, :3] -= black[:3]


def bend(light: Light, curve: PiecewiseCurve) -> None:
    """Take light through a curve in straight pieces, in place. Alpha stays."""
    colour = light[..., :3]
    size = np.abs(colour)
    bounded = np.where(size <= np.float32(curve.most), size, np.float32(curve.most))
    bounded[np.isnan(size)] = 0
    bits = bounded.view(np.int32)
    piece = (bits >> curve.shift) - curve.first
    beyond = (bits & ((1 << curve.shift) - 1)).astype(np.float32)
    place = np.maximum(piece, 0)
    bent = curve.values[place] + curve.steps[place] * beyond
    bent = np.where(piece < 0, bounded * np.float32(curve.foot), bent)
    colour[:] = np.where(colour < 0, -bent, bent)


EXPONENT, MANTISSA, UNIT = 23, 0x7FFFFF, np.float32(2.0**-23)
FIRST_EXPONENT = 127 + AXIS_FIRST_STOP


def axis_places(light: Light) -> Light:
    """Where light is on an axis, in stops from its beginning; no number is at the beginning."""
    bounded = np.minimum(np.where(light > 0, light, np.float32(0)), AXIS_BRIGHT)
    bits = (bounded.astype(np.float32) + AXIS_DARK).view(np.int32)
    stop = ((bits >> EXPONENT) - FIRST_EXPONENT).astype(np.float32)
    m = (bits & MANTISSA).astype(np.float32) * UNIT
    return np.asarray((stop + m) + (AXIS_BEND * m) * (np.float32(1) - m))


def look_up(
    light: Light,
    matrix: NDArray[np.float32],
    grid: NDArray[np.float32],
    rough: NDArray[np.uint8],
    shown: Light,
    unsure: Codes,
) -> None:
    """Fill `shown`, (h, w, 3), with what a table says of light, (h, w, 3 or 4).

    matrix: (3, 3), to the axes' primaries. grid: (n, n, n, 3). rough: (n - 1, n - 1, n - 1).
    unsure: (h, w), gets what `rough` says of the cell that is looked into.
    Interpolated in the tetrahedra around the diagonal of each cell.
    Source: Kasson, Nin, Plouffe & Hafner 1995.
    """
    red, green, blue = (light[..., at] for at in range(3))
    last = np.float32(len(grid) - 1)
    scale, most = last / np.float32(AXIS_LONG), len(grid) - 2
    axes = [(red * row[0] + green * row[1]) + blue * row[2] for row in matrix]
    places = np.stack([axis_places(one) * scale for one in axes], axis=-1)
    cells = np.minimum(places.astype(np.int32), most)
    parts = np.minimum(places - cells.astype(np.float32), np.float32(1))
    unsure[:] = rough[cells[..., 0], cells[..., 1], cells[..., 2]]
    order = np.argsort(-parts, axis=-1, kind="stable")  # of equal ones the first axis first
    parts = np.take_along_axis(parts, order, axis=-1)
    corner = cells.copy()
    shown[:] = grid[tuple(np.moveaxis(corner, -1, 0))] * (np.float32(1) - parts[..., 0:1])
    for at in range(3):
        axis = order[..., at : at + 1]
        np.put_along_axis(corner, axis, np.take_along_axis(corner, axis, axis=-1) + 1, axis=-1)
        left = parts[..., at + 1 : at + 2] if at < 2 else np.float32(0)
        shown += grid[tuple(np.moveaxis(corner, -1, 0))] * (parts[..., at : at + 1] - left)


def widen(light: Light, four: Light) -> None:
    """(h, w, 3) into (h, w, 4), opaque."""
    four[..., :3] = light
    four[..., 3] = 1


def narrow(four: Light, light: Light) -> None:
    """(h, w, 4) into (h, w, 3), without alpha."""
    light[:] = four[..., :3]


def to_ycbcr(
    values: Integers,
    table: Table,
    planes: tuple[NDArray[Any], NDArray[Any], NDArray[Any]],
    coefficients: tuple[float, float],
    depth: int,
    spread: NDArray[np.float32],
    *,
    is_full: bool = False,
) -> None:
    """Fill three planes with Y'CbCr of any depth, of limited range or full, chroma sited left.

    planes: uint8 or uint16; chroma as large as luma, half as wide, or half as
        wide and high. coefficients: of red and of blue in luma.
    spread: what is added before rounding down, (1, 1) for a half everywhere, or
        as large as luma, 0..1, for dithering.
    `to_yuv420` is the short way for 8 bits, BT.709, not dithered: the same codes.
    """
    y, cb, cr = planes
    kr, kb = (np.float32(one) for one in coefficients)
    kg = np.float32(1) - kr - kb
    step = np.float32(1 << (depth - 8))
    reach, difference, foot = FULL_RANGE if is_full else LIMITED_RANGE
    blue_scale = difference * step / (np.float32(2) * (np.float32(1) - kb))
    red_scale = difference * step / (np.float32(2) * (np.float32(1) - kr))
    colours = [even_out(table[values[..., at]], y.shape) for at in range(3)]
    scale, zero = reach * step, foot * step
    y[:] = luma_of(colours, kr, kg, kb) * scale + (zero + spread)
    across, down = y.shape[1] // cb.shape[1], y.shape[0] // cb.shape[0]
    colours = [place_chroma(one, across, down) for one in colours]
    luma = luma_of(colours, kr, kg, kb)
    offset = np.float32(128) * step + spread[::down, ::across]
    most = np.float32((256 << (depth - 8)) - 1)  # of full range, a difference of 0.5 is beyond it
    cb[:] = np.minimum((colours[2] - luma) * blue_scale + offset, most)
    cr[:] = np.minimum((colours[0] - luma) * red_scale + offset, most)


def luma_of(colours: list[Table], kr: np.float32, kg: np.float32, kb: np.float32) -> Table:
    return np.asarray((colours[0] * kr + colours[1] * kg) + colours[2] * kb)


def place_chroma(plane: Table, across: int, down: int) -> Table:
    """The means that chroma is taken from: of two lines, and 1-2-1 around each even pixel."""
    if down == 2:
        plane = (plane[0::2] + plane[1::2]) * np.float32(0.5)
    if across == 1:
        return plane
    even, odd = plane[:, 0::2], plane[:, 1::2]
    before = np.concatenate([even[:, :1], odd[:, :-1]], axis=1)
    return np.asarray((before + odd + (even + even)) * np.float32(0.25))


@contextmanager
def plainly() -> Iterator[None]:
    """Make pictures by these kernels for a while."""
    with pytest.MonkeyPatch.context() as patched:
        for name in __all__:
            if name != "plainly":
                patched.setattr(kernels, name, globals()[name])
        yield
