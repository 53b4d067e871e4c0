"""Stored values to light, and light over light."""

from __future__ import annotations

from typing import Any

import numpy as np

from waxseal.core.picture.arrays import Light
from waxseal.core.picture.kernels.compiling import compiled, inlined
from waxseal.core.picture.kernels.constants import ADD, ADDED, CLEAR, MULTIPLY, OVER
from waxseal.core.picture.kernels.opaque import as_numbers, is_covered, is_row_all, is_whole
from waxseal.core.picture.kernels.stored_picture import StoredPicture

__all__ = [
    "blend",
    "divide_alpha",
    "keep_added",
    "lay_stored",
    "mark_clear",
    "multiply_alpha",
    "narrow",
    "to_linear",
    "widen",
]

ZERO, ONE = np.float32(0), np.float32(1)
NOT_TURNED = np.eye(3, dtype=np.float32)
NO_MARK, CLEAR_MARK, ADDED_MARK = np.uint8(0), np.uint8(CLEAR), np.uint8(ADDED)


@inlined
def numbers_of(matrix: Any) -> Any:
    """Read before the loop: nothing that the loop writes can change them."""
    x, y, z = matrix[0], matrix[1], matrix[2]
    return x[0], x[1], x[2], y[0], y[1], y[2], z[0], z[1], z[2]


@inlined
def in_primaries(red: Any, green: Any, blue: Any, numbers: Any) -> Any:
    """A colour in other primaries."""
    xr, xg, xb, yr, yg, yb, zr, zg, zb = numbers
    return (
        (red * xr + green * xg) + blue * xb,
        (red * yr + green * yg) + blue * yb,
        (red * zr + green * zg) + blue * zb,
    )


@compiled
def fill_linear(
    values: Any,
    table: Any,
    alphas: Any,
    matrix: Any,
    has_matrix: Any,
    is_straight: Any,
    light: Any,
    pixels: Any,
    shift: Any,
    one: Any,
) -> bool:
    """False: not all pixels are opaque, and the light holds nothing of use.

    pixels, shift, one: what `as_numbers` gives.
    """
    numbers = numbers_of(matrix)
    has_alpha = light.shape[2] == 4
    asks = pixels.shape[0] > 0
    for row in range(values.shape[0]):
        if asks and not is_row_all(pixels[row], shift, one):
            return False
        for x in range(values.shape[1]):
            red = table[values[row, x, 0]]
            green = table[values[row, x, 1]]
            blue = table[values[row, x, 2]]
            if has_matrix:
                red, green, blue = in_primaries(red, green, blue, numbers)
            if has_alpha:
                alpha = alphas[values[row, x, 3]]
                light[row, x, 3] = alpha
                if is_straight:
                    red, green, blue = red * alpha, green * alpha, blue * alpha
            light[row, x, 0], light[row, x, 1], light[row, x, 2] = red, green, blue
    return True


@compiled
def over_stored(
    values: Any,
    table: Any,
    alphas: Any,
    matrix: Any,
    has_matrix: Any,
    is_straight: Any,
    canvas: Any,
    part: Any,
) -> None:
    numbers = numbers_of(matrix)
    for row in range(values.shape[0]):
        for x in range(values.shape[1]):
            red = table[values[row, x, 0]]
            green = table[values[row, x, 1]]
            blue = table[values[row, x, 2]]
            alpha = alphas[values[row, x, 3]]
            if has_matrix:
                red, green, blue = in_primaries(red, green, blue, numbers)
            if is_straight:
                red, green, blue = red * alpha, green * alpha, blue * alpha
            clear = ONE - min(max(alpha * part, ZERO), ONE)
            canvas[row, x, 0] = red * part + canvas[row, x, 0] * clear
            canvas[row, x, 1] = green * part + canvas[row, x, 1] * clear
            canvas[row, x, 2] = blue * part + canvas[row, x, 2] * clear


def to_linear(stored: StoredPicture) -> Light:
    """Scene-linear premultiplied light of a stored picture."""
    values, parts = stored.values, parts_of(stored)
    covered = stored.covered
    if covered is not None and (is_whole(values) or is_covered(values, covered)):
        light = np.empty((*values.shape[:2], 3), np.float32)
        if fill_linear(*parts, light, *as_numbers(values, covered)):
            return light
    light = np.empty((*values.shape[:2], stored.channels), np.float32)
    fill_linear(*parts, light, *as_numbers(values, None))
    return light


