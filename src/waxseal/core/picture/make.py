"""Recipe to picture: decode, framing, over, colour, layout. The only place where pixels begin.

What one bare layer needs no light for goes a short way: its stored values
through one table. Everything else is worked out in light (`compose`).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from waxseal.core.frames.reading import Pixels
from waxseal.core.job.model import DISPLAY_ENCODED, Colour, Space, View, Working
from waxseal.core.picture.arrays import Integers, Light, Plane, Planes
from waxseal.core.picture.banding import flat_layers, light_bands
from waxseal.core.picture.canvas import Canvas
from waxseal.core.picture.colour.curves import (
    Table,
    encoded_table,
    encoded_table_of_bits,
    primaries_matrix,
    stored_as_integers,
    whole_table,
)
from waxseal.core.picture.compose import Composed, compose
from waxseal.core.picture.copies.folder import LightCopies
from waxseal.core.picture.framing import Box, scale_size
from waxseal.core.picture.kernels import plain
from waxseal.core.picture.kernels.choice import Kernels
from waxseal.core.picture.light.reading import (
    Means,
    decode_pick,
    is_opaque,
    kind_of,
)
from waxseal.core.picture.light.store import LightStore
from waxseal.core.picture.placing import box_of, turn
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.recipe import Recipe

__all__ = ["Picture", "encode", "light_for", "make"]

# Red and blue in luma. ITU-R BT.709-6 and BT.2020-2.
BT709_LUMA, BT2020 = (0.2126, 0.0722), (0.2627, 0.0593)
YCbCr = tuple[Plane, Plane, Plane]
HALF = np.full((1, 1), 0.5, np.float32)


@dataclass(frozen=True, slots=True, eq=False)
class Picture:
    """Pixels in the planes of a layout, uint8 or uint16; light as float16."""

    layout: Layout
    planes: Planes

    @property
    def size_bytes(self) -> int:
        return sum(plane.nbytes for plane in self.planes)


@dataclass(frozen=True, slots=True, eq=False)
class Coded:
    """A picture whose encoded R'G'B' is table[values].

    is_untouched: whether they are the very codes of a display-encoded file.
    """

    values: Integers
    table: Table
    is_untouched: bool = False


def make(
    recipe: Recipe,
    target: Target,
    *,
    kernels: Kernels = plain,
    pixels: Pixels | None = None,
    store: LightStore | None = None,
    copies: LightCopies | None = None,
) -> Picture:
    """The pixels of a recipe.

    pixels: the shot's frame, where the caller has decode_pick it already.
    store: keeps the light of layers, for a caller who changes what is done to it.
    copies: light copies, for a caller who plays rather than judges.
    Raises FrameError where a frame cannot be read, JobError for a colour that
    cannot be worked out.
    """
    if target.layout is Layout.LIGHT:
        canvas = canvas_for(recipe, target, kernels, store, None)
        return Picture(target.layout, (as_halves(compose(recipe, canvas, pixels).light),))
    banded = None if store is not None else in_bands(recipe, target, kernels, pixels)
    if banded is not None:
        return banded
    coded = coded_picture(recipe, target, kernels, pixels, store, copies)
    width, height = target.stored_size
    if target.layout is Layout.SCREEN:
        screen = np.empty((height, width, 4), np.uint8)
        kernels.to_screen(coded.values, coded.table, screen)
        return Picture(target.layout, (screen,))
    return Picture(target.layout, planes_of(coded, target, kernels))


def as_halves(light: Light) -> NDArray[np.float16]:
    """NaN becomes black; what a half cannot hold becomes the largest that it can."""
    most = np.float32(np.finfo(np.float16).max)
    if not np.isfinite(light).all():
        light = np.nan_to_num(light, nan=0.0, posinf=float(most), neginf=-float(most))
    return np.clip(light, -most, most).astype(np.float16)


def in_bands(
    recipe: Recipe, target: Target, kernels: Kernels, pixels: Pixels | None
) -> Picture | None:
    """Layers that lie pixel on pixel, band by band; None where they have to go the long way."""
    is_one_table = target.is_inspected or is_untouched(recipe, target)
    if target.layout is Layout.SCREEN or is_one_table:
        return None
    canvas = canvas_for(recipe, target, kernels, None, None)
    layers = flat_layers(recipe, canvas)
    if not layers:
        return None
    planes = empty_planes(target)
    for top, light in light_bands(recipe, layers, canvas, pixels):
        coded = encode(Composed(light, is_shown=False), recipe, target, kernels)
        is_last = top + len(light) == target.height
        fill_planes(coded, target, kernels, planes, top, None if is_last else top + len(light))
    return Picture(target.layout, planes)


def planes_of(coded: Coded, target: Target, kernels: Kernels) -> YCbCr:
    planes = empty_planes(target)
    fill_planes(coded, target, kernels, planes, 0, None)
    return planes


def empty_planes(target: Target) -> YCbCr:
    width, height = target.stored_size
    dtype = np.uint8 if target.layout.depth == 8 else np.uint16
    luma = np.empty((height, width), dtype)
    cb, cr = (np.empty((height // target.layout.chroma_rows, width // 2), dtype) for _ in range(2))
    return luma, cb, cr


def fill_planes(
    coded: Coded, target: Target, kernels: Kernels, planes: YCbCr, top: int, stop: int | None
) -> None:
    """Fill the rows from `top` on with a part of a picture; stop: None for all that are left."""
    rows = slice(top, stop)
    down = target.layout.chroma_rows
    half = slice(top // down, None if stop is None else stop // down)
    y, cb, cr = planes[0][rows], planes[1][half], planes[2][half]
    dither = target.dither and not coded.is_untouched
    if target.layout is Layout.YUV420 and not dither and not target.space.is_high_range:
        kernels.to_yuv420(coded.values, coded.table, y, cb, cr)
    else:
        coefficients = BT2020 if target.space.is_high_range else BT709_LUMA
        spread = noise(*planes[0].shape)[rows] if dither else HALF
        kernels.to_ycbcr(
            coded.values, coded.table, (y, cb, cr), coefficients, target.layout.depth, spread
        )


@lru_cache(maxsize=4)
def noise(height: int, width: int) -> Light:
    """What dithering adds before rounding down: 0..1, even over any few pixels.

    Source: Jimenez 2014, Next Generation Post Processing: interleaved gradient noise.
    """
    rows, columns = np.mgrid[0:height, 0:width].astype(np.float64)
    slope = np.modf(columns * 0.06711056 + rows * 0.00583715)[0]
    return np.asarray(np.modf(52.9829189 * slope)[0], np.float32)


def coded_picture(
    recipe: Recipe,
    target: Target,
    kernels: Kernels,
    pixels: Pixels | None,
    store: LightStore | None,
    copies: LightCopies | None,
) -> Coded:
    if target.is_inspected:
        from waxseal.core.picture.looking.inspecting import inspect

        canvas = canvas_for(recipe, target, kernels, store, copies)
        looked_at = inspect(recipe, target.inspection, canvas)
        indexes = np.empty(looked_at.shape, np.uint16)
        kernels.to_indexes(looked_at, indexes)
        return Coded(indexes, whole_table())
    shot = recipe.shot
    if copies is None and shot is not None and is_untouched(recipe, target):
        pixels = pixels or decode_pick(shot.pick)
        values, kind = turn(stored_as_integers(pixels.values), shot), kind_of(pixels)
        source, size = (values.shape[1], values.shape[0]), (target.width, target.height)
        frame = (recipe.width, recipe.height)
        box = scale_size(box_of(shot, source, frame), frame, size)
        fills = box == Box(0, 0, *source) and source == size
        if fills and is_opaque(values, kind, shot.pick.read.alpha):
            colour = shot.pick.read.colour
            table = encoded_table(kind, colour)
            return Coded(np.ascontiguousarray(values), table, colour in DISPLAY_ENCODED)
    canvas = canvas_for(recipe, target, kernels, store, copies)
    return encode(compose(recipe, canvas, pixels), recipe, target, kernels)


def is_untouched(recipe: Recipe, target: Target) -> bool:
    """Whether one table makes the picture: a bare shot in its own colours, nothing over it.

    What is behind it does not count: the caller sees whether the shot covers it.
    """
    shot = recipe.shot
    if shot is None or recipe.programme is not shot or recipe.overlays or not shot.is_bare:
        return False
    if not recipe.finish.is_bare or target.lut is not None:
        return False
    read = shot.pick.read
    if read.colour is Colour.OWN or read.lut is not None:
        return False
    if read.colour in DISPLAY_ENCODED:
        # Its codes are what the display should get, whatever a view does to light.
        return target.space is Space.SRGB or (
            target.space is Space.BT709 and read.colour is not Colour.SRGB
        )
    if target.space is not Space.SRGB or recipe.colour.view is not View.PLAIN:
        return False
    return read.colour is Colour.FILM_LOG or primaries_matrix(read.chromaticities) is None


def light_for(
    recipe: Recipe,
    target: Target,
    *,
    kernels: Kernels = plain,
    pixels: Pixels | None = None,
    store: LightStore | None = None,
    copies: LightCopies | None = None,
) -> Light:
    """The reel's frame as opaque light, (h, w, 3): see Composed for which."""
    return compose(recipe, canvas_for(recipe, target, kernels, store, copies), pixels).light


