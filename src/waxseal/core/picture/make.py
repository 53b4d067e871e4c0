"""Recipe to picture: decode, framing, over, colour, layout. The only place where pixels begin.

What one plain layer needs no light for goes a short way: its stored values
through one table. Everything else is worked out in light (`layering`).
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.frames.reading import Pixels
from waxseal.core.job.model import Colour, Space, View, Working
from waxseal.core.picture import plain
from waxseal.core.picture.colour import (
    Table,
    encoded_table,
    encoded_table_of_bits,
    primaries_matrix,
    stored_as_integers,
    whole_table,
)
from waxseal.core.picture.framing import Filter
from waxseal.core.picture.geometry import Box, scaled
from waxseal.core.picture.kernels import Kernels
from waxseal.core.picture.layering import Canvas, box_of, canvas_of, turned
from waxseal.core.picture.light import decoded, is_opaque, kind_of
from waxseal.core.plan.recipe import Recipe

__all__ = ["Layout", "Picture", "Target", "light_for", "make"]


class Layout(StrEnum):
    YUV420 = "yuv420"  # three planes, 8-bit limited-range BT.709; sides made even
    SCREEN = "screen"  # one plane of B, G, R, 255


@dataclass(frozen=True, slots=True)
class Target:
    """What a picture is made for: a size in pixels, a layout, a filter for scaling.

    Where the layout needs even sides, an odd one grows by one: the last
    column or row is repeated.
    space: what the numbers mean. exact: whether a view goes without its cube.
    """

    width: int
    height: int
    layout: Layout
    filter: Filter = Filter.SHARP
    space: Space = Space.SRGB
    exact: bool = False

    @property
    def stored_size(self) -> tuple[int, int]:
        if self.layout is Layout.YUV420:
            return self.width + self.width % 2, self.height + self.height % 2
        return self.width, self.height


@dataclass(frozen=True, slots=True, eq=False)
class Picture:
    """Pixels in the planes of a layout, uint8."""

    layout: Layout
    planes: tuple[NDArray[np.uint8], ...]

    @property
    def size_bytes(self) -> int:
        return sum(plane.nbytes for plane in self.planes)


@dataclass(frozen=True, slots=True, eq=False)
class Coded:
    """A picture whose encoded R'G'B' is table[values]."""

    values: NDArray[Any]
    table: Table


def make(
    recipe: Recipe, target: Target, *, kernels: Kernels = plain, pixels: Pixels | None = None
) -> Picture:
    """The pixels of a recipe.

    pixels: the main layer's frame, where the caller has decoded it already.
    Raises FrameError where a frame cannot be read, JobError for a colour that
    cannot be worked out.
    """
    coded = coded_picture(recipe, target, kernels, pixels)
    width, height = target.stored_size
    if target.layout is Layout.SCREEN:
        screen = np.empty((height, width, 4), np.uint8)
        kernels.to_screen(coded.values, coded.table, screen)
        return Picture(target.layout, (screen,))
    y = np.empty((height, width), np.uint8)
    cb, cr = (np.empty((height // 2, width // 2), np.uint8) for _ in range(2))
    kernels.to_yuv420(coded.values, coded.table, y, cb, cr)
    return Picture(target.layout, (y, cb, cr))


def coded_picture(recipe: Recipe, target: Target, kernels: Kernels, pixels: Pixels | None) -> Coded:
    if is_untouched(recipe, target):
        main = recipe.layers[0]
        pixels = pixels or decoded(main.pick)
        values, kind = turned(stored_as_integers(pixels.values), main), kind_of(pixels)
        source, size = (values.shape[1], values.shape[0]), (target.width, target.height)
        frame = (recipe.width, recipe.height)
        box = scaled(box_of(main, source, frame), frame, size)
        fills = box == Box(0, 0, *source) and source == size
        if fills and is_opaque(values, kind, main.pick.alpha):
            return Coded(np.ascontiguousarray(values), encoded_table(kind, main.pick.colour))
    light = light_for(recipe, target, kernels=kernels, pixels=pixels)
    return encoded(light, recipe, target, kernels)


def is_untouched(recipe: Recipe, target: Target) -> bool:
    """Whether one table makes the picture: a plain layer alone, in its own colours."""
    if len(recipe.layers) != 1 or not recipe.layers[0].is_plain or recipe.corrections:
        return False
    if recipe.veiled or recipe.opacity != 1 or target.space is not Space.SRGB:
        return False
    pick = recipe.layers[0].pick
    if pick.colour is not Colour.LINEAR:
        # Display-encoded codes are what the display should get, whatever the view does to light.
        return pick.colour is not Colour.FILM_LOG or recipe.colour.view is View.PLAIN
    return recipe.colour.view is View.PLAIN and primaries_matrix(pick.chromaticities) is None


def light_for(
    recipe: Recipe, target: Target, *, kernels: Kernels = plain, pixels: Pixels | None = None
) -> NDArray[np.float32]:
    """The reel's frame as opaque scene-linear light in working primaries, (h, w, 3)."""
    size, frame = (target.width, target.height), (recipe.width, recipe.height)
    canvas = Canvas(size, frame, recipe.colour, target.filter, kernels)
    return canvas_of(recipe, canvas, pixels)


def encoded(light: NDArray[np.float32], recipe: Recipe, target: Target, kernels: Kernels) -> Coded:
    """Light through the view into the target's space."""
    indexes = np.empty(light.shape, np.uint16)
    plain_view = recipe.colour.view is View.PLAIN and recipe.colour.working is Working.BT709
    if target.space is Space.SRGB and plain_view:
        kernels.lay_over(light, np.zeros(3, np.float32), indexes)
        return Coded(indexes, encoded_table_of_bits())
    from waxseal.core.picture.spaces import display_of

    display = display_of(recipe.colour, target.space, exact=target.exact)
    if display is not None:
        display.apply(light)
    kernels.to_indexes(light, indexes)
    return Coded(indexes, whole_table())
