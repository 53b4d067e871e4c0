"""How much work a picture is, known before it is made: what decides which kernels make it."""

from __future__ import annotations

import math

from waxseal.core.job.model import View
from waxseal.core.picture.canvas import Canvas
from waxseal.core.picture.kernels import plain
from waxseal.core.picture.layers import header_of
from waxseal.core.picture.make import canvas_for
from waxseal.core.picture.placing import box_on, inside_of
from waxseal.core.picture.reframing import inner_target
from waxseal.core.picture.scaling import LOBES
from waxseal.core.picture.target import Target
from waxseal.core.plan.film import Recipes
from waxseal.core.plan.recipe import Layer, Recipe

__all__ = ["work_of", "work_of_film"]

# Plain kernels, measured: what each costs a pixel, as against coding it (1).
A_LAYER = 1.0  # to light, and laid over
A_TAP = 0.25  # of a filter that scales, along one axis
A_VIEW = 30.0  # looked up in a table

LOOKED_AT = 8  # recipes, evenly spaced


def work_of_film(film: Recipes, target: Target) -> int:
    """An estimate from a few of its pictures. The unit: a pixel that is only coded."""
    frames = film.frames
    count = min(LOOKED_AT, frames.count)
    numbers = [frames.first + index * frames.count // count for index in range(count)]
    works = [work_of(film.recipe(number), target) for number in numbers]
    return round(sum(works) / count * frames.count)


def work_of(recipe: Recipe, target: Target) -> float:
    """The same of one."""
    if target.placed is not None:
        target = inner_target(target, target.placed)
    pixels = target.width * target.height
    canvas = canvas_for(recipe, target, plain, None, None)
    layers = sum(A_LAYER * pixels + scaling(layer, canvas) for layer in recipe.layers())
    has_view = recipe.colour.view is not View.PLAIN and not target.exact
    return pixels + layers + (A_VIEW * pixels if has_view else 0.0)


def scaling(layer: Layer, canvas: Canvas) -> float:
    header = header_of(layer.pick)
    if header is None:
        return 0.0  # a movie: it is nearly always as large as its reel
    width, height = header.width, header.height
    box = box_on(layer, (width, height), canvas)
    if layer.placement.placing.turn.quarters % 2:
        width, height = height, width
    if (box.width, box.height) == (width, height):
        return 0.0
    inside = inside_of(box, canvas.size)
    down = inside.height * width * taps(height, box.height)
    across = inside.height * inside.width * taps(width, box.width)
    return A_TAP * (down + across)


def taps(length: int, to: int) -> int:
    return math.ceil(2 * LOBES * max(1.0, length / max(1, to))) + 1
