"""Layers over a ground: each framed, finished, and laid over what is under it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from waxseal.core.errors import FrameError
from waxseal.core.filenames import MOVIE_SUFFIXES
from waxseal.core.frames.headers import Header, look
from waxseal.core.frames.reading import Pixels
from waxseal.core.job.finish import (
    Border,
    Correction,
    Grain,
    Haze,
    Sharpen,
    Soften,
    Text,
    Values,
    Vignette,
)
from waxseal.core.job.model import BT709, Alpha, Blend, Scaling, shown_width
from waxseal.core.picture import plain
from waxseal.core.picture.colour import ground_linear, primaries_matrix
from waxseal.core.picture.framing import Filter, weights
from waxseal.core.picture.geometry import Box, place, scaled
from waxseal.core.picture.kernels import Kernels
from waxseal.core.picture.light import Means, decoded, layer_light, values_of
from waxseal.core.picture.store import LightStore
from waxseal.core.plan.recipe import FileState, Layer, Masked, Pick, Recipe

__all__ = [
    "MODES",
    "Canvas",
    "box_of",
    "canvas_of",
    "covers",
    "framed",
    "header_of",
    "in_frame",
    "lying",
    "turned",
    "uncovered",
]

Light = NDArray[np.float32]  # premultiplied, (h, w, 3 or 4)
IN_FRAME = (Soften, Sharpen, Text)  # need the whole frame around the picture
MODES = {
    Blend.OVER: plain.OVER,
    Blend.ADD: plain.ADD,
    Blend.MULTIPLY: plain.MULTIPLY,
    Blend.SCREEN: plain.SCREEN,
}


@dataclass(frozen=True, slots=True)
class Canvas:
    """What layers are laid on.

    size: in pixels, of what is made. frame: of the reel. store: keeps framed light.
    """

    size: tuple[int, int]
    frame: tuple[int, int]
    means: Means
    chosen: Filter
    store: LightStore | None = None

    @property
    def kernels(self) -> Kernels:
        return self.means.kernels

    def colour(self, hex_colour: str) -> Light:
        """`#rrggbb`, sRGB, as working light."""
        light = np.array(ground_linear(hex_colour), np.float32)
        matrix = primaries_matrix(BT709, self.means.colourway.working.chromaticities)
        return light if matrix is None else np.asarray(matrix @ light, np.float32)

    def empty(self, ground: str) -> Light:
        """The whole frame in one colour."""
        width, height = self.size
        whole = np.empty((height, width, 3), np.float32)
        whole.reshape(height, -1)[:] = np.tile(self.colour(ground), width)
        return whole


def canvas_of(recipe: Recipe, canvas: Canvas, pixels: Pixels | None = None) -> Light:
    """The reel's frame as opaque working light, (h, w, 3). Raises FrameError, JobError.

    pixels: of the main layer's frame, where the caller has decoded it already.
    """
    width, height = canvas.size
    frame = Box(0, 0, width, height)
    whole: Light | None = None
    for layer in uncovered(recipe, canvas):
        light, at = framed(layer, canvas, pixels if layer is recipe.main else None)
        if covers(light, at, frame, layer):
            whole = light
        elif light.size:
            whole = canvas.empty(recipe.ground) if whole is None else whole
            lay(whole, light, at, layer, canvas)
    if whole is None:
        whole = canvas.empty(recipe.ground)
    if recipe.corrections:
        whole = corrected(
            whole,
            recipe.corrections,
            recipe.files,
            Around(canvas, frame, frame),
            inside=recipe.inside,
            depth=recipe.depth,
        )
    return veiled(whole, recipe.veil, recipe.veiled + (1 - recipe.opacity), canvas)


def uncovered(recipe: Recipe, canvas: Canvas) -> list[Layer]:
    """The layers from the highest that is sure to cover the frame: what is under it is not read.

    A frame under it that cannot be read is then none of this picture's troubles.
    """
    layers = [layer for layer in (recipe.behind, *recipe.layers) if layer is not None]
    for number in range(len(layers) - 1, 0, -1):
        if is_sure_to_cover(layers[number], canvas):
            return layers[number:]
    return layers


def is_sure_to_cover(layer: Layer, canvas: Canvas) -> bool:
    """By what is known before it is decoded: no alpha, nothing that opens it, its size."""
    shown = layer.shown
    is_whole = layer.blend is Blend.OVER and layer.opacity == 1 and not layer.corrections
    if not is_whole or layer.following is not None or not isinstance(shown, Pick):
        return False
    header = header_of(shown)
    if header is None or (shown.alpha is not Alpha.NONE and part_has_alpha(header, shown)):
        return False
    box = lying(layer, (header.width, header.height), canvas)
    return inside_of(box, canvas.size) == Box(0, 0, *canvas.size)


def header_of(pick: Pick) -> Header | None:
    """What a frame's file says; None of a movie, and where whoever decodes it will complain."""
    path = Path(pick.file.path)
    if path.suffix.lower() in MOVIE_SUFFIXES:
        return None
    try:
        return look(path, pick.frame)
    except FrameError:
        return None


