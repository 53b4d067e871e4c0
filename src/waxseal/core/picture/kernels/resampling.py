"""Scaling: lines first, then pixels in a line."""

from __future__ import annotations

from typing import Any

import numpy as np

from waxseal.core.picture.arrays import Light
from waxseal.core.picture.kernels.compiling import compiled, inlined
from waxseal.core.picture.scale_weights import Weights

__all__ = ["resample"]

ZERO = np.float32(0)
# Rows that are scaled together: measured. Powers of two make the lines fall on each other
# in the cache.
BAND = 28
BLOCK = 64  # columns that are turned over together


# Written out, so that each inner loop reads some lines at once. All add up in the same order.


@inlined
def begin_with_six(total: Any, lines: Any, at: int, values: Any) -> None:
    w0, w1, w2, w3, w4, w5 = values[0], values[1], values[2], values[3], values[4], values[5]
    l0, l1, l2 = lines[at], lines[at + 1], lines[at + 2]
    l3, l4, l5 = lines[at + 3], lines[at + 4], lines[at + 5]
    for x in range(total.shape[0]):
        three = ((ZERO + w0 * l0[x]) + w1 * l1[x]) + w2 * l2[x]
        total[x] = ((three + w3 * l3[x]) + w4 * l4[x]) + w5 * l5[x]


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
    tap = 0
    if taps >= 6:  # as many as the sharp filter has where a picture grows
        begin_with_six(total, lines, start, values)
        tap = 6
    else:
        for x in range(total.shape[0]):
            total[x] = ZERO
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
def raise_to(least: Any, line: Any) -> None:
    for x in range(line.shape[0]):
        line[x] = least if line[x] < least else line[x]  # what is no number stays so


@inlined
def turn_over(lines: Any, turned: Any, count: int, width: int, channels: int) -> None:
    """Put the pixels of some lines below one another, a few columns at a time, in the cache."""
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
    lines: Any,
    starts: Any,
    values: Any,
    starts_across: Any,
    values_across: Any,
    made: Any,
    least: Any,
    tall: Any,
    turned: Any,
    wide: Any,
) -> None:
    """Some rows at a time, so that they can be turned over and back within the cache.

    lines: (h, w * channels). tall, turned, wide: scratch.
    """
    rows, columns, channels = made.shape
    width = lines.shape[1] // channels
    for top in range(0, rows, BAND):
        count = min(BAND, rows - top)
        for row in range(count):
            scale_line(lines, starts[top + row], values[top + row], tall[row])
        turn_over(tall, turned, count, width, channels)
        for x in range(columns):
            scale_line(turned, starts_across[x], values_across[x], wide[x])
            raise_to(least, wide[x])
        turn_back(wide, made, top, count)


def resample(light: Light, down: Weights, across: Weights, least: float = -np.inf) -> Light:
    """Scale a picture, (h, w, n): lines first, then pixels in a line.

    least: what comes out below it becomes it.
    """
    height, width, channels = light.shape
    columns = len(across.starts)
    made = np.empty((len(down.starts), columns, channels), np.float32)
    tall = np.empty((BAND, width * channels), np.float32)
    turned, wide = (np.empty((long, BAND * channels), np.float32) for long in (width, columns))
    lines = np.ascontiguousarray(light).reshape(height, width * channels)
    along, sideways = (down.starts, down.values), (across.starts, across.values)
    scale_bands(lines, *along, *sideways, made, np.float32(least), tall, turned, wide)
    return made
