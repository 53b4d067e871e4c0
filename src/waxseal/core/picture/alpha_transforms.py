"""Colour transforms on pictures with alpha: what is clear stays clear, and light stays light.

A transform works on straight colour. What it makes of black (a lifted black, an
offset, the foot of a logarithm) is never added where a picture is clear.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from waxseal.core.picture import kernels
from waxseal.core.picture.arrays import Light

__all__ = ["Transform", "transform_premultiplied", "transform_straight"]

# Changes (h, w, 3 or 4) in place, and leaves alpha alone.
Transform = Callable[[Light], None]


def transform_premultiplied(light: Light, transform: Transform) -> None:
    """Apply a transform to premultiplied light, (h, w, 3 or 4), in place.

    Where alpha is 0, colour is light that is added (a glow): what the transform makes
    of it beyond what it makes of black is added from then on, and of nothing, nothing.
    """
    if light.shape[2] == 3:
        transform(light)
        return
    marks = np.empty(light.shape[:2], np.uint8)
    is_clear_somewhere = kernels.mark_clear(light, marks)
    kernels.divide_alpha(light)
    transform(light)
    kernels.multiply_alpha(light)
    if is_clear_somewhere:
        black = np.zeros((1, 1, 4), np.float32)
        transform(black)
        kernels.keep_added(light, marks, black[0, 0])


def transform_straight(light: Light, transform: Transform) -> None:
    """Apply a transform to straight colour, and premultiply it, in place. (h, w, 3 or 4)."""
    transform(light)
    if light.shape[2] == 4:
        light[..., :3] *= light[..., 3:]
