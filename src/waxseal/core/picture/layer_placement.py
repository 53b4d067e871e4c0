"""Where a layer goes in the frame, and its pixels scaled to that place."""

from __future__ import annotations

from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from waxseal.core.job.model import Placing, Scaling, shown_width
from waxseal.core.picture import kernels
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.canvas import Canvas
from waxseal.core.picture.framing import Box, placed_box, scale_size
from waxseal.core.picture.scale_weights import weights
from waxseal.core.picture.target import Filter
from waxseal.core.plan.recipe import Layer

__all__ = ["box_of", "box_on", "filter_of", "inside_of", "mirror_and_turn", "scale_into", "widen"]


def mirror_and_turn(values: NDArray[Any], placing: Placing) -> NDArray[Any]:
    """Mirror, then turn by quarters clockwise; any array of (h, w, n)."""
    if placing.mirrored:
        values = values[:, ::-1]
    quarters = placing.turn.quarters
    return np.rot90(values, -quarters) if quarters else values


def box_of(layer: Layer, source: tuple[int, int], frame: tuple[int, int]) -> Box:
    """The place in the reel's frame of a layer whose `source` pixels are turned already."""
    width, height = source
    placement = layer.placement
    if placement.placing.turn.quarters % 2:
        shown = (width, shown_width(height, placement.pixel_shape))
    else:
        shown = (shown_width(width, placement.pixel_shape), height)
    return placed_box(shown, frame, placement.framing, placement.placing)


def box_on(layer: Layer, source: tuple[int, int], canvas: Canvas) -> Box:
    """The place on the canvas of a layer of `source` pixels that are not turned yet."""
    shown = source[::-1] if layer.placement.placing.turn.quarters % 2 else source
    return scale_size(box_of(layer, shown, canvas.frame), canvas.frame, canvas.size)


def filter_of(layer: Layer, canvas: Canvas) -> Filter:
    is_soft = layer.placement.placing.scaling is Scaling.SOFT
    return Filter.SOFT if is_soft else canvas.chosen


def scale_into(light: Light, box: Box, canvas: Canvas, chosen: Filter) -> tuple[Light, Box]:
    """Scale a picture to its box and cut off what hangs over the frame.

    Returns what is inside the frame, and where that is.
    """
    inside = inside_of(box, canvas.size)
    height, width = light.shape[:2]
    cut = (inside.x - box.x, inside.y - box.y)
    if not inside.width or not inside.height:
        return light[:0, :0], inside
    if (width, height) == (box.width, box.height):
        part = light[cut[1] : cut[1] + inside.height, cut[0] : cut[0] + inside.width]
        return np.ascontiguousarray(part), inside

    def scaled(values: Light, *, is_held: bool = False, least: float = -np.inf) -> Light:
        down, across = (
            weights(
                length,
                to=to,
                first=first,
                last=first + count - 1,
                chosen=chosen,
                is_held=is_held,
            )
            for length, to, first, count in (
                (height, box.height, cut[1], inside.height),
                (width, box.width, cut[0], inside.width),
            )
        )
        return kernels.resample(np.ascontiguousarray(values), down, across, least)

    if chosen is not Filter.SHARP:
        return scaled(light), inside
    return scale_sharply(light, scaled), inside


class Scales(Protocol):
    def __call__(
        self, values: Light, *, is_held: bool = False, least: float = -np.inf
    ) -> Light: ...


def scale_sharply(light: Light, scaled: Scales) -> Light:
    """A sharp filter throws light beyond that around it, by a part of the step between the two.

    What is in 0..1 rings as it does in any picture, but for light below nothing, which
    there is not. What is beyond (a highlight of 200, negative light) is scaled by the lobe in
    the middle alone, and rings not at all: it would throw black dots around it.
    """
    is_beyond = bool(light.max() > 1 or light.min() < 0)
    base = np.clip(light, np.float32(0), np.float32(1)) if is_beyond else light
    made = scaled(base, least=0)
    if is_beyond:
        made += scaled(light - base, is_held=True)
    if made.shape[2] == 4:
        hold_alpha(made)
    return made


def hold_alpha(light: Light) -> None:
    """Bring alpha that a sharp filter threw beyond 0..1 back, and the colour along with it.

    Where an edge is hard, nothing rings around it: the colour under its alpha stays.
    """
    alpha = light[..., 3]
    over = (alpha < 0) | (alpha > 1)
    if over.any():
        thrown = alpha[over]
        held = np.clip(thrown, np.float32(0), np.float32(1))
        light[over] *= (held / thrown)[:, None]


def inside_of(box: Box, size: tuple[int, int]) -> Box:
    """The part of a box that is in the frame; of no size where none is."""
    left, top = max(0, box.x), max(0, box.y)
    right = min(size[0], box.x + box.width)
    bottom = min(size[1], box.y + box.height)
    return Box(left, top, max(0, right - left), max(0, bottom - top))


def widen(light: Light, at: Box, canvas: Canvas) -> tuple[Light, Box]:
    """The same picture in the whole frame, clear around it."""
    width, height = canvas.size
    if (at.width, at.height) == (width, height):
        return light, at
    wide = np.zeros((height, width, 4), np.float32)
    part = wide[at.y : at.y + at.height, at.x : at.x + at.width]
    if light.size:
        part[..., : light.shape[2]] = light
        if light.shape[2] == 3:
            part[..., 3] = 1
    return wide, canvas.box
