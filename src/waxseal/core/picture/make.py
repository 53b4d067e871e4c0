"""Recipe to picture: decode, framing, over, colour, layout. The only place where pixels begin."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.frames.reading import Pixels, read_pixels
from waxseal.core.job.model import Alpha, Colour, shown_width
from waxseal.core.picture import plain
from waxseal.core.picture.colour import (
    BITS_LOW,
    BITS_ROUND,
    BITS_SHIFT,
    DARKEST,
    Table,
    alpha_table,
    encoded_table,
    encoded_table_of_bits,
    ground_linear,
    linear_table,
    primaries_matrix,
    stored_as_integers,
)
from waxseal.core.picture.framing import Filter, weights
from waxseal.core.picture.geometry import Box, place, scaled
from waxseal.core.picture.kernels import Kernels
from waxseal.core.plan.recipe import Layer, Recipe

__all__ = ["Layout", "Picture", "Target", "box_of", "decoded", "make", "shape_to"]


class Layout(StrEnum):
    YUV420 = "yuv420"  # three planes, 8-bit limited-range BT.709; sides made even
    SCREEN = "screen"  # one plane of B, G, R, 255


@dataclass(frozen=True, slots=True)
class Target:
    """What a picture is made for: a size in pixels, a layout, a filter for scaling.

    Where the layout needs even sides, an odd one grows by one: the last
    column or row is repeated.
    """

    width: int
    height: int
    layout: Layout
    filter: Filter = Filter.SHARP

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

    pixels: the layer's frame, where the caller has decoded it already.
    Raises FrameError where the layer's frame cannot be read.
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
    frame, size = (recipe.width, recipe.height), (target.width, target.height)
    ground = np.array(ground_linear(recipe.ground), np.float32)
    if recipe.layer is None:
        return Coded(np.broadcast_to(ground_index(ground), (*size[::-1], 3)).copy(), bits_table())
    layer = recipe.layer
    if pixels is None:
        pixels = decoded(layer)
    values = stored_as_integers(pixels.values)
    kind = pixels.values.dtype if pixels.values.dtype.kind == "u" else np.dtype(np.float16)
    opaque = is_opaque(values, kind, layer)
    source = (values.shape[1], values.shape[0])
    box = scaled(box_of(layer, source, frame), frame, size)
    is_linear = layer.colour is Colour.LINEAR
    matrix = primaries_matrix(layer.chromaticities) if is_linear else None
    if opaque and matrix is None and box == Box(0, 0, *source) and source == size:
        return Coded(values, encoded_table(kind, layer.colour))
    if opaque:
        values = values[..., :3]
    is_straight = layer.alpha is Alpha.STRAIGHT
    has_matte = layer.matte != "#000000"
    if values.shape[2] == 4 and not is_straight and (has_matte or not is_linear):
        values, is_straight = straightened(values, kind, layer.matte), True
    light = kernels.to_linear(
        np.ascontiguousarray(values),
        linear_table(kind, layer.colour),
        alpha_table(kind),
        matrix,
        is_straight=is_straight,
    )
    light, at = shape_to(light, box, size, target.filter, kernels)
    rows, columns = slice(at.y, at.y + at.height), slice(at.x, at.x + at.width)
    indexes = np.empty((*size[::-1], 3), np.uint16)
    if (at.width, at.height) == size:
        kernels.lay_over(light, ground, indexes)
    else:
        indexes[:] = ground_index(ground)
        inside = np.empty((at.height, at.width, 3), np.uint16)
        kernels.lay_over(light, ground, inside)
        indexes[rows, columns] = inside
    return Coded(indexes, bits_table())


def decoded(layer: Layer) -> Pixels:
    """Raises FrameError."""
    return read_pixels(Path(layer.file.path), frame=layer.frame, part=layer.part)


def box_of(layer: Layer, source: tuple[int, int], frame: tuple[int, int]) -> Box:
    """Where a layer of `source` pixels lies in the reel's frame."""
    shown = (shown_width(source[0], layer.pixel_shape), source[1])
    return place(shown, frame, layer.framing)


def bits_table() -> Table:
    return encoded_table_of_bits()


def ground_index(ground: NDArray[np.float32]) -> NDArray[np.uint16]:
    bits = np.clip(ground, np.float32(DARKEST), np.float32(1)).view(np.int32)
    return (((bits + BITS_ROUND) >> BITS_SHIFT) - BITS_LOW).astype(np.uint16)


def is_opaque(values: NDArray[Any], kind: np.dtype[Any], layer: Layer) -> bool:
    """Whether nothing behind the picture can be seen: no alpha, read as none, or one everywhere."""
    if values.shape[2] == 3 or layer.alpha is Alpha.NONE:
        return True
    one = 0x3C00 if kind == np.float16 else np.iinfo(values.dtype).max
    return bool((values[..., 3] == one).all())


def straightened(values: NDArray[Any], kind: np.dtype[Any], matte: str) -> NDArray[Any]:
    """Colour taken off its matte: a curve is never applied to premultiplied values.

    values: (height, width, 4), as stored. What is clear stays as it is.
    matte: `#rrggbb`; in the file's own encoding, as the colour was laid over it.
    Source: Porter & Duff 1984, over an opaque colour, solved for the front.
    """
    if kind == np.float16:
        numbers, most = values.view(np.float16).astype(np.float32), 1.0
    else:
        numbers, most = values.astype(np.float32), float(np.iinfo(kind).max)
    colour, alpha = numbers[..., :3], numbers[..., 3:]
    behind = np.array([int(matte[at : at + 2], 16) for at in (1, 3, 5)], np.float32) * (most / 255)
    with np.errstate(divide="ignore", invalid="ignore"):
        front = (colour - behind) * (most / alpha) + behind
    front = np.where(alpha > 0, front, colour)
    straight = values.copy()
    if kind == np.float16:
        straight.view(np.float16)[..., :3] = front
    else:
        straight[..., :3] = np.clip(front + 0.5, 0, most)
    return straight


def shape_to(
    light: NDArray[np.float32],
    box: Box,
    size: tuple[int, int],
    chosen: Filter,
    kernels: Kernels,
) -> tuple[NDArray[np.float32], Box]:
    """Scale a picture to its box and cut off what hangs over the frame.

    Returns what is inside the frame, and where it lies.
    """
    left, top = max(0, box.x), max(0, box.y)
    right = min(size[0], box.x + box.width)
    bottom = min(size[1], box.y + box.height)
    inside = Box(left, top, right - left, bottom - top)
    height, width = light.shape[:2]
    cut = (left - box.x, top - box.y)
    if (width, height) == (box.width, box.height):
        part = light[cut[1] : cut[1] + inside.height, cut[0] : cut[0] + inside.width]
        return np.ascontiguousarray(part), inside
    down = weights(
        height, to=box.height, first=cut[1], last=cut[1] + inside.height - 1, chosen=chosen
    )
    across = weights(
        width, to=box.width, first=cut[0], last=cut[0] + inside.width - 1, chosen=chosen
    )
    return kernels.resample(light, down, across), inside
