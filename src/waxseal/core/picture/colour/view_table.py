"""A view as a table whose error is known: where a table would be wrong, the view itself is asked.

A view of ACES bends sharply where it brings colours into the gamut of a display. There
the numbers of the table bend too, from one point to the next: such cells are marked,
and what falls into them is worked out exactly, which costs eight times as much.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture import kernels
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.colour.colour_processes import Process
from waxseal.core.picture.kernels.constants import AXIS_BEND, AXIS_DARK, AXIS_FIRST_STOP, AXIS_LONG

__all__ = ["POINTS", "ViewTable", "axis_light", "rough_cells"]

POINTS = 86  # a side: five to a stop
BAND = 32  # rows that stay in the processor's cache
# How much a neighbour may be off the straight line between those beside it, in codes of 8
# bits. In a smooth part an eighth of it is the error; where the view has a crease, a quarter.
# High range bends less everywhere, so creases are found sooner.
MOST_BENT, MOST_BENT_HIGH_RANGE = 7.0, 3.0
DIRECTIONS = [
    *((1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0), (1, 0, 1), (0, 1, 1), (1, 1, 1)),
    *((1, -1, 0), (1, 0, -1), (0, 1, -1)),
]


@dataclass(frozen=True, slots=True, eq=False)
class ViewTable:
    """A view, ready to work as a Process is.

    to_axes: (3, 3), from working light to the primaries of the table's axes. grid:
    (n, n, n, 3), the numbers of the display. rough: (n − 1, n − 1, n − 1), 1 where a cell
    is not to be trusted. exact: the view itself.
    """

    to_axes: NDArray[np.float32]
    grid: NDArray[np.float32]
    rough: NDArray[np.uint8]
    exact: Process

    def apply(self, light: Light) -> None:
        """Working light to the numbers of a display, in place; (h, w, 3 or 4)."""
        for top in range(0, len(light), BAND):
            part = light[top : top + BAND]
            part[..., :3] = self._shown(part)

    def to_indexes(self, light: Light, indexes: NDArray[np.uint16]) -> None:
        """As `apply` and then the kernels' `to_indexes`, while a band is in the cache."""
        for top in range(0, len(light), BAND):
            shown = self._shown(light[top : top + BAND])
            kernels.to_indexes(shown, indexes[top : top + BAND])

    def _shown(self, light: Light) -> Light:
        shown = np.empty((*light.shape[:2], 3), np.float32)
        unsure = np.empty(light.shape[:2], np.uint8)
        kernels.look_up(light, self.to_axes, self.grid, self.rough, shown, unsure)
        where = np.flatnonzero(unsure.view(np.bool_))
        if where.size:
            pixels = np.ascontiguousarray(light).reshape(-1, light.shape[2])
            exactly = np.ascontiguousarray(pixels[where, :3][None])
            self.exact.apply(exactly)
            shown.reshape(-1, 3)[where] = exactly[0]
        return shown


def axis_light() -> NDArray[np.float32]:
    """The light of the points of an axis, darkest first: evenly apart in the kernels' logarithm."""
    places = np.arange(POINTS) / (POINTS - 1) * AXIS_LONG
    stops = np.floor(places)
    # The kernels' place within a stop, m + c m (1 − m), solved for m.
    bend, part = float(AXIS_BEND), places - stops
    mantissa = ((1 + bend) - np.sqrt((1 + bend) ** 2 - 4 * bend * part)) / (2 * bend)
    light = 2.0 ** (stops + AXIS_FIRST_STOP) * (1 + mantissa) - AXIS_DARK
    return np.maximum(light, 0).astype(np.float32)


def rough_cells(grid: NDArray[np.float32], *, is_high_range: bool) -> NDArray[np.uint8]:
    """The cells at whose corners the table bends more than its error allows."""
    most = MOST_BENT_HIGH_RANGE if is_high_range else MOST_BENT
    codes = np.clip(grid, 0, 1) * np.float32(255)
    bent = np.zeros(grid.shape[:3], bool)
    for step in DIRECTIONS:
        middle, before, after = (codes[inner(step, by)] for by in (0, -1, 1))
        bent[inner(step, 0)] |= (np.abs(before + after - 2 * middle) > most).any(axis=-1)
    cells = len(grid) - 1
    rough = np.zeros((cells,) * 3, bool)
    for corner in product((0, 1), repeat=3):
        rough |= bent[tuple(slice(at, at + cells) for at in corner)]
    return rough.astype(np.uint8)


def inner(step: tuple[int, int, int], by: int) -> tuple[slice, ...]:
    """The points that have neighbours in a direction, or those neighbours."""
    return tuple(slice(1 + by * one, POINTS - 1 + by * one) if one else slice(None) for one in step)
