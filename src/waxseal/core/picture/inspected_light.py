"""What is looked at besides the picture: its alpha, what its passes lack, where motion is unsure.

All of it in the picture's place in the frame, before any finish; numbers for
the screen, 0..1, that no view touches.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from waxseal.core.errors import JobError
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.canvas import Canvas
from waxseal.core.picture.layer_light import finish_layer
from waxseal.core.picture.layer_placement import box_on, mirror_and_turn, scale_into, widen
from waxseal.core.picture.light.frame_mixing import Motion
from waxseal.core.picture.light.light_reader import light_as_shown
from waxseal.core.picture.target import DIFFERENCE_TIMES, Aspect, Filter, Inspection
from waxseal.core.picture.transfer_tables import encode_srgb
from waxseal.core.plan.recipe import BARE, Layer, Pick, Recipe

__all__ = ["inspect"]

NOTHING_THERE, MOST_OF_HALF = 1e6, 65_504  # depths of the background
OUTLIERS = 0.005  # of the pixels
DOUBTFUL = np.array((1.0, 0.72, 0.2), np.float32)  # what is unsure, over a grey picture


def inspect(recipe: Recipe, inspection: Inspection, canvas: Canvas) -> Light:
    """(h, w, 3), 0..1. Raises FrameError, and JobError where there is nothing of the kind."""
    width, height = canvas.size
    if recipe.shot is None:
        return np.zeros((height, width, 3), np.float32)
    bare = replace(recipe.shot, finish=BARE)
    canvas = replace(canvas, means=canvas.means.of(bare))
    return ASPECTS[inspection.aspect](bare, inspection.beauty, canvas)


def alpha(layer: Layer, _beauty: Pick | None, canvas: Canvas) -> Light:
    """White where the picture covers."""
    whole = whole_frame(layer, canvas)
    return np.repeat(np.clip(whole[..., 3:], 0, 1), 3, axis=2)


def difference(layer: Layer, beauty: Pick | None, canvas: Canvas) -> Light:
    """How far the light of the passes is from the beauty's, several times as strong."""
    if beauty is None:
        raise JobError("This shot has no beauty to compare its passes with.")
    passes = whole_frame(layer, canvas)
    whole = whole_frame(replace(layer, shown=beauty, between=None), canvas)
    return to_screen(np.abs(passes - whole)[..., :3] * np.float32(DIFFERENCE_TIMES))


def unsure(layer: Layer, _beauty: Pick | None, canvas: Canvas) -> Light:
    """The picture in grey, and in colour where the movement to the next frame is not known."""
    between = layer.between
    if between is None or not between.by_motion:
        raise JobError("This frame is an original: nothing was interpolated here.")
    before, size = light_as_shown(layer.shown, canvas.means)
    after, _ = light_as_shown(between.following, canvas.means)
    seen = whole_frame(layer, canvas)
    grey = to_screen(seen[..., :3].mean(axis=2, keepdims=True)) * np.float32(0.6)
    if before.shape != after.shape:
        return np.repeat(grey, 3, axis=2)
    doubt = mirror_and_turn(Motion(before, after).doubt()[..., None], layer.placement.placing)
    covered = np.zeros_like(grey)
    put(covered, doubt, layer, canvas, size)
    return np.asarray(grey * (1 - covered) + DOUBTFUL * covered, np.float32)


def own_range(layer: Layer, _beauty: Pick | None, canvas: Canvas) -> Light:
    """Depth and its like, black at its least and white at its most.

    A few outliers do not count, nor does what renderers write where there is nothing.
    """
    values = whole_frame(layer, canvas)[..., :3]
    is_there = np.isfinite(values) & (np.abs(values) < NOTHING_THERE) & (values != MOST_OF_HALF)
    there = values[is_there]
    if not there.size:
        return np.zeros_like(values)
    least, most = (float(np.quantile(there, share)) for share in (OUTLIERS, 1 - OUTLIERS))
    stretched = (values - np.float32(least)) / np.float32(max(most - least, 1e-12))
    held = np.clip(np.nan_to_num(stretched, nan=1.0, posinf=1.0, neginf=0.0), 0, 1)
    return np.asarray(held, np.float32)


ASPECTS: dict[Aspect, Callable[[Layer, Pick | None, Canvas], Light]] = {
    Aspect.ALPHA: alpha,
    Aspect.DIFFERENCE: difference,
    Aspect.UNSURE: unsure,
    Aspect.RANGE: own_range,
}


def whole_frame(layer: Layer, canvas: Canvas) -> Light:
    """A layer in the whole frame, (h, w, 4), clear around it."""
    light, at = finish_layer(layer, canvas)
    light, _ = widen(light, at, canvas)
    if light.shape[2] == 4:
        return light
    return np.concatenate([light, np.ones_like(light[..., :1])], axis=2)


def put(whole: Light, values: Light, layer: Layer, canvas: Canvas, size: tuple[int, int]) -> None:
    """Put values of a source, turned as it is, in their place in the frame."""
    part, at = scale_into(values, box_on(layer, size, canvas), canvas, Filter.SOFT)
    whole[at.y : at.y + at.height, at.x : at.x + at.width] = np.clip(part, 0, 1)


def to_screen(light: Light) -> Light:
    return np.asarray(encode_srgb(np.clip(light, 0, 1).astype(np.float64)), np.float32)
