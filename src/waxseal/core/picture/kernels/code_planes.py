"""Turns stored values or light, by a table, into planes for an encoder or a screen."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.arrays import Codes, Integers, Light
from waxseal.core.picture.kernels.compiling import compiled, inlined
from waxseal.core.picture.kernels.constants import (
    BLUE,
    BLUE_SCALE,
    FULL_RANGE,
    GREEN,
    LIMITED_RANGE,
    RED,
    RED_SCALE,
)
from waxseal.core.picture.kernels.opaque import as_numbers, is_covered, is_row_all, is_whole
from waxseal.core.picture.transfer_tables import (
    BITS_LOW,
    BITS_ROUND,
    BITS_SHIFT,
    DARKEST,
    Table,
)

__all__ = ["index_light", "light_to_yuv420", "to_rgb", "to_screen", "to_ycbcr", "to_yuv420"]

LUMA_CODES, LUMA_ZERO = np.float32(219), np.float32(16.5)
CHROMA_ZERO = np.float32(128.5)
HALF, QUARTER, EIGHTH = np.float32(0.5), np.float32(0.25), np.float32(0.125)
# Of float32: the bits of the darkest and the lightest entry of the table, and of infinity.
DARK, WHITE, INFINITE = (np.float32(one).view(np.int32) for one in (DARKEST, 1, np.inf))
SCREEN_CODES, HALF_UP = np.float32(255), np.float32(0.5)


@inlined
def to_light(values: Any, table: Any, light: Any) -> None:
    """A row of stored values as three lines of light; the last pixel is repeated."""
    red, green, blue = light[0], light[1], light[2]
    width, columns = values.shape[0], red.shape[0]
    for x in range(width):
        red[x], green[x], blue[x] = table[values[x, 0]], table[values[x, 1]], table[values[x, 2]]
    for x in range(width, columns):
        red[x], green[x], blue[x] = red[width - 1], green[width - 1], blue[width - 1]


@inlined
def to_luma(light: Any, y: Any) -> None:
    for x in range(y.shape[0]):
        luma = (light[0, x] * RED + light[1, x] * GREEN) + light[2, x] * BLUE
        y[x] = np.uint8(luma * LUMA_CODES + LUMA_ZERO)


@inlined
def to_chroma(means: Any, cb: Any, cr: Any) -> None:
    for x in range(cb.shape[0]):
        luma = (means[0, x] * RED + means[1, x] * GREEN) + means[2, x] * BLUE
        cb[x] = np.uint8((means[2, x] - luma) * BLUE_SCALE + CHROMA_ZERO)
        cr[x] = np.uint8((means[0, x] - luma) * RED_SCALE + CHROMA_ZERO)


@inlined
def index_row(bits: Any, indexes: Any) -> None:
    """Find light in the table of bits. Above zero, a larger float32 has larger bits."""
    for at in range(indexes.shape[0]):
        value = bits[at] if bits[at] <= INFINITE else DARK
        value = min(max(value, DARK), WHITE)
        indexes[at] = ((value + BITS_ROUND) >> BITS_SHIFT) - BITS_LOW


@inlined
def halve(one: Any, other: Any, sums: Any, pairs: Any, means: Any) -> None:
    """The mean of two lines around each even pixel, weighed 1-2-1.

    sums: scratch. pairs: the same memory, two by two.
    """
    for x in range(one.shape[0]):
        sums[x] = one[x] + other[x]
    before = sums[0]
    for x in range(means.shape[0]):
        middle, after = pairs[x, 0], pairs[x, 1]
        means[x] = ((before + after) + (middle + middle)) * EIGHTH
        before = after


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
    if covered is not None and not is_whole(values) and not is_covered(values, covered):
        return False
    scratch = scratch_for(y.shape[1])
    return fill_yuv420(values, table, y, cb, cr, *as_numbers(values, covered), *scratch)


def scratch_for(columns: int) -> tuple[NDArray[np.float32], ...]:
    """Room for two rows of light as three lines each, sums, the same two by two, and means."""
    light, sums = np.empty((2, 3, columns), np.float32), np.empty(columns, np.float32)
    return light, sums, sums.reshape(-1, 2), np.empty((3, columns // 2), np.float32)


@compiled
def fill_yuv420(
    values: Any,
    table: Any,
    y: Any,
    cb: Any,
    cr: Any,
    pixels: Any,
    shift: Any,
    one: Any,
    light: Any,
    sums: Any,
    pairs: Any,
    means: Any,
) -> bool:
    """pixels: (0, 0) where nothing is asked of alpha. light, sums, pairs, means: scratch."""
    asks = pixels.shape[0] > 0
    for top in range(0, y.shape[0], 2):
        for line in range(2):
            row = min(top + line, values.shape[0] - 1)
            to_light(values[row], table, light[line])
            if asks and not is_row_all(pixels[row], shift, one):  # it is in the cache now
                return False
            to_luma(light[line], y[top + line])
        for channel in range(3):
            halve(light[0, channel], light[1, channel], sums, pairs, means[channel])
        to_chroma(means, cb[top // 2], cr[top // 2])
    return True


@compiled
def fill_yuv420_of_light(
    bits: Any,
    table: Any,
    y: Any,
    cb: Any,
    cr: Any,
    indexes: Any,
    triples: Any,
    light: Any,
    sums: Any,
    pairs: Any,
    means: Any,
) -> None:
    """bits: of float32 light, (h, w * 3).

    indexes and all after them: scratch. indexes, triples: the same memory.
    """
    for top in range(0, y.shape[0], 2):
        for line in range(2):
            index_row(bits[min(top + line, bits.shape[0] - 1)], indexes)
            to_light(triples, table, light[line])
            to_luma(light[line], y[top + line])
        for channel in range(3):
            halve(light[0, channel], light[1, channel], sums, pairs, means[channel])
        to_chroma(means, cb[top // 2], cr[top // 2])


def light_to_yuv420(light: Light, table: Table, y: Codes, cb: Codes, cr: Codes) -> None:
    """The planes of `to_yuv420` for opaque light and the table of bits."""
    width, columns = light.shape[1], y.shape[1]
    indexes = np.empty(width * 3, np.uint16)
    scratch = (indexes, indexes.reshape(-1, 3), *scratch_for(columns))
    fill_yuv420_of_light(bits_of(light), table, y, cb, cr, *scratch)


@compiled
def fill_indexes(bits: Any, indexes: Any) -> None:
    for row in range(bits.shape[0]):
        index_row(bits[row], indexes[row])


def index_light(light: Light, indexes: Integers) -> None:
    """Fill `indexes` of the table of bits for opaque light; what is no number is dark.

    light, indexes: (h, w, 3). Raises ValueError where the indexes' pixels are not in one piece.
    """
    fill_indexes(bits_of(light), np.reshape(indexes, (len(light), -1), copy=False))


def bits_of(light: Light) -> NDArray[np.int32]:
    return np.ascontiguousarray(light).view(np.int32).reshape(len(light), -1)


@compiled
def to_screen(values: Any, table: Any, screen: Any) -> None:
    """Fill a (h, w, 4) uint8 picture with B, G, R, 255: what a screen shows."""
    for row in range(values.shape[0]):
        for x in range(values.shape[1]):
            for channel in range(3):
                code = table[values[row, x, channel]] * SCREEN_CODES + HALF_UP
                screen[row, x, 2 - channel] = np.uint8(code)
            screen[row, x, 3] = np.uint8(255)


@compiled
def fill_rgb(values: Any, table: Any, r: Any, g: Any, b: Any, most: Any, spread: Any) -> None:
    spreads = spread.shape[0] > 1
    added = spread[0, 0]
    for row in range(values.shape[0]):
        for x in range(values.shape[1]):
            if spreads:
                added = spread[row, x]
            r[row, x] = table[values[row, x, 0]] * most + added
            g[row, x] = table[values[row, x, 1]] * most + added
            b[row, x] = table[values[row, x, 2]] * most + added


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
    fill_rgb(values, table, *planes, np.float32(most), spread)


@inlined
def mean_line(light: Any, channel: int, rows: int, mean: Any) -> None:
    """The mean of one channel over one row, or over two."""
    one, other = light[0, channel], light[1, channel]
    for x in range(mean.shape[0]):
        mean[x] = one[x]
    if rows == 2:
        for x in range(mean.shape[0]):
            mean[x] = (mean[x] + other[x]) * HALF


@inlined
def mean_of_three(pairs: Any, means: Any) -> None:
    """The mean around each even pixel of a line, weighed 1-2-1. pairs: the line, two by two."""
    before = pairs[0, 0]
    for x in range(means.shape[0]):
        middle, after = pairs[x, 0], pairs[x, 1]
        means[x] = ((before + after) + (middle + middle)) * QUARTER
        before = after


@inlined
def to_difference(colour: Any, luma: Any, scale: Any, zero: Any, most: Any, codes: Any) -> None:
    for x in range(codes.shape[0]):
        codes[x] = min((colour[x] - luma[x]) * scale + zero[x], most)


@compiled
def fill_ycbcr(
    values: Any,
    table: Any,
    y: Any,
    cb: Any,
    cr: Any,
    scales: Any,
    spread: Any,
    light: Any,
    line: Any,
    pairs: Any,
    means: Any,
    luma: Any,
    foot: Any,
) -> None:
    """scales: nine numbers. light, line, pairs, means, luma, foot: scratch."""
    kr, kg, kb, luma_scale, zero = scales[0], scales[1], scales[2], scales[3], scales[4]
    blue_scale, red_scale, middle, most = scales[5], scales[6], scales[7], scales[8]
    rows, columns = y.shape
    across, down = columns // cb.shape[1], rows // cb.shape[0]
    spreads = spread.shape[0] > 1
    for top in range(0, rows, down):
        for below in range(down):
            to_light(values[min(top + below, values.shape[0] - 1)], table, light[below])
            for x in range(columns):
                foot[x] = zero + (spread[top + below, x] if spreads else spread[0, 0])
            for x in range(columns):
                luma[x] = (light[below, 0, x] * kr + light[below, 1, x] * kg) + light[
                    below, 2, x
                ] * kb
                y[top + below, x] = luma[x] * luma_scale + foot[x]
        for channel in range(3):
            mean_line(light, channel, down, line[channel])
            if across == 2:
                mean_of_three(pairs[channel], means[channel])
            else:
                for x in range(columns):
                    means[channel, x] = line[channel, x]
        for x in range(means.shape[1]):
            luma[x] = (means[0, x] * kr + means[1, x] * kg) + means[2, x] * kb
            foot[x] = middle + (spread[top, x * across] if spreads else spread[0, 0])
        to_difference(means[2], luma, blue_scale, foot, most, cb[top // down])
        to_difference(means[0], luma, red_scale, foot, most, cr[top // down])


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
    kr, kb = (np.float32(one) for one in coefficients)
    step = np.float32(1 << (depth - 8))
    reach, difference, foot = FULL_RANGE if is_full else LIMITED_RANGE
    one, two, colour = np.float32(1), np.float32(2), difference * step
    scales = (
        kr,
        one - kr - kb,
        kb,
        reach * step,
        foot * step,
        colour / (two * (one - kb)),
        colour / (two * (one - kr)),
        np.float32(128) * step,
        np.float32((256 << (depth - 8)) - 1),
    )
    columns = planes[0].shape[1]
    light, line = (np.empty((*lines, columns), np.float32) for lines in ((2, 3), (3,)))
    means = np.empty((3, planes[1].shape[1]), np.float32)
    luma, added = np.empty(columns, np.float32), np.empty(columns, np.float32)
    pairs = line[:, : columns // 2 * 2].reshape(3, -1, 2)  # of an odd width none is asked for
    numbers = np.array(scales, np.float32)
    fill_ycbcr(values, table, *planes, numbers, spread, light, line, pairs, means, luma, added)