def part_has_alpha(header: Header, pick: Pick) -> bool:
    try:
        return header.part(pick.part).has_alpha
    except FrameError:
        return True  # there is no such part: nothing is sure


def lying(layer: Layer, source: tuple[int, int], canvas: Canvas) -> Box:
    """Where a layer of `source` pixels, not yet turned, lies on the canvas."""
    shown = source[::-1] if layer.placing.turn.quarters % 2 else source
    return scaled(box_of(layer, shown, canvas.frame), canvas.frame, canvas.size)


def covers(light: Light, at: Box, frame: Box, layer: Layer) -> bool:
    """Whether nothing under a layer can be seen."""
    is_plain = layer.blend is Blend.OVER and layer.opacity == 1
    return bool(at == frame and light.size and light.shape[2] == 3 and is_plain)


def lay(whole: Light, light: Light, at: Box, layer: Layer, canvas: Canvas) -> None:
    mode, kernels = MODES[layer.blend], canvas.kernels
    if layer.values is Values.LINEAR:
        kernels.blend(whole, light, (at.x, at.y), layer.opacity, mode)
        return
    from waxseal.core.picture.spaces import curve, processed

    encode, decode = processed(curve(encode=True)), processed(curve(encode=False))
    light = np.ascontiguousarray(light)
    part = np.ascontiguousarray(whole[at.y : at.y + at.height, at.x : at.x + at.width])
    encode.apply(part)
    if light.shape[2] == 4:
        kernels.divide_alpha(light)
    encode.apply(light)
    if light.shape[2] == 4:
        kernels.multiply_alpha(light)
    kernels.blend(part, light, (0, 0), layer.opacity, mode)
    decode.apply(part)
    whole[at.y : at.y + at.height, at.x : at.x + at.width] = part


def framed(layer: Layer, canvas: Canvas, pixels: Pixels | None) -> tuple[Light, Box]:
    """A layer as it lies in the frame: what is inside, and where. Finished, not yet laid."""
    light, box = placed(layer, canvas, pixels)
    at = inside_of(box, canvas.size)
    if not light.size:
        return light, at
    if any(isinstance(one, IN_FRAME) for one in layer.corrections):
        light, at = widened(light, at, canvas)
    if layer.corrections:
        light = corrected(
            light,
            layer.corrections,
            layer.files,
            Around(canvas, at, box),
            inside=layer.inside,
            depth=layer.depth,
        )
    return veiled(light, layer.veil, layer.veiled, canvas), at


def placed(layer: Layer, canvas: Canvas, pixels: Pixels | None) -> tuple[Light, Box]:
    """A layer's light inside the frame, not finished, and its whole box."""
    boxes: list[Box] = []

    def make() -> Light:
        light, size = layer_light(layer, canvas.means, pixels)
        light = turned(light, layer)
        boxes.append(lying(layer, size, canvas))
        return in_frame(light, boxes[0], canvas, filter_of(layer, canvas))[0]

    if canvas.store is None:
        return make(), boxes[0]
    what = replace(
        layer,
        corrections=(),
        inside=None,
        depth=None,
        opacity=1.0,
        veil="",
        veiled=0.0,
        blend=Blend.OVER,
        values=Values.LINEAR,
        files=(),
    )
    means = canvas.means
    lightly = means.copies is not None
    key = (what, canvas.size, canvas.frame, canvas.chosen, means.colourway, means.space, lightly)
    return canvas.store.get(key, lambda: (make(), boxes[0]))


def turned(light: NDArray, layer: Layer) -> NDArray:  # type: ignore[type-arg]
    """Mirrored, then turned by quarters clockwise; any array of (h, w, n)."""
    if layer.placing.mirrored:
        light = light[:, ::-1]
    quarters = layer.placing.turn.quarters
    return np.rot90(light, -quarters) if quarters else light


def box_of(layer: Layer, source: tuple[int, int], frame: tuple[int, int]) -> Box:
    """Where a layer of `source` pixels, turned as it is, lies in the reel's frame."""
    width, height = source
    if layer.placing.turn.quarters % 2:
        shown = (width, shown_width(height, layer.pixel_shape))
    else:
        shown = (shown_width(width, layer.pixel_shape), height)
    return place(shown, frame, layer.framing, layer.placing)


def filter_of(layer: Layer, canvas: Canvas) -> Filter:
    return Filter.SOFT if layer.placing.scaling is Scaling.SOFT else canvas.chosen


