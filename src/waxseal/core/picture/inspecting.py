"""What is looked at besides the picture: its alpha, what its passes lack, where motion is unsure.

All of it as the picture lies in the frame, before any finish; numbers for the
screen, 0..1, that no view touches.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from waxseal.core.errors import JobError
from waxseal.core.picture.colour import encode_srgb
from waxseal.core.picture.framing import Filter
from waxseal.core.picture.layering import Canvas, framed, in_frame, lying, turned
from waxseal.core.picture.light import seen_light
from waxseal.core.plan.recipe import DIFFERENCE_TIMES, Layer, Recipe, Seen

__all__ = ["inspected"]

DOUBTFUL = np.array((1.0, 0.72, 0.2), np.float32)  # what is unsure, over a grey picture

Light = NDArray[np.float32]


def inspected(recipe: Recipe, canvas: Canvas) -> Light:
    """(h, w, 3), 0..1. Raises FrameError, and JobError where there is nothing of the kind."""
    main = recipe.main
    width, height = canvas.size
    if main is None:
        return np.zeros((height, width, 3), np.float32)
    bare = replace(main, corrections=(), inside=None, depth=None, opacity=1.0, veiled=0.0)
    return LOOKS[recipe.seen](recipe, bare, canvas)


def alpha(_recipe: Recipe, layer: Layer, canvas: Canvas) -> Light:
    """White where the picture covers."""
    whole = whole_frame(layer, canvas)
    return np.repeat(np.clip(whole[..., 3:], 0, 1), 3, axis=2)


def difference(recipe: Recipe, layer: Layer, canvas: Canvas) -> Light:
    """How far the light of the passes is from the beauty's, several times as strong."""
    if recipe.beauty is None:
        raise JobError("There is no beauty that passes could be held against here.")
    passes = whole_frame(layer, canvas)
    beauty = whole_frame(replace(layer, shown=recipe.beauty, following=None), canvas)
    away = np.abs(passes - beauty)[..., :3] * np.float32(DIFFERENCE_TIMES)
    return encoded(away)


def unsure(_recipe: Recipe, layer: Layer, canvas: Canvas) -> Light:
    """The picture in grey, and in colour where the movement to the next frame is not known."""
    if layer.following is None or not layer.by_motion:
        raise JobError("This frame is none that was made by motion between two.")
    from waxseal.core.picture.between import Moved

    before, size = seen_light(layer.shown, canvas.means)
    after, _ = seen_light(layer.following, canvas.means)
    seen = whole_frame(layer, canvas)
    grey = encoded(seen[..., :3].mean(axis=2, keepdims=True)) * np.float32(0.6)
    if before.shape != after.shape:
        return np.repeat(grey, 3, axis=2)
    doubt = turned(Moved(before, after).doubt()[..., None], layer)
    lying = np.zeros_like(grey)
    put(lying, doubt, layer, canvas, size)
    return np.asarray(grey * (1 - lying) + DOUBTFUL * lying, np.float32)


LOOKS: dict[Seen, Callable[[Recipe, Layer, Canvas], Light]] = {
    Seen.ALPHA: alpha,
    Seen.DIFFERENCE: difference,
    Seen.UNSURE: unsure,
}


def whole_frame(layer: Layer, canvas: Canvas) -> Light:
    """A layer in the whole frame, (h, w, 4), clear around it."""
    width, height = canvas.size
    light, at = framed(layer, canvas, None)
    whole = np.zeros((height, width, 4), np.float32)
    part = whole[at.y : at.y + at.height, at.x : at.x + at.width]
    if light.size:
        part[..., : light.shape[2]] = light
        if light.shape[2] == 3:
            part[..., 3] = 1
    return whole


def put(whole: Light, values: Light, layer: Layer, canvas: Canvas, size: tuple[int, int]) -> None:
    """Values of a source, turned as it is, to where it lies in the frame."""
    part, at = in_frame(values, lying(layer, size, canvas), canvas, Filter.SOFT)
    whole[at.y : at.y + at.height, at.x : at.x + at.width] = np.clip(part, 0, 1)


def encoded(light: Light) -> Light:
    return np.asarray(encode_srgb(np.clip(light, 0, 1).astype(np.float64)), np.float32)
