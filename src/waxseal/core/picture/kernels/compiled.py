"""The pixel kernels compiled by Numba: bit for bit what `plain` gives, several times as fast.

Importing this module costs seconds, so it is only done for long work, away
from the thread that waits (see `kernels`). No fast-math: the same bits on
every machine. The loops that matter run over row buffers, which the compiler
vectorises.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

import numba as nb
import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.arrays import Integers, Light
from waxseal.core.picture.colour.curves import (
    BITS_LOW,
    BITS_ROUND,
    BITS_SHIFT,
    DARKEST,
    Table,
)
from waxseal.core.picture.kernels import plain
from waxseal.core.picture.scaling import Weights

__all__ = [
    "blend",
    "divide_alpha",
    "lay_over",
    "look_up",
    "multiply_alpha",
    "resample",
    "to_indexes",
    "to_linear",
    "to_rgb",
    "to_screen",
    "to_ycbcr",
    "to_yuv420",
    "widen",
]

F = TypeVar("F", bound=Callable[..., Any])


def compiled(function: F) -> F:
    """Compiled on its first call, kept on disk from then on; runs without the interpreter."""
    return cast(F, nb.njit(nogil=True, cache=True, fastmath=False, boundscheck=False)(function))


def inlined(function: F) -> F:
    """The same, as a part of those that use it."""
    jit = nb.njit(nogil=True, fastmath=False, boundscheck=False, forceinline=True)
    return cast(F, jit(function))


RED, GREEN, BLUE = plain.RED, plain.GREEN, plain.BLUE
BLUE_SCALE, RED_SCALE = plain.BLUE_SCALE, plain.RED_SCALE
LUMA_CODES, LUMA_ZERO = np.float32(219), np.float32(16.5)
CHROMA_ZERO, EIGHTH = np.float32(128.5), np.float32(0.125)
SCREEN_CODES, HALF_UP = np.float32(255), np.float32(0.5)
ZERO, ONE = np.float32(0), np.float32(1)
DARK = np.float32(DARKEST)
OVER, ADD, MULTIPLY = plain.OVER, plain.ADD, plain.MULTIPLY
MOST_16 = np.float32(65_535)
# Rows that are scaled together: measured. Powers of two make the lines fall on each other
# in the cache.
BAND = 28
BLOCK = 64  # columns that are turned over together


@compiled
def to_yuv420(values: Any, table: Any, y: Any, cb: Any, cr: Any) -> None:
    height, width = values.shape[0], values.shape[1]
    rows, columns = y.shape
    light = np.empty((2, 3, columns), np.float32)
    sums = np.empty((3, columns), np.float32)
    means = np.empty((3, columns // 2), np.float32)
    for top in range(0, rows, 2):
        for line in range(2):
            row = min(top + line, height - 1)
            for x in range(width):
                for channel in range(3):
                    light[line, channel, x] = table[values[row, x, channel]]
            for x in range(width, columns):
                for channel in range(3):
                    light[line, channel, x] = light[line, channel, width - 1]
            for x in range(columns):
                luma = (light[line, 0, x] * RED + light[line, 1, x] * GREEN) + light[
                    line, 2, x
                ] * BLUE
                y[top + line, x] = np.uint8(luma * LUMA_CODES + LUMA_ZERO)
        for channel in range(3):
            for x in range(columns):
                sums[channel, x] = light[0, channel, x] + light[1, channel, x]
            first = sums[channel, 0]
            means[channel, 0] = ((first + sums[channel, 1]) + (first + first)) * EIGHTH
            for x in range(1, columns // 2):
                middle = sums[channel, 2 * x]
                means[channel, x] = (
                    (sums[channel, 2 * x - 1] + sums[channel, 2 * x + 1]) + (middle + middle)
                ) * EIGHTH
        for x in range(columns // 2):
            luma = (means[0, x] * RED + means[1, x] * GREEN) + means[2, x] * BLUE
            cb[top // 2, x] = np.uint8((means[2, x] - luma) * BLUE_SCALE + CHROMA_ZERO)
            cr[top // 2, x] = np.uint8((means[0, x] - luma) * RED_SCALE + CHROMA_ZERO)


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


@compiled
def fill_linear(values: Any, table: Any, alphas: Any, matrix: Any, flags: Any, light: Any) -> None:
    has_matrix, is_straight = flags
    has_alpha = light.shape[2] == 4
    for row in range(values.shape[0]):
        for x in range(values.shape[1]):
            red = table[values[row, x, 0]]
            green = table[values[row, x, 1]]
            blue = table[values[row, x, 2]]
            if has_matrix:
                r = (red * matrix[0, 0] + green * matrix[0, 1]) + blue * matrix[0, 2]
                g = (red * matrix[1, 0] + green * matrix[1, 1]) + blue * matrix[1, 2]
                b = (red * matrix[2, 0] + green * matrix[2, 1]) + blue * matrix[2, 2]
                red, green, blue = r, g, b
            if has_alpha:
                alpha = alphas[values[row, x, 3]]
                light[row, x, 3] = alpha
                if is_straight:
                    red, green, blue = red * alpha, green * alpha, blue * alpha
            light[row, x, 0], light[row, x, 1], light[row, x, 2] = red, green, blue


def to_linear(
    values: Integers,
    table: Table,
    alphas: Table,
    matrix: NDArray[np.float32] | None,
    *,
    is_straight: bool,
    channels: int,
) -> Light:
    light = np.empty((*values.shape[:2], channels), np.float32)
    given = matrix if matrix is not None else np.zeros((3, 3), np.float32)
    fill_linear(values, table, alphas, given, (matrix is not None, is_straight), light)
    return light


# Of scaling, written out so that each inner loop reads some lines at once and none is called:
# they are short. All add up in the order of the plain kernel.


@inlined
def add_four(total: Any, lines: Any, at: int, values: Any, tap: int) -> None:
    w0, w1, w2, w3 = values[tap], values[tap + 1], values[tap + 2], values[tap + 3]
    l0, l1, l2, l3 = lines[at], lines[at + 1], lines[at + 2], lines[at + 3]
    for x in range(total.shape[0]):
        total[x] = (((total[x] + w0 * l0[x]) + w1 * l1[x]) + w2 * l2[x]) + w3 * l3[x]


@inlined
def add_three(total: Any, lines: Any, at: int, values: Any, tap: int) -> None:
    w0, w1, w2 = values[tap], values[tap + 1], values[tap + 2]
    l0, l1, l2 = lines[at], lines[at + 1], lines[at + 2]
    for x in range(total.shape[0]):
        total[x] = ((total[x] + w0 * l0[x]) + w1 * l1[x]) + w2 * l2[x]


@inlined
def add_two(total: Any, lines: Any, at: int, values: Any, tap: int) -> None:
    w0, w1, l0, l1 = values[tap], values[tap + 1], lines[at], lines[at + 1]
    for x in range(total.shape[0]):
        total[x] = (total[x] + w0 * l0[x]) + w1 * l1[x]


@inlined
def add_one(total: Any, lines: Any, at: int, values: Any, tap: int) -> None:
    weight, line = values[tap], lines[at]
    for x in range(total.shape[0]):
        total[x] += weight * line[x]


@inlined
def scale_line(lines: Any, start: int, values: Any, total: Any) -> None:
    """One line out of some."""
    taps = values.shape[0]
    for x in range(total.shape[0]):
        total[x] = ZERO
    tap = 0
    while tap + 4 <= taps:
        add_four(total, lines, start + tap, values, tap)
        tap += 4
    rest = taps - tap
    if rest == 3:
        add_three(total, lines, start + tap, values, tap)
    elif rest == 2:
        add_two(total, lines, start + tap, values, tap)
    elif rest == 1:
        add_one(total, lines, start + tap, values, tap)


@inlined
def turn_over(lines: Any, turned: Any, count: int, width: int, channels: int) -> None:
    """The pixels of some lines below one another; some columns at a time, within the cache."""
    for left in range(0, width, BLOCK):
        right = min(width, left + BLOCK)
        block = turned[left:right]
        for row in range(count):
            line = lines[row, left * channels : right * channels]
            for x in range(block.shape[0]):
                for channel in range(channels):
                    block[x, row * channels + channel] = line[x * channels + channel]


@inlined
def turn_back(turned: Any, made: Any, top: int, count: int) -> None:
    columns, channels = made.shape[1], made.shape[2]
    for left in range(0, columns, BLOCK):
        right = min(columns, left + BLOCK)
        block = turned[left:right]
        for row in range(count):
            line = made[top + row, left:right]
            for x in range(block.shape[0]):
                for channel in range(channels):
                    line[x, channel] = block[x, row * channels + channel]


@compiled
def scale_bands(
    lines: Any, starts: Any, values: Any, starts_across: Any, values_across: Any, made: Any
) -> None:
    """Some rows at a time, so that they can be turned over and back within the cache."""
    height, width, channels = lines.shape
    flat = lines.reshape(height, width * channels)
    rows, columns = made.shape[0], made.shape[1]
    tall = np.empty((BAND, width * channels), np.float32)
    turned = np.empty((width, BAND * channels), np.float32)
    wide = np.empty((columns, BAND * channels), np.float32)
    for top in range(0, rows, BAND):
        count = min(BAND, rows - top)
        for row in range(count):
            scale_line(flat, starts[top + row], values[top + row], tall[row])
        turn_over(tall, turned, count, width, channels)
        for x in range(columns):
            scale_line(turned, starts_across[x], values_across[x], wide[x])
        turn_back(wide, made, top, count)


def resample(light: Light, down: Weights, across: Weights) -> Light:
    made = np.empty((len(down.starts), len(across.starts), light.shape[2]), np.float32)
    lines = np.ascontiguousarray(light)
    scale_bands(lines, down.starts, down.values, across.starts, across.values, made)
    return made


@compiled
def lay_over(front: Any, ground: Any, indexes: Any) -> None:
    height, width, channels = front.shape
    line = np.empty(width * 3, np.float32)
    bits = line.view(np.int32)
    flat = indexes.reshape(height, width * 3)
    for row in range(height):
        if channels == 4:
            for x in range(width):
                clear = ONE - min(max(front[row, x, 3], ZERO), ONE)
                for channel in range(3):
                    value = front[row, x, channel] + ground[channel] * clear
                    line[3 * x + channel] = min(max(value, DARK), ONE)
        else:
            whole = front[row].reshape(width * 3)
            for at in range(width * 3):
                line[at] = min(max(whole[at], DARK), ONE)
        for at in range(width * 3):
            flat[row, at] = np.uint16(((bits[at] + BITS_ROUND) >> BITS_SHIFT) - BITS_LOW)


@compiled
def blend_rows(canvas: Any, front: Any, column: int, line: int, part: Any, mode: int) -> None:
    height, width, channels = front.shape
    for row in range(height):
        for x in range(width):
            alpha = front[row, x, 3] * part if channels == 4 else part
            clear = ONE - min(max(alpha, ZERO), ONE)
            for channel in range(3):
                light = front[row, x, channel] * part
                under = canvas[line + row, column + x, channel]
                if mode == OVER:
                    value = light + under * clear
                elif mode == ADD:
                    value = under + light
                elif mode == MULTIPLY:
                    value = under * (clear + light)
                else:
                    value = under + light * (ONE - min(under, ONE))
                canvas[line + row, column + x, channel] = value
            if canvas.shape[2] == 4 and mode != MULTIPLY:
                below = canvas[line + row, column + x, 3]
                canvas[line + row, column + x, 3] = (ONE - clear) + below * clear


@compiled
def over_rows(canvas: Any, front: Any, column: int, line: int, part: Any) -> None:
    """Over, of a picture with alpha on an opaque canvas: nearly every layer, without branches."""
    height, width = front.shape[0], front.shape[1]
    for row in range(height):
        for x in range(width):
            clear = ONE - min(max(front[row, x, 3] * part, ZERO), ONE)
            under = canvas[line + row, column + x]
            under[0] = front[row, x, 0] * part + under[0] * clear
            under[1] = front[row, x, 1] * part + under[1] * clear
            under[2] = front[row, x, 2] * part + under[2] * clear


def blend(canvas: Light, front: Light, at: tuple[int, int], opacity: float, mode: int) -> None:
    if mode == OVER and front.shape[2] == 4 and canvas.shape[2] == 3:
        over_rows(canvas, front, at[0], at[1], np.float32(opacity))
    else:
        blend_rows(canvas, front, at[0], at[1], np.float32(opacity), mode)


@compiled
def divide_alpha(light: Any) -> None:
    for row in range(light.shape[0]):
        for x in range(light.shape[1]):
            alpha = light[row, x, 3]
            if alpha > ZERO:
                for channel in range(3):
                    light[row, x, channel] = light[row, x, channel] / alpha


@compiled
def multiply_alpha(light: Any) -> None:
    for row in range(light.shape[0]):
        for x in range(light.shape[1]):
            alpha = light[row, x, 3]
            if alpha > ZERO:
                for channel in range(3):
                    light[row, x, channel] = light[row, x, channel] * alpha


@compiled
def to_indexes(encoded: Any, indexes: Any) -> None:
    for row in range(encoded.shape[0]):
        for x in range(encoded.shape[1]):
            for channel in range(3):
                # What is no number is not above zero.
                value = encoded[row, x, channel]
                value = value if value > ZERO else ZERO
                value = value if value < ONE else ONE
                indexes[row, x, channel] = np.uint16(value * MOST_16 + HALF_UP)


BEND, AXIS_DARK, AXIS_BRIGHT = plain.AXIS_BEND, plain.AXIS_DARK, plain.AXIS_BRIGHT
AXIS_LONG = np.float32(plain.AXIS_LONG)
EXPONENT, MANTISSA, UNIT = plain.EXPONENT, plain.MANTISSA, plain.UNIT
FIRST_EXPONENT = plain.FIRST_EXPONENT


@compiled
def look_up(light: Any, matrix: Any, grid: Any, rough: Any, shown: Any, unsure: Any) -> None:
    height, width = light.shape[0], light.shape[1]
    scale, most = np.float32(len(grid) - 1) / AXIS_LONG, len(grid) - 2
    line = np.empty((3, width), np.float32)
    bits = line.view(np.int32)
    # One step along each axis in the grid as one row of numbers: red is farthest apart.
    flat, near = grid.reshape(-1), len(grid) * 3
    far = near * len(grid)
    last = far + near + 3
    for row in range(height):
        for x in range(width):
            red, green, blue = light[row, x, 0], light[row, x, 1], light[row, x, 2]
            for axis in range(3):
                value = (red * matrix[axis, 0] + green * matrix[axis, 1]) + blue * matrix[axis, 2]
                value = value if value > ZERO else ZERO
                value = value if value < AXIS_BRIGHT else AXIS_BRIGHT
                line[axis, x] = value + AXIS_DARK
        for axis in range(3):
            for x in range(width):
                stop = np.float32((bits[axis, x] >> EXPONENT) - FIRST_EXPONENT)
                m = np.float32(bits[axis, x] & MANTISSA) * UNIT
                line[axis, x] = ((stop + m) + (BEND * m) * (ONE - m)) * scale
        for x in range(width):
            i: Any = min(np.int32(line[0, x]), most)
            j: Any = min(np.int32(line[1, x]), most)
            k: Any = min(np.int32(line[2, x]), most)
            u = min(line[0, x] - np.float32(i), ONE)
            v = min(line[1, x] - np.float32(j), ONE)
            w = min(line[2, x] - np.float32(k), ONE)
            unsure[row, x] = rough[i, j, k]
            # The way from the cell's first corner to its last, the longest part first.
            if u >= v:
                if v >= w:
                    p, q, r, a, b = u, v, w, far, far + near
                elif u >= w:
                    p, q, r, a, b = u, w, v, far, far + 3
                else:
                    p, q, r, a, b = w, u, v, 3, far + 3
            elif u >= w:
                p, q, r, a, b = v, u, w, near, far + near
            elif v >= w:
                p, q, r, a, b = v, w, u, near, near + 3
            else:
                p, q, r, a, b = w, v, u, 3, near + 3
            first = i * far + j * near + k * 3
            whole, one, two = ONE - p, p - q, q - r
            for channel in range(3):
                at = first + channel
                shown[row, x, channel] = (
                    (flat[at] * whole + flat[at + a] * one) + flat[at + b] * two
                ) + flat[at + last] * r


@compiled
def widen(light: Any, four: Any) -> None:
    for row in range(light.shape[0]):
        for x in range(light.shape[1]):
            four[row, x, 0] = light[row, x, 0]
            four[row, x, 1] = light[row, x, 1]
            four[row, x, 2] = light[row, x, 2]
            four[row, x, 3] = ONE


@compiled
def fill_ycbcr(values: Any, table: Any, y: Any, cb: Any, cr: Any, scales: Any, spread: Any) -> None:
    kr, kg, kb, luma_scale, zero, blue_scale, red_scale, middle, most = scales
    height, width = values.shape[0], values.shape[1]
    rows, columns = y.shape
    across, down = columns // cb.shape[1], rows // cb.shape[0]
    spreads = spread.shape[0] > 1
    half, quarter = np.float32(0.5), np.float32(0.25)
    light = np.empty((2, 3, columns), np.float32)
    mean = np.empty((3, columns), np.float32)
    added = spread[0, 0]
    for top in range(0, rows, down):
        for line in range(down):
            row = min(top + line, height - 1)
            for x in range(columns):
                for channel in range(3):
                    light[line, channel, x] = table[values[row, min(x, width - 1), channel]]
            for x in range(columns):
                luma = (light[line, 0, x] * kr + light[line, 1, x] * kg) + light[line, 2, x] * kb
                if spreads:
                    added = spread[top + line, x]
                y[top + line, x] = luma * luma_scale + (zero + added)
        for channel in range(3):
            for x in range(columns):
                mean[channel, x] = light[0, channel, x]
                if down == 2:
                    mean[channel, x] = (light[0, channel, x] + light[1, channel, x]) * half
        for x in range(columns // across):
            at = x * across
            red, green, blue = mean[0, at], mean[1, at], mean[2, at]
            if across == 2:
                before = max(at - 1, 0)
                red = (mean[0, before] + mean[0, at + 1] + (red + red)) * quarter
                green = (mean[1, before] + mean[1, at + 1] + (green + green)) * quarter
                blue = (mean[2, before] + mean[2, at + 1] + (blue + blue)) * quarter
            luma = (red * kr + green * kg) + blue * kb
            if spreads:
                added = spread[top, at]
            cb[top // down, x] = min((blue - luma) * blue_scale + (middle + added), most)
            cr[top // down, x] = min((red - luma) * red_scale + (middle + added), most)


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
    fill_ycbcr(values, table, *planes, scales, spread)
