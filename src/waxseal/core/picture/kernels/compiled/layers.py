"""Stored values to light, and light over light."""

from __future__ import annotations

from typing import Any

import numpy as np

from waxseal.core.picture.arrays import Light
from waxseal.core.picture.colour.curves import BITS_LOW, BITS_ROUND, BITS_SHIFT, DARKEST
from waxseal.core.picture.kernels import plain
from waxseal.core.picture.kernels.compiled.jit import compiled, inlined
from waxseal.core.picture.kernels.stored import Stored

__all__ = [
    "blend",
    "divide_alpha",
    "lay_over",
    "lay_stored",
    "multiply_alpha",
    "to_linear",
    "widen",
]

ZERO, ONE = np.float32(0), np.float32(1)
DARK = np.float32(DARKEST)
NOT_TURNED = np.eye(3, dtype=np.float32)
OVER, ADD, MULTIPLY = plain.OVER, plain.ADD, plain.MULTIPLY


@inlined
def turn(red: Any, green: Any, blue: Any, matrix: Any) -> Any:
    """A colour in other primaries. The matrix is nine numbers: an array would be counted."""
    xr, xg, xb, yr, yg, yb, zr, zg, zb = matrix
    return (
        (red * xr + green * xg) + blue * xb,
        (red * yr + green * yg) + blue * yb,
        (red * zr + green * zg) + blue * zb,
    )


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
                red, green, blue = turn(red, green, blue, matrix)
            if has_alpha:
                alpha = alphas[values[row, x, 3]]
                light[row, x, 3] = alpha
                if is_straight:
                    red, green, blue = red * alpha, green * alpha, blue * alpha
            light[row, x, 0], light[row, x, 1], light[row, x, 2] = red, green, blue


@compiled
def over_stored(
    values: Any, table: Any, alphas: Any, matrix: Any, flags: Any, canvas: Any, part: Any
) -> None:
    # As in fill_linear, and written out: an array that is handed on in a loop would be counted.
    has_matrix, is_straight = flags
    for row in range(values.shape[0]):
        for x in range(values.shape[1]):
            red = table[values[row, x, 0]]
            green = table[values[row, x, 1]]
            blue = table[values[row, x, 2]]
            alpha = alphas[values[row, x, 3]]
            if has_matrix:
                red, green, blue = turn(red, green, blue, matrix)
            if is_straight:
                red, green, blue = red * alpha, green * alpha, blue * alpha
            clear = ONE - min(max(alpha * part, ZERO), ONE)
            canvas[row, x, 0] = red * part + canvas[row, x, 0] * clear
            canvas[row, x, 1] = green * part + canvas[row, x, 1] * clear
            canvas[row, x, 2] = blue * part + canvas[row, x, 2] * clear


def to_linear(stored: Stored) -> Light:
    light = np.empty((*stored.values.shape[:2], stored.channels), np.float32)
    fill_linear(*parts_of(stored), light)
    return light


def parts_of(stored: Stored) -> tuple[Any, Any, Any, Any, Any]:
    """A stored picture as the compiler takes it."""
    matrix = stored.matrix if stored.matrix is not None else NOT_TURNED
    flags = (stored.matrix is not None, stored.is_straight)
    return stored.values, stored.table, stored.alphas, tuple(matrix.ravel()), flags


def lay_stored(canvas: Light, stored: Stored, opacity: float) -> None:
    over_stored(*parts_of(stored), canvas, np.float32(opacity))


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
def widen(light: Any, four: Any) -> None:
    for row in range(light.shape[0]):
        for x in range(light.shape[1]):
            four[row, x, 0] = light[row, x, 0]
            four[row, x, 1] = light[row, x, 1]
            four[row, x, 2] = light[row, x, 2]
            four[row, x, 3] = ONE
