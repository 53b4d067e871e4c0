"""Light to what a display shows: through a table, and to indexes of one."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.arrays import Light
from waxseal.core.picture.kernels.compiling import compiled, inlined
from waxseal.core.picture.kernels.constants import (
    AXIS_BEND,
    AXIS_BRIGHT,
    AXIS_DARK,
    AXIS_FIRST_STOP,
    AXIS_LONG,
)

if TYPE_CHECKING:
    from waxseal.core.picture.colour.display_values import PiecewiseCurve

__all__ = ["bend", "look_up", "to_indexes"]

ZERO, ONE = np.float32(0), np.float32(1)
MOST_16, HALF_UP = np.float32(65_535), np.float32(0.5)
# Whole numbers of 32 bits, so that several are worked out at once.
EXPONENT, MANTISSA, UNIT = np.int32(23), np.int32(0x7FFFFF), np.float32(2.0**-23)
FIRST_EXPONENT = np.int32(127 + AXIS_FIRST_STOP)
AXIS_STOPS = np.float32(AXIS_LONG)
TOGETHER = 1024  # numbers, whole pixels: what is worked out for them stays in the nearest cache
U = np.uint32  # of indexes: nobody has to ask whether one counts from the end


@compiled
def to_indexes(encoded: Any, indexes: Any) -> None:
    """Encoded 0..1 to 16-bit integers for `whole_table`; (h, w, 3 or 4). No number is 0."""
    for row in range(encoded.shape[0]):
        for x in range(encoded.shape[1]):
            for channel in range(3):
                # What is no number is not above zero.
                value = encoded[row, x, channel]
                value = value if value > ZERO else ZERO
                value = value if value < ONE else ONE
                indexes[row, x, channel] = np.uint16(value * MOST_16 + HALF_UP)


@inlined
def bend_values(
    light: Any,
    values: Any,
    steps: Any,
    first: Any,
    shift: Any,
    ends: Any,
    sizes: Any,
    bits: Any,
    lows: Any,
    slopes: Any,
) -> None:
    """Bend some numbers, in place. Only the look-ups in the tables are done one by one."""
    count, foot, most = light.shape[0], ends[0], ends[1]
    begin, inside = np.int32(first << shift), np.int32((1 << shift) - 1)
    for at in range(count):
        size = abs(light[at])
        size = size if size > ZERO else ZERO  # what is no number is not above zero
        sizes[at] = size if size < most else most
    for at in range(count):
        piece = max((bits[at] >> shift) - first, 0)
        lows[at], slopes[at] = values[piece], steps[piece]
    for at in range(count):
        bent = lows[at] + slopes[at] * np.float32(np.int32(bits[at] & inside))
        bent = sizes[at] * foot if bits[at] < begin else bent
        light[at] = -bent if light[at] < ZERO else bent


@compiled
def bend_rows(
    light: Any,
    has_alpha: Any,
    values: Any,
    steps: Any,
    first: Any,
    shift: Any,
    ends: Any,
    alphas: Any,
    sizes: Any,
    bits: Any,
    lows: Any,
    slopes: Any,
) -> None:
    """light: (h, w * 3 or 4). alphas and what follows: scratch; sizes, bits: the same memory.

    ends: how steep the foot is, and where the last piece ends.
    """
    together = sizes.shape[0]
    for row in range(light.shape[0]):
        for start in range(0, light.shape[1], together):
            part = light[row, start : start + together]
            if has_alpha:
                for at in range(part.shape[0] // 4):
                    alphas[at] = part[4 * at + 3]
            bend_values(part, values, steps, first, shift, ends, sizes, bits, lows, slopes)
            if has_alpha:
                for at in range(part.shape[0] // 4):
                    part[4 * at + 3] = alphas[at]


def bend(light: Light, curve: PiecewiseCurve) -> None:
    """Take light through a curve in straight pieces, in place. Alpha stays.

    Raises ValueError where the pixels of the light are not in one piece.
    """
    ends = np.array((curve.foot, curve.most), np.float32)
    first, shift = np.int32(curve.first), np.int32(curve.shift)
    alphas, sizes, lows, slopes = np.empty((4, TOGETHER), np.float32)
    scratch = (alphas, sizes, sizes.view(np.int32), lows, slopes)
    flat = np.reshape(light, (len(light), -1), copy=False)
    has_alpha = light.shape[2] == 4
    bend_rows(flat, has_alpha, curve.values, curve.steps, first, shift, ends, *scratch)


@inlined
def to_axes(light: Any, matrix: Any, line: Any) -> None:
    """A row of light on the axes of a table, within their bounds."""
    for x in range(light.shape[0]):
        red, green, blue = light[x, 0], light[x, 1], light[x, 2]
        for axis in range(3):
            value = (red * matrix[axis, 0] + green * matrix[axis, 1]) + blue * matrix[axis, 2]
            value = value if value > ZERO else ZERO
            value = value if value < AXIS_BRIGHT else AXIS_BRIGHT
            line[axis, x] = value + AXIS_DARK


@inlined
def to_places(bits: Any, scale: Any, places: Any) -> None:
    """Where light is on an axis, in points from its beginning; bits: of the same numbers."""
    for x in range(bits.shape[0]):
        stop = np.float32(np.int32(bits[x] >> EXPONENT) - FIRST_EXPONENT)
        m = np.float32(bits[x] & MANTISSA) * UNIT
        places[x] = ((stop + m) + (AXIS_BEND * m) * (ONE - m)) * scale


@compiled
def find_colours(
    light: Any,
    matrix: Any,
    flat: Any,
    cells: Any,
    points: int,
    after_one: Any,
    after_two: Any,
    shown: Any,
    unsure: Any,
    line: Any,
    bits: Any,
    places: Any,
) -> None:
    """flat, cells: a grid of so many points a side and its rough cells, each as one row.

    after_one, after_two: see `look_up`. line, bits, places: (3, w), scratch; the first two are
    the same memory.
    """
    height, width = light.shape[0], light.shape[1]
    scale, most = np.float32(points - 1) / AXIS_STOPS, np.float32(points - 2)
    long, near, far = U(points - 1), U(points * 3), U(points * points * 3)
    last = far + near + U(3)
    for row in range(height):
        to_axes(light[row], matrix, line)
        for axis in range(3):
            to_places(bits[axis], scale, places[axis])
        for x in range(width):
            i = U(np.int32(min(places[0, x], most)))
            j = U(np.int32(min(places[1, x], most)))
            k = U(np.int32(min(places[2, x], most)))
            u = min(places[0, x] - np.float32(i), ONE)
            v = min(places[1, x] - np.float32(j), ONE)
            w = min(places[2, x] - np.float32(k), ONE)
            unsure[row, x] = cells[(i * long + j) * long + k]
            # The way from the cell's first corner to its last, the longest part first. Without
            # branches: which is the longest changes from pixel to pixel.
            p, r = max(max(u, v), w), min(min(u, v), w)
            q = max(min(u, v), min(max(u, v), w))
            order = U((u >= v) * 4 + (u >= w) * 2 + (v >= w))
            first = i * far + j * near + k * U(3)
            one, two, end = first + after_one[order], first + after_two[order], first + last
            a, b, c = ONE - p, p - q, q - r
            for channel in range(3):
                at = U(channel)
                shown[row, x, channel] = (
                    (flat[first + at] * a + flat[one + at] * b) + flat[two + at] * c
                ) + flat[end + at] * r


def look_up(
    light: Light,
    matrix: NDArray[np.float32],
    grid: NDArray[np.float32],
    rough: NDArray[np.uint8],
    shown: Light,
    unsure: NDArray[np.uint8],
) -> None:
    """Fill `shown`, (h, w, 3), with what a table says of light, (h, w, 3 or 4).

    matrix: (3, 3), to the axes' primaries. grid: (n, n, n, 3). rough: (n - 1, n - 1, n - 1).
    unsure: (h, w), gets what `rough` says of the cell that is looked into.
    Interpolated in the tetrahedra around the diagonal of each cell.
    Source: Kasson, Nin, Plouffe & Hafner 1995.
    """
    points, width = len(grid), light.shape[1]
    line, places = np.empty((3, width), np.float32), np.empty((3, width), np.float32)
    # One step along each axis in the grid as one row of numbers: red is farthest apart.
    near, far = points * 3, points * points * 3
    # Where one step and two steps lead, by which parts are the longer ones; two are impossible.
    one = np.array([3, near, 0, near, 3, 0, far, far], U)
    two = np.array([near + 3, near + 3, 0, far + near, far + 3, 0, far + 3, far + near], U)
    table = (grid.reshape(-1), rough.reshape(-1), points, one, two)
    find_colours(light, matrix, *table, shown, unsure, line, line.view(np.int32), places)