def in_frame(light: Light, box: Box, canvas: Canvas, chosen: Filter) -> tuple[Light, Box]:
    """Scale a picture to its box and cut off what hangs over the frame.

    Returns what is inside the frame, and where it lies.
    """
    inside = inside_of(box, canvas.size)
    height, width = light.shape[:2]
    cut = (inside.x - box.x, inside.y - box.y)
    if not inside.width or not inside.height:
        return light[:0, :0], inside
    if (width, height) == (box.width, box.height):
        part = light[cut[1] : cut[1] + inside.height, cut[0] : cut[0] + inside.width]
        return np.ascontiguousarray(part), inside
    down = weights(
        height, to=box.height, first=cut[1], last=cut[1] + inside.height - 1, chosen=chosen
    )
    across = weights(
        width, to=box.width, first=cut[0], last=cut[0] + inside.width - 1, chosen=chosen
    )
    made = canvas.kernels.resample(np.ascontiguousarray(light), down, across)
    if chosen is Filter.SHARP and made.shape[2] == 4:
        hold_alpha(made)
    return made, inside


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
    """The part of a box that lies in the frame; of no size where none does."""
    left, top = max(0, box.x), max(0, box.y)
    right = min(size[0], box.x + box.width)
    bottom = min(size[1], box.y + box.height)
    return Box(left, top, max(0, right - left), max(0, bottom - top))


def widened(light: Light, at: Box, canvas: Canvas) -> tuple[Light, Box]:
    """The same picture in the whole frame, clear around it."""
    width, height = canvas.size
    if (at.width, at.height) == (width, height):
        return light, at
    wide = np.zeros((height, width, 4), np.float32)
    part = wide[at.y : at.y + at.height, at.x : at.x + at.width]
    part[..., : light.shape[2]] = light
    if light.shape[2] == 3:
        part[..., 3] = 1
    return wide, Box(0, 0, width, height)


@dataclass(frozen=True, slots=True)
class Around:
    """Where a picture lies while it is corrected: the part in the frame, and its whole box."""

    canvas: Canvas
    at: Box
    box: Box


def corrected(
    light: Light,
    corrections: tuple[Correction, ...],
    files: tuple[FileState, ...],
    around: Around,
    *,
    inside: Masked | None,
    depth: Pick | None,
) -> Light:
    """The corrections of a finish, in their order. Raises FrameError, JobError.

    inside: where those of colour and sharpness work; the others know no matte.
    """
    from waxseal.core.picture import shapes
    from waxseal.core.picture.grading import grade
    from waxseal.core.picture.lettering import lettered

    canvas, size, height = around.canvas, around.canvas.size, around.canvas.size[1]
    before = light.copy() if inside is not None else light
    light = grade(light, corrections, files, canvas.kernels)
    for one in corrections:
        if isinstance(one, Haze) and depth is not None:
            light = shapes.hazed(light, one, helper_values(depth, around)[..., 0])
        elif isinstance(one, Soften):
            light = shapes.softened(light, one, height)
        elif isinstance(one, Sharpen):
            light = shapes.sharpened(light, one, height)
    if inside is not None:
        light = before + (light - before) * matte_of(inside, around)
    for one in corrections:
        if isinstance(one, Vignette):
            light = shapes.vignetted(light, one, around.at, size)
        elif isinstance(one, Grain):
            light = shapes.grained(light, one, around.at, size, canvas.frame[1])
        elif isinstance(one, Border):
            light = shapes.bordered(light, one, around.at, around.box, height)
        elif isinstance(one, Text):
            light = lettered(light, one)
    return light


def helper_values(pick: Pick, around: Around) -> Light:
    """What a pass says, not read as colour, lying as the picture that it helps lies."""
    values = values_of(decoded(pick))
    box = around.box
    whole, at = in_frame(values, box, around.canvas, Filter.SOFT)
    if at == around.at:
        return whole
    wide = np.zeros((around.at.height, around.at.width, values.shape[2]), np.float32)
    top, left = at.y - around.at.y, at.x - around.at.x
    wide[top : top + at.height, left : left + at.width] = whole
    return wide


def matte_of(masked: Masked, around: Around) -> Light:
    """(h, w, 1), 0..1: alpha where the pass has one, else its first channel."""
    from waxseal.core.picture.shapes import softened_by

    values = helper_values(masked.pick, around)
    matte = values[..., 3:4] if values.shape[2] == 4 else values[..., :1]
    matte = np.clip(np.nan_to_num(matte), 0, 1)
    if masked.inverted:
        matte = 1 - matte
    return softened_by(np.ascontiguousarray(matte), masked.soften, around.canvas.size[1])


def veiled(light: Light, veil: str, part: float, canvas: Canvas) -> Light:
    """Covered by a colour as far as the picture itself covers."""
    if part <= 0:
        return light
    covered = light * np.float32(1 - part)
    alpha = light[..., 3:] if light.shape[2] == 4 else np.float32(1)
    covered[..., :3] += canvas.colour(veil) * (alpha * np.float32(part))
    if light.shape[2] == 4:
        covered[..., 3:] = light[..., 3:]
    return covered