def canvas_for(
    recipe: Recipe,
    target: Target,
    kernels: Kernels,
    store: LightStore | None,
    copies: LightCopies | None,
) -> Canvas:
    size, frame = (target.width, target.height), (recipe.width, recipe.height)
    means = Means(recipe.colour, target.space, kernels, copies)
    return Canvas(size, frame, means, target.filter, store, target.exact)


def encode(composed: Composed, recipe: Recipe, target: Target, kernels: Kernels) -> Coded:
    """Light through the view, where it has not been there yet, into the target's space."""
    light, colour = composed.light, recipe.colour
    indexes = np.empty(light.shape, np.uint16)
    is_plain = colour.view is View.PLAIN and colour.working is Working.BT709
    if target.space is Space.SRGB and (is_plain or composed.is_shown) and target.lut is None:
        kernels.lay_over(light, np.zeros(3, np.float32), indexes)
        return Coded(indexes, encoded_table_of_bits())
    from waxseal.core.picture.colour import spaces

    if composed.is_shown:
        last: spaces.Shows | None = spaces.graphics_to_display(target.space, colour.white)
    else:
        last = spaces.display_of(colour, target.space, exact=target.exact)
    if last is None and target.space is Space.SRGB:
        last = spaces.make_process(spaces.curve(encode=True))
    if target.lut is not None:
        from waxseal.core.picture.finish.grading import lut_process

        if last is not None:
            last.apply(light, kernels)
        last = lut_process(target.lut)
    if last is None:
        kernels.to_indexes(light, indexes)
    else:
        last.to_indexes(light, indexes, kernels)
    return Coded(indexes, whole_table())
