"""Layers that lie pixel on pixel with nothing done to them, a band of rows at a time.

The same functions as everywhere, the same bits: what one of them leaves is
still in the processor's cache when the next takes it up.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from waxseal.core.frames.reading import Pixels
from waxseal.core.job.corrections import Values
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.canvas import Canvas
from waxseal.core.picture.compose import MODES, uncovered
from waxseal.core.picture.framing import Box
from waxseal.core.picture.layers import covers, header_of, is_sure_to_cover
from waxseal.core.picture.light.reading import decode_pick, light_of
from waxseal.core.picture.placing import box_on
from waxseal.core.plan.recipe import Layer, Pick, Recipe

__all__ = ["flat_layers", "light_bands"]

BAND = 64  # rows; even, for chroma of half the height
MOST_LAYERS = 4  # whose frames are held at once


def flat_layers(recipe: Recipe, canvas: Canvas) -> list[Layer]:
    """The layers of a recipe that can be worked out in bands; none where one of them cannot."""
    if not recipe.finish.is_bare or recipe.behind is not None:
        return []
    drawn = uncovered(recipe, canvas)
    layers = [one for one in drawn if isinstance(one, Layer) and is_flat(one, canvas)]
    if len(layers) != len(drawn) or len(layers) > MOST_LAYERS:
        return []
    return layers if canvas.means.is_one_light or is_one_scene(layers, canvas) else []


def is_one_scene(layers: list[Layer], canvas: Canvas) -> bool:
    """Whether layers go through the view as one, and nothing that is graphics is seen."""
    is_scene = not any(one.is_graphics for one in layers)
    return is_scene and bool(layers) and is_sure_to_cover(layers[0], canvas)


def is_flat(layer: Layer, canvas: Canvas) -> bool:
    """Whether a layer is one frame, as it is stored, pixel on pixel with the picture."""
    shown, finish = layer.shown, layer.finish
    is_plain = not finish.corrections and not finish.cover.veiled and layer.between is None
    is_linear = layer.values is Values.LINEAR is finish.cover.values
    if not is_plain or not is_linear or not isinstance(shown, Pick):
        return False
    placing = layer.placement.placing
    if placing.mirrored or placing.turn.quarters:
        return False
    header = header_of(shown)
    if header is None or (header.width, header.height) != canvas.size:
        return False
    return box_on(layer, canvas.size, canvas) == canvas.box


def light_bands(
    recipe: Recipe, layers: list[Layer], canvas: Canvas, pixels: Pixels | None
) -> Iterator[tuple[int, Light]]:
    """Opaque working light, (rows, w, 3), with the row that each band begins at.

    pixels: of the shot's frame, where the caller has decoded it already.
    Raises FrameError, JobError.
    """
    width, height = canvas.size
    frames = [
        pixels if pixels is not None and layer is recipe.shot else decode_pick(layer.pick)
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
                whole = canvas.empty(recipe.ground, rows)
            opacity = layer.finish.cover.opacity
            canvas.kernels.blend(whole, light, (0, 0), opacity, MODES[layer.blend])
        if whole is not None:
            yield top, whole
