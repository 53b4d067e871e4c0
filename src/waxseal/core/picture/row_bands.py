"""Layers that lie pixel on pixel with nothing done to them, a band of rows at a time.

The same functions as everywhere, the same bits: what one of them leaves is
still in the processor's cache when the next takes it up.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from itertools import pairwise

from waxseal.core.frames.frame_reader import Pixels
from waxseal.core.job.corrections import Values
from waxseal.core.job.model import Blend
from waxseal.core.picture import kernels
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.canvas import Canvas
from waxseal.core.picture.compose import MODES, uncovered
from waxseal.core.picture.kernels.stored_picture import StoredPicture
from waxseal.core.picture.layer_light import header_of, hides_under, is_sure_to_cover
from waxseal.core.picture.layer_placement import box_on
from waxseal.core.picture.light.light_reader import decode_pick, read_frame
from waxseal.core.plan.recipe import Layer, Pick, Recipe

__all__ = ["bands_of", "flat_frames", "flat_layers", "light_bands"]

BAND = 136  # rows: measured. Even, for chroma of half the height
MOST_LAYERS = 4  # whose frames are held at once
Flat = tuple[Layer, Pixels]


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


def bands_of(height: int) -> Iterator[tuple[int, int]]:
    """The first row of each band, and the one after its last."""
    # No band of a single row at the end: dithering needs to see that it is a picture.
    return pairwise((0, *range(BAND, height - 1, BAND), height))


def flat_frames(recipe: Recipe, canvas: Canvas, pixels: Pixels | None) -> list[Flat]:
    """Flat layers with their decoded frames; none where a file was replaced by another size.

    pixels: of the shot's frame, where the caller has decoded it already.
    Raises FrameError.
    """
    flats = [
        (layer, pixels if pixels is not None and layer is recipe.shot else decode_pick(layer.pick))
        for layer in flat_layers(recipe, canvas)
    ]
    width, height = canvas.size
    return flats if all(one.values.shape[:2] == (height, width) for _, one in flats) else []


def light_bands(recipe: Recipe, flats: list[Flat], canvas: Canvas) -> Iterator[tuple[int, Light]]:
    """Opaque working light, (rows, w, 3), with the row that each band begins at.

    Raises JobError.
    """
    lowest = flats[0][0]
    for top, stop in bands_of(canvas.size[1]):
        empty = partial(canvas.empty, recipe.ground, stop - top)
        seen: list[tuple[Layer, StoredPicture | Light]] = []
        for layer, frame in reversed(flats):
            part = Pixels(frame.values[top:stop], frame.header)
            read = read_frame(layer.pick, canvas.means, part)
            seen.append((layer, read if layer is lowest else settle(read, canvas)))
            if channels_of(seen[-1][1]) == 3 and hides_under(layer):
                break
        light: Light | None = None
        for layer, read in reversed(seen):
            light = lay(layer, read, light, canvas, empty)
        if light is not None:
            yield top, light


def settle(read: StoredPicture | Light, canvas: Canvas) -> StoredPicture | Light:
    """The same picture, looked at: now it is known whether it has alpha."""
    if not isinstance(read, StoredPicture) or read.covered is None:
        return read
    is_covered = kernels.is_covered(read.values, read.covered)
    return replace(read, channels=3 if is_covered else 4, covered=None)


def channels_of(read: StoredPicture | Light) -> int:
    return read.channels if isinstance(read, StoredPicture) else int(read.shape[2])


def lay(
    layer: Layer,
    read: StoredPicture | Light,
    under: Light | None,
    canvas: Canvas,
    empty: Callable[[], Light],
) -> Light:
    """Lay a layer over what is under it, which may be changed in place.

    under: None where nothing but the ground is there. empty: makes a band of the ground.
    """
    opacity = layer.finish.cover.opacity
    is_over = layer.blend is Blend.OVER
    if is_over and isinstance(read, StoredPicture) and read.channels == 4 and read.covered is None:
        whole = empty() if under is None else under
        kernels.lay_stored(whole, read, opacity)
        return whole
    light = kernels.to_linear(read) if isinstance(read, StoredPicture) else read
    if light.shape[2] == 3 and hides_under(layer):
        return light
    whole = empty() if under is None else under
    kernels.blend(whole, light, (0, 0), opacity, MODES[layer.blend])
    return whole
