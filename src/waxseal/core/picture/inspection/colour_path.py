"""A pixel's way from its file to the delivered codes, in words and in values."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from waxseal.core.job.model import Colour, Space, View
from waxseal.core.job.primaries import primaries_name
from waxseal.core.picture.arrays import Light, Plane
from waxseal.core.picture.canvas import Canvas
from waxseal.core.picture.colour.colour_spaces import view_words
from waxseal.core.picture.compose import compose
from waxseal.core.picture.framing import Box
from waxseal.core.picture.layer_light import finish_layer
from waxseal.core.picture.layer_placement import box_of, mirror_and_turn
from waxseal.core.picture.light.light_reader import Means, decode_pick, values_of
from waxseal.core.picture.make import encode, make
from waxseal.core.picture.plane_encoding import as_integers
from waxseal.core.picture.target import Filter, Layout, Target
from waxseal.core.plan.recipe import BARE, Finished, Layer, Pick, Recipe

__all__ = ["PathStep", "TracedFrame", "colour_path", "trace"]


@dataclass(frozen=True, slots=True)
class PathStep:
    """What is done, and what comes out: red, green, blue, and alpha where there is one."""

    words: str
    values: tuple[float, ...]


@dataclass(frozen=True, slots=True, eq=False)
class Station:
    """The values at one point of the way, (h, w, 3 or 4), and their place in the reel's frame."""

    words: str
    values: Light
    box: Box

    def at(self, x: int, y: int) -> tuple[float, ...]:
        height, width = self.values.shape[:2]
        column = (x - self.box.x) * width // max(1, self.box.width)
        row = (y - self.box.y) * height // max(1, self.box.height)
        if not (0 <= column < width and 0 <= row < height):
            return ()
        return tuple(float(value) for value in self.values[row, column])


@dataclass(frozen=True, slots=True, eq=False)
class TracedFrame:
    """One frame at every station of its way."""

    key: str
    stations: tuple[Station, ...]

    def at(self, x: int, y: int) -> tuple[PathStep, ...]:
        """The steps of a pixel of the reel's frame."""
        return tuple(PathStep(station.words, station.at(x, y)) for station in self.stations)


def trace(recipe: Recipe, target: Target) -> TracedFrame:
    """Make a frame and keep what it was at each station. Raises FrameError, JobError.

    target: of the delivery, at the reel's size.
    """
    size = (recipe.width, recipe.height)
    canvas = Canvas(size, size, Means(recipe.colour, target.space), Filter.SHARP)
    whole = compose(recipe, canvas)
    words = iter(colour_path(recipe, target, is_shown=whole.is_shown))
    stations: list[Station] = []
    shot = recipe.shot
    if shot is not None:
        pixels = decode_pick(shot.pick)
        values = mirror_and_turn(values_of(pixels), shot.placement.placing)
        box = box_of(shot, (values.shape[1], values.shape[0]), size)
        stations.append(Station(next(words), values, box))
        own = replace(canvas, means=canvas.means.of(shot))
        light, at = finish_layer(replace(shot, finish=BARE), own, pixels)
        stations.append(Station(next(words), light, at))
        if is_seen(shot.finish):
            light, at = finish_layer(shot, own, pixels)
            stations.append(Station(next(words), light, at))
    bare = replace(recipe, finish=BARE)
    if not recipe.finish.is_bare:
        stations.append(Station(next(words), compose(bare, canvas).light, canvas.box))
    stations.append(Station(next(words), whole.light.copy(), canvas.box))
    if target.layout is not Layout.LIGHT:
        coded = as_integers(encode(whole, recipe, target))
        stations.append(Station(next(words), coded.table[coded.values], canvas.box))
    planes = make(recipe, target).planes
    stations.append(Station(next(words), whole_planes(planes), canvas.box))
    return TracedFrame(recipe.key, tuple(stations))


