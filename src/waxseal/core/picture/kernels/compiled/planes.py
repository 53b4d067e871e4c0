"""Turns stored values, by a table, into planes for an encoder or a screen."""

from __future__ import annotations

import sys
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.machine.kernel import compiled, inlined
from waxseal.core.picture.arrays import Codes, Integers
from waxseal.core.picture.colour.curves import Table
from waxseal.core.picture.kernels import plain

__all__ = ["is_covered", "to_rgb", "to_screen", "to_ycbcr", "to_yuv420"]

RED, GREEN, BLUE = plain.RED, plain.GREEN, plain.BLUE
BLUE_SCALE, RED_SCALE = plain.BLUE_SCALE, plain.RED_SCALE
LUMA_CODES, LUMA_ZERO = np.float32(219), np.float32(16.5)
CHROMA_ZERO = np.float32(128.5)
HALF, QUARTER, EIGHTH = np.float32(0.5), np.float32(0.25), np.float32(0.125)
SCREEN_CODES, HALF_UP = np.float32(255), np.float32(0.5)


@inlined
def is_row_all(pixels: Any, shift: Any, one: Any) -> Any:
    """Whether every pixel has `one` in the bits above `shift`."""
    every = some = pixels[0]
    for x in range(pixels.shape[0]):
        every &= pixels[x]
        some |= pixels[x]
    return (every >> shift) == one and (some >> shift) == one


@compiled
def are_all(pixels: Any, shift: Any, one: Any) -> bool:
    for row in range(pixels.shape[0]):  # noqa: SIM110 - a generator does not compile
        if not is_row_all(pixels[row], shift, one):
            return False
    return True


def is_covered(values: Integers, one: int) -> bool:
    if not is_whole(values):
        return plain.is_covered(values, one)
    return are_all(*as_numbers(values, one))


def is_whole(values: Integers) -> bool:
    """Whether a pixel can be read as one number, whose upper bits are its alpha."""
    return values.shape[2] == 4 and values.flags.c_contiguous and sys.byteorder == "little"


def as_numbers(values: Integers, one: int | None) -> tuple[NDArray[Any], Any, Any]:
    """Pixels as numbers, (h, w), the place of alpha in them, and what it has to be.

    None: no pixels, as nothing is asked of them.
    """
    number = np.uint32 if values.dtype == np.uint8 else np.uint64
    pixels = np.empty((0, 0), number) if one is None else values.view(number)[..., 0]
    return pixels, number(24 * values.itemsize), number(one or 0)


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
    if covered is not None and not is_whole(values):
        return plain.is_covered(values, covered) and to_yuv420(values, table, y, cb, cr)
    columns = y.shape[1]
    light, sums = np.empty((2, 3, columns), np.float32), np.empty(columns, np.float32)
    means = np.empty((3, columns // 2), np.float32)
    scratch = (light, sums, sums.reshape(-1, 2), means)
    return fill_yuv420(values, table, y, cb, cr, *as_numbers(values, covered), *scratch)


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
    rows, columns = y.shape
    asks = pixels.shape[0] > 0
    for top in range(0, rows, 2):
        for line in range(2):
            row = min(top + line, values.shape[0] - 1)
            to_light(values[row], table, light[line])
            if asks and not is_row_all(pixels[row], shift, one):  # it is in the cache now
                return False
            for x in range(columns):
                luma = (light[line, 0, x] * RED + light[line, 1, x] * GREEN) + light[
                    line, 2, x
                ] * BLUE
                y[top + line, x] = np.uint8(luma * LUMA_CODES + LUMA_ZERO)
        for channel in range(3):
            halve(light[0, channel], light[1, channel], sums, pairs, means[channel])
        for x in range(columns // 2):
            luma = (means[0, x] * RED + means[1, x] * GREEN) + means[2, x] * BLUE
            cb[top // 2, x] = np.uint8((means[2, x] - luma) * BLUE_SCALE + CHROMA_ZERO)
            cr[top // 2, x] = np.uint8((means[0, x] - luma) * RED_SCALE + CHROMA_ZERO)
    return True


@compiled
def to_screen(values: Any, table: Any, screen: Any) -> None:
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
    kr, kb = (np.float32(one) for one in coefficients)
    step = np.float32(1 << (depth - 8))
    reach, difference, foot = plain.FULL if is_full else plain.LIMITED
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
