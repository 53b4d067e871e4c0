"""A pixel's way from its file to the delivered codes, in words and in values."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from waxseal.core.job.finish import Correction
from waxseal.core.job.model import Colour, Space, View
from waxseal.core.job.primaries import primaries_name
from waxseal.core.picture import plain
from waxseal.core.picture.framing import Filter
from waxseal.core.picture.geometry import Box
from waxseal.core.picture.kernels import Kernels
from waxseal.core.picture.layering import Canvas, box_of, canvas_of, framed, turned
from waxseal.core.picture.light import Means, decoded, values_of
from waxseal.core.picture.make import Target, encoded, make
from waxseal.core.picture.spaces import view_words
from waxseal.core.plan.recipe import Layer, Pick, Recipe

__all__ = ["Step", "Traced", "colour_path", "traced"]

Values = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Step:
    """What is done, and what comes out: red, green, blue, and alpha where there is one."""

    words: str
    values: tuple[float, ...]


@dataclass(frozen=True, slots=True, eq=False)
class Stage:
    words: str
    values: Values  # (h, w, 3 or 4)
    box: Box  # where they lie in the reel's frame

    def at(self, x: int, y: int) -> tuple[float, ...]:
        height, width = self.values.shape[:2]
        column = (x - self.box.x) * width // max(1, self.box.width)
        row = (y - self.box.y) * height // max(1, self.box.height)
        if not (0 <= column < width and 0 <= row < height):
            return ()
        return tuple(float(value) for value in self.values[row, column])


@dataclass(frozen=True, slots=True, eq=False)
class Traced:
    """One frame at every stage of its way."""

    key: str
    stages: tuple[Stage, ...]

    def at(self, x: int, y: int) -> tuple[Step, ...]:
        """The steps of a pixel of the reel's frame."""
        return tuple(Step(stage.words, stage.at(x, y)) for stage in self.stages)


def traced(recipe: Recipe, target: Target, *, kernels: Kernels = plain) -> Traced:
    """Make a frame and keep what it was at each stage. Raises FrameError, JobError.

    target: of the delivery, at the reel's size.
    """
    size = (recipe.width, recipe.height)
    whole = Box(0, 0, *size)
    canvas = Canvas(size, size, Means(recipe.colour, target.space, kernels), Filter.SHARP)
    words = iter(colour_path(recipe, target))
    stages: list[Stage] = []
    main = recipe.main
    if main is not None:
        pixels = decoded(main.pick)
        values = turned(values_of(pixels), main)
        box = box_of(main, (values.shape[1], values.shape[0]), size)
        stages.append(Stage(next(words), values, box))
        bare = replace(main, corrections=(), veiled=0.0, inside=None, depth=None)
        light, at = framed(bare, canvas, pixels)
        stages.append(Stage(next(words), light, at))
        if main.corrections or main.veiled:
            light, at = framed(main, canvas, pixels)
            stages.append(Stage(next(words), light, at))
    bare_reel = replace(recipe, corrections=(), veiled=0.0, opacity=1.0, inside=None, depth=None)
    stages.append(Stage(next(words), canvas_of(bare_reel, canvas), whole))
    light = canvas_of(recipe, canvas)
    if is_finished(recipe):
        stages.append(Stage(next(words), light, whole))
    coded = encoded(light.copy(), recipe, target, kernels)
    stages.append(Stage(next(words), coded.table[coded.values], whole))
    planes = make(recipe, target, kernels=kernels).planes
    full = np.stack([planes[0], *(doubled(one, planes[0].shape) for one in planes[1:])], axis=-1)
    stages.append(Stage(next(words), full.astype(np.float32), whole))
    return Traced(recipe.key, tuple(stages))


def doubled(plane: NDArray[np.uint8], shape: tuple[int, ...]) -> NDArray[np.uint8]:
    """Chroma as large as luma: each code for all the pixels that it stands for."""
    down, across = shape[0] // plane.shape[0], shape[1] // plane.shape[1]
    return plane.repeat(down, axis=0).repeat(across, axis=1)


def is_finished(recipe: Recipe) -> bool:
    return bool(recipe.corrections) or recipe.veiled > 0 or recipe.opacity < 1


def colour_path(recipe: Recipe, target: Target) -> tuple[str, ...]:
    """Every stage from the file to the codes, in words."""
    steps: list[str] = []
    main = recipe.main
    working = f"scene-linear {recipe.colour.working}"
    if main is not None:
        steps.append(f"in the file: {reading_words(main.pick)}")
        steps.append(f"as light: {working}, premultiplied{stack_words(main)}")
        if main.corrections or main.veiled:
            steps.append(f"finished: {correction_words(main.corrections, main.veiled)}")
    under = len(recipe.layers) - 1 + (recipe.behind is not None)
    over = f" with {under} more over or behind it" if under > 0 else ""
    steps.append(f"over the ground{over}")
    if is_finished(recipe):
        veiled = recipe.veiled + 1 - recipe.opacity
        steps.append(f"the reel finished: {correction_words(recipe.corrections, veiled)}")
    steps.append(f"seen: {view_step(recipe, target)}")
    steps.append(f"delivered: Y′CbCr {matrix_words(target.space)}, {target.depth} bits, limited")
    return tuple(steps)


def reading_words(pick: Pick) -> str:
    colour = pick.space if pick.colour is Colour.OWN else str(pick.colour)
    if pick.colour is Colour.LINEAR:
        colour += f" {primaries_name(pick.chromaticities)}"
    lut = " behind a LUT" if pick.lut is not None else ""
    return f"{colour}{lut}, alpha {pick.alpha}"


def stack_words(layer: Layer) -> str:
    words = "" if isinstance(layer.shown, Pick) else f", {len(layer.shown)} passes"
    if layer.following is None:
        return words
    how = "moved" if layer.by_motion else "mixed"
    return f"{words}, {how} {float(layer.share) * 100:.0f} % towards the next frame"


def correction_words(corrections: tuple[Correction, ...], veiled: float) -> str:
    names = [one.label for one in corrections]
    return ", ".join([*names, *(["fade"] if veiled else [])])


def view_step(recipe: Recipe, target: Target) -> str:
    space = target.space
    if space is Space.LINEAR:
        return "scene-linear, as it is"
    if recipe.colour.view is View.PLAIN:
        return f"plain, the curve of {space}, clipped to 0..1"
    return f"{view_words(recipe.colour, space)} for {space}"


def matrix_words(space: Space) -> str:
    return "BT.2020" if space.is_high_range else "BT.709"