def whole_planes(planes: tuple[Plane, ...]) -> Light:
    """All planes as one array: each code of chroma for all its pixels."""
    if len(planes) == 1:
        return planes[0].astype(np.float32)
    shape = planes[0].shape
    whole = np.stack([planes[0], *(enlarge(one, shape) for one in planes[1:])], axis=-1)
    return whole.astype(np.float32)


def enlarge(plane: Plane, shape: tuple[int, ...]) -> Plane:
    down, across = shape[0] // plane.shape[0], shape[1] // plane.shape[1]
    return plane.repeat(down, axis=0).repeat(across, axis=1)


def is_seen(finish: Finished) -> bool:
    """Whether a layer's own light changes by a finish; opacity works when it is laid."""
    return bool(finish.corrections) or finish.cover.veiled > 0


def colour_path(recipe: Recipe, target: Target, *, is_shown: bool) -> tuple[str, ...]:
    """Every station from the file to the codes, in words.

    is_shown: whether graphics and what a view shows were put together, see Composed.
    """
    steps: list[str] = []
    shot = recipe.shot
    working = f"scene-linear {recipe.colour.working}"
    if shot is not None:
        steps.append(f"in the file: {reading_words(shot.pick)}")
        light = "graphics, linear BT.709" if shot.is_graphics and is_shown else working
        steps.append(f"as light: {light}, premultiplied{stack_words(shot)}")
        if is_seen(shot.finish):
            steps.append(f"finished: {correction_words(shot.finish)}")
    under = len(recipe.layers()) - (shot is not None)
    over = f" with {under} more over or behind it" if under > 0 else ""
    after = f", after the view {view_step(recipe, target)}" if is_shown else ""
    steps.append(f"over the ground{over}{after}")
    if not recipe.finish.is_bare:
        steps.append(f"the reel finished: {correction_words(recipe.finish)}")
    if target.layout is Layout.LIGHT:
        return (*steps, f"delivered: {working}, halves")
    lut = ", through the delivery's LUT" if target.lut is not None else ""
    last = f"as {target.space}" if is_shown else f"view: {view_step(recipe, target)}"
    steps.append(f"{last}{lut}")
    return (*steps, f"delivered: {codes_words(target)}")


def codes_words(target: Target) -> str:
    """What the codes of a file are: `Y′CbCr BT.709, 8 bits, limited`."""
    layout, bits = target.layout, f"{target.layout.depth} bits"
    alpha = f", alpha {target.alpha}" if target.has_alpha else ""
    if layout.is_rgb:
        return f"R′G′B′, {bits}, full{alpha}"
    if layout is Layout.FULL_422:
        return f"Y′CbCr BT.601, {bits}, full{alpha}"
    matrix = "BT.2020" if target.space.is_high_range else "BT.709"
    return f"Y′CbCr {matrix}, {bits}, limited{alpha}"


def reading_words(pick: Pick) -> str:
    read = pick.read
    colour = read.space if read.colour is Colour.OWN else str(read.colour)
    if read.colour is Colour.LINEAR:
        colour += f" {primaries_name(read.chromaticities)}"
    lut = " through a LUT" if read.lut is not None else ""
    return f"{colour}{lut}, alpha {read.alpha}"


def stack_words(layer: Layer) -> str:
    words = "" if isinstance(layer.shown, Pick) else f", {len(layer.shown)} passes"
    between = layer.between
    if between is None:
        return words
    how = "moved" if between.by_motion else "mixed"
    return f"{words}, {how} {float(between.share) * 100:.0f} % towards the next frame"


def correction_words(finish: Finished) -> str:
    names = [one.label for one in finish.corrections]
    is_covered = finish.cover.veiled > 0 or finish.cover.opacity < 1
    return ", ".join([*names, *(["fade"] if is_covered else [])])


def view_step(recipe: Recipe, target: Target) -> str:
    space = target.space
    if space is Space.LINEAR:
        return "scene-linear, as it is"
    if recipe.colour.view is View.PLAIN:
        return f"plain, the curve of {space}, clipped to 0..1"
    return f"{view_words(recipe.colour, space)} for {space}"
