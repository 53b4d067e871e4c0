"""Layers that lie pixel on pixel with nothing done to them, a band of rows at a time.

The same functions as everywhere, the same bits: what one of them leaves is
still in the processor's cache when the next takes it up.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from waxseal.core.frames.reading import Pixels
from waxseal.core.job.finish import Values
from waxseal.core.picture.geometry import Box
from waxseal.core.picture.layering import MODES, Canvas, covers, header_of, lying, uncovered
from waxseal.core.picture.light import decoded, light_of
from waxseal.core.plan.recipe import Layer, Pick, Recipe

__all__ = ["flat_layers", "light_bands"]

BAND = 64  # rows; even, for chroma of half the height
MOST_LAYERS = 4  # whose frames are held at once

Light = NDArray[np.float32]


def flat_layers(recipe: Recipe, canvas: Canvas) -> list[Layer]:
    """The layers of a recipe that can be worked out in bands; none where one of them cannot."""
    if recipe.corrections or recipe.veiled or recipe.opacity != 1 or recipe.behind is not None:
        return []
    layers = uncovered(recipe, canvas)
    if len(layers) > MOST_LAYERS or not all(is_flat(layer, canvas) for layer in layers):
        return []
    return layers


def is_flat(layer: Layer, canvas: Canvas) -> bool:
    """Whether a layer is one frame, as it is stored, pixel on pixel with the picture."""
    shown = layer.shown
    is_bare = not layer.corrections and not layer.veiled and layer.following is None
    if not is_bare or layer.values is not Values.LINEAR or not isinstance(shown, Pick):
        return False
    if layer.placing.mirrored or layer.placing.turn.quarters:
        return False
    header = header_of(shown)
    if header is None or (header.width, header.height) != canvas.size:
        return False
    return lying(layer, canvas.size, canvas) == Box(0, 0, *canvas.size)


def light_bands(
    recipe: Recipe, layers: list[Layer], canvas: Canvas, pixels: Pixels | None
) -> Iterator[tuple[int, Light]]:
    """Opaque working light, (rows, w, 3), with the row that each band begins at.

    pixels: of the main layer's frame, where the caller has decoded it already.
    Raises FrameError, JobError.
    """
    width, height = canvas.size
    frames = [
        pixels if pixels is not None and layer is recipe.main else decoded(layer.pick)
        for layer in layers
    ]
    # No band of a single row at the end: dithering needs to see that it is a picture.
    for top, stop in pairwise((0, *range(BAND, height - 1, BAND), height)):
        rows = stop - top
        whole: Light | None = None
        for layer, frame in zip(layers, frames, strict=True):
            part = Pixels(frame.values[top : top + rows], frame.header)
            light = light_of(layer.pick, canvas.means, part)
            box = Box(0, 0, width, rows)
            if covers(light, box, box, layer):
                whole = light
                continue
            if whole is None:
                whole = np.empty((rows, width, 3), np.float32)
                whole.reshape(rows, -1)[:] = np.tile(canvas.colour(recipe.ground), width)
            canvas.kernels.blend(whole, light, (0, 0), layer.opacity, MODES[layer.blend])
        if whole is not None:
            yield top, whole