def parts_of(stored: StoredPicture) -> tuple[Any, Any, Any, Any, bool, bool]:
    """A stored picture as the kernels take it."""
    has_matrix = stored.matrix is not None
    matrix = stored.matrix if has_matrix else NOT_TURNED
    return stored.values, stored.table, stored.alphas, matrix, has_matrix, stored.is_straight


def lay_stored(canvas: Light, stored: StoredPicture, opacity: float) -> None:
    """Lay a stored picture with alpha over an opaque canvas of its size, (h, w, 3), in place."""
    over_stored(*parts_of(stored), canvas, np.float32(opacity))


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
    """Lay a picture over, add, multiply or screen it; the canvas is changed in place.

    canvas: (H, W, 3 or 4), front: (h, w, 3 or 4), both premultiplied; at: the
        column and row of front's first pixel, all of which lie inside the canvas.
    mode: OVER, ADD, MULTIPLY or SCREEN. What is above one is not clipped; screen adds
        nothing where the canvas is at one already.
    Source: Porter & Duff 1984 for over and add (plus); the rest as the trade has them.
    """
    if mode == OVER and front.shape[2] == 4 and canvas.shape[2] == 3:
        over_rows(canvas, front, at[0], at[1], np.float32(opacity))
    else:
        blend_rows(canvas, front, at[0], at[1], np.float32(opacity), mode)


@compiled
def divide_alpha(light: Any) -> None:
    """Premultiplied to straight, in place; what is clear stays as it is. (h, w, 4)."""
    for row in range(light.shape[0]):
        for x in range(light.shape[1]):
            alpha = light[row, x, 3]
            if alpha > ZERO:
                for channel in range(3):
                    light[row, x, channel] = light[row, x, channel] / alpha


@compiled
def multiply_alpha(light: Any) -> None:
    """Straight to premultiplied, in place; what is clear stays as it is. (h, w, 4)."""
    for row in range(light.shape[0]):
        for x in range(light.shape[1]):
            alpha = light[row, x, 3]
            if alpha > ZERO:
                for channel in range(3):
                    light[row, x, channel] = light[row, x, channel] * alpha


@compiled
def mark_clear(light: Any, marks: Any) -> bool:
    """Where premultiplied light is clear: CLEAR, or ADDED where it has colour none the less.

    marks: (h, w), uint8. Returns whether it is anywhere.
    """
    is_anywhere = False
    for row in range(light.shape[0]):
        for x in range(light.shape[1]):
            red, green, blue = light[row, x, 0], light[row, x, 1], light[row, x, 2]
            mark = NO_MARK
            if light[row, x, 3] <= ZERO:
                is_anywhere = True
                has_colour = red != ZERO or green != ZERO or blue != ZERO
                mark = ADDED_MARK if has_colour else CLEAR_MARK
            marks[row, x] = mark
    return is_anywhere


@compiled
def keep_added(light: Any, marks: Any, black: Any) -> None:
    """Where a picture is clear, subtract from colour what a transform makes of black.

    A pixel that had no colour before gets none.
    """
    for row in range(light.shape[0]):
        for x in range(light.shape[1]):
            if marks[row, x] == CLEAR_MARK:
                light[row, x, 0], light[row, x, 1], light[row, x, 2] = ZERO, ZERO, ZERO
            elif marks[row, x] == ADDED_MARK:
                for channel in range(3):
                    light[row, x, channel] = light[row, x, channel] - black[channel]


@compiled
def widen(light: Any, four: Any) -> None:
    """(h, w, 3) into (h, w, 4), opaque."""
    for row in range(light.shape[0]):
        for x in range(light.shape[1]):
            four[row, x, 0] = light[row, x, 0]
            four[row, x, 1] = light[row, x, 1]
            four[row, x, 2] = light[row, x, 2]
            four[row, x, 3] = ONE


@compiled
def narrow(four: Any, light: Any) -> None:
    """(h, w, 4) into (h, w, 3), without alpha."""
    for row in range(light.shape[0]):
        for x in range(light.shape[1]):
            light[row, x, 0] = four[row, x, 0]
            light[row, x, 1] = four[row, x, 1]
            light[row, x, 2] = four[row, x, 2]
