"""Recipe to picture: decode, framing, over, colour, layout. The only place where pixels begin.

What one bare layer needs no light for goes a short way: its stored values
through one table. Everything else is worked out in light (`compose`).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.frames.frame_reader import Pixels
from waxseal.core.job.model import DISPLAY_ENCODED, HIGH_RANGE, Alpha, Colour, Space, View, Working
from waxseal.core.picture import kernels
from waxseal.core.picture.alpha_transforms import transform_premultiplied
from waxseal.core.picture.arrays import Light, Planes
from waxseal.core.picture.canvas import Canvas
from waxseal.core.picture.colour import colour_spaces
from waxseal.core.picture.colour.grading import lut_process
from waxseal.core.picture.compose import Composed, compose
from waxseal.core.picture.copies.proxy_folder import LightCopies
from waxseal.core.picture.framing import Box, scale_size
from waxseal.core.picture.inspected_light import inspect
from waxseal.core.picture.layer_light import with_alpha
from waxseal.core.picture.layer_placement import box_of, mirror_and_turn, scale_into
from waxseal.core.picture.light.light_reader import (
    Means,
    covering,
    decode_pick,
    dtype_of,
)
from waxseal.core.picture.light.light_store import LightStore
from waxseal.core.picture.pixel_shape import around_subject, inner_target, own_shape, reframe
from waxseal.core.picture.plane_encoding import MOST, CodedPicture, empty_planes, fill_planes
from waxseal.core.picture.row_bands import bands_of, flat_frames, light_bands
from waxseal.core.picture.target import Inspection, Layout, Target
from waxseal.core.picture.transfer_tables import (
    alpha_table,
    encoded_table,
    encoded_table_of_bits,
    primaries_matrix,
    stored_as_integers,
    whole_table,
)
from waxseal.core.plan.recipe import Layer, Recipe

if TYPE_CHECKING:
    from waxseal.core.picture.colour import colour_spaces

__all__ = ["Picture", "composed_for", "encode", "light_for", "make"]


GROUND_SIDE = 4  # pixels: room for chroma


@dataclass(frozen=True, slots=True, eq=False)
class Picture:
    """Pixels in the planes of a layout, uint8 or uint16; light as float16."""

    layout: Layout
    planes: Planes

    @property
    def size_bytes(self) -> int:
        return sum(plane.nbytes for plane in self.planes)


def make(
    recipe: Recipe,
    target: Target,
    *,
    pixels: Pixels | None = None,
    store: LightStore | None = None,
    copies: LightCopies | None = None,
) -> Picture:
    """The pixels of a recipe.

    pixels: the shot's frame, where the caller has decoded it already.
    store: keeps the light of layers, for a caller who changes what is done to it, or who makes
        many pictures with the same layers.
    copies: light copies, for a caller who plays rather than judges.
    Raises FrameError where a frame cannot be read, JobError for a colour that
    cannot be worked out.
    """
    if target.placed is not None:
        box = around_subject(target, target.placed, recipe.subject)
        inner = inner_target(target, box)
        whole = make(recipe, inner, pixels=pixels, store=store, copies=copies)
        ground = ground_planes(recipe, inner)
        return Picture(target.layout, reframe(whole.planes, ground, target, box))
    if target.layout is Layout.LIGHT:
        light = composed_for(recipe, target, pixels, store, None).light
        return Picture(
            target.layout, (as_halves(with_alpha(light) if target.has_alpha else light),)
        )
    planes = empty_planes(target)
    if target.is_inspected:
        canvas = canvas_for(recipe, target, store, copies)
        fill_planes(inspected(recipe, target.inspection, canvas), target, planes)
        return Picture(target.layout, planes)
    if copies is None and recipe.shot is not None and is_untouched(recipe, target):
        pixels = pixels or decode_pick(recipe.shot.pick)
        stored = as_stored(recipe, recipe.shot, target, pixels)
        if stored is not None and fill_planes(stored, target, planes):
            return Picture(target.layout, planes)
    for top, composed in composed_bands(recipe, target, pixels, store, copies):
        coded, stop = encode(composed, recipe, target), top + len(composed.light)
        fill_planes(coded, target, planes, top, None if stop == target.height else stop)
    return Picture(target.layout, planes)


def ground_planes(recipe: Recipe, target: Target) -> Planes:
    """The reel's ground as it is delivered, a few pixels of it."""
    few = replace(target, width=GROUND_SIDE, height=GROUND_SIDE, dither=False)
    canvas = canvas_for(recipe, few, None, None)
    is_shown = not canvas.means.is_one_light
    light = (canvas.graphics if is_shown else canvas).empty(recipe.ground)
    if target.layout is Layout.LIGHT:
        return (as_halves(light),)
    planes = empty_planes(few)
    fill_planes(encode(Composed(light, is_shown), recipe, few), few, planes)
    return planes


def as_halves(light: Light) -> NDArray[np.float16]:
    """NaN becomes black; what a half cannot hold becomes the largest that it can."""
    most = np.float32(np.finfo(np.float16).max)
    if not np.isfinite(light).all():
        light = np.nan_to_num(light, nan=0.0, posinf=float(most), neginf=-float(most))
    return np.clip(light, -most, most).astype(np.float16)


def inspected(recipe: Recipe, inspection: Inspection, canvas: Canvas) -> CodedPicture:
    looked_at = inspect(recipe, inspection, canvas)
    indexes = np.empty(looked_at.shape, np.uint16)
    kernels.to_indexes(looked_at, indexes)
    return CodedPicture(indexes, whole_table())


def as_stored(recipe: Recipe, shot: Layer, target: Target, pixels: Pixels) -> CodedPicture | None:
    """An untouched shot's stored values; None where they do not lie pixel on pixel."""
    values, kind = (
        mirror_and_turn(stored_as_integers(pixels.values), shot.placement.placing),
        dtype_of(pixels),
    )
    source, size = (values.shape[1], values.shape[0]), (target.width, target.height)
    frame = (recipe.width, recipe.height)
    box = scale_size(box_of(shot, source, frame), frame, size)
    if box != Box(0, 0, *source) or source != size:
        return None
    read = shot.pick.read
    has_alpha = target.has_alpha and read.alpha is not Alpha.NONE
    return CodedPicture(
        np.ascontiguousarray(values),
        encoded_table(kind, read.colour),
        is_untouched=read.colour in DISPLAY_ENCODED,
        alpha=alpha_of(values, kind) if has_alpha else None,
        covered=None if keeps_its_alpha(recipe, target) else covering(values, kind, read.alpha),
    )


def composed_bands(
    recipe: Recipe,
    target: Target,
    pixels: Pixels | None,
    store: LightStore | None,
    copies: LightCopies | None,
) -> Iterator[tuple[int, Composed]]:
    """The light of a recipe, some rows at a time, with the row that each band begins at.

    Layers that lie pixel on pixel are worked out so, too.
    """
    is_kept = store is not None and not store.only_recurring
    can_be_flat = not is_kept and target.layout is not Layout.SCREEN and not target.has_alpha
    if can_be_flat and not target.is_stretched:
        canvas = canvas_for(recipe, target, None, None)
        flats = flat_frames(recipe, canvas, pixels)
        if flats:
            for top, light in light_bands(recipe, flats, canvas):
                yield top, Composed(light, is_shown=False)
            return
    composed = composed_for(recipe, target, pixels, store, copies)
    for top, stop in bands_of(target.height):
        yield top, replace(composed, light=composed.light[top:stop])


def composed_for(
    recipe: Recipe,
    target: Target,
    pixels: Pixels | None,
    store: LightStore | None,
    copies: LightCopies | None,
) -> Composed:
    """The light of a recipe in the target's size.

    A picture that is stretched is composed in the reel's shape first.
    """
    canvas = canvas_for(recipe, target, store, copies)
    if not target.is_stretched:
        return compose(recipe, canvas, pixels)
    own = canvas_for(recipe, own_shape(recipe, target), store, copies)
    composed = compose(recipe, own, pixels)
    light, _ = scale_into(composed.light, canvas.box, canvas, target.filter)
    return replace(composed, light=light)


def is_untouched(recipe: Recipe, target: Target) -> bool:
    """Whether one table makes the picture: a bare shot in its own colours, nothing over it.

    What is behind it does not count: the caller sees whether the shot covers it.
    """
    shot = recipe.shot
    if shot is None or recipe.programme is not shot or recipe.overlays or not shot.is_bare:
        return False
    if not recipe.finish.is_bare or target.lut is not None:
        return False
    read = shot.pick.read
    if read.colour in (Colour.OWN, *HIGH_RANGE) or read.lut is not None:
        return False
    if primaries_matrix(read.chromaticities) is not None:
        return False
    if read.colour in DISPLAY_ENCODED:
        # Its codes are what the display should get, whatever a view does to light.
        return target.space is Space.SRGB or (
            target.space is Space.BT709 and read.colour is not Colour.SRGB
        )
    return target.space is Space.SRGB and recipe.colour.view is View.PLAIN


def keeps_its_alpha(recipe: Recipe, target: Target) -> bool:
    """Whether an untouched shot's alpha is wanted as it is in its file, with its codes."""
    shot = recipe.shot
    if shot is None:
        return False
    read = shot.pick.read
    is_on_black = read.alpha is Alpha.STRAIGHT or read.matte == "#000000"
    return read.alpha is target.alpha and read.colour in DISPLAY_ENCODED and is_on_black


def alpha_of(values: NDArray[Any], kind: np.dtype[Any]) -> NDArray[np.uint16] | None:
    """Stored alpha, whole range; None where there is none."""
    if values.shape[2] == 3:
        return None
    if kind == np.uint8:
        return values[..., 3].astype(np.uint16) * np.uint16(257)
    if kind == np.uint16:
        return values[..., 3]
    return whole_alpha(alpha_table(kind)[values[..., 3]])


def whole_alpha(alpha: Light) -> NDArray[np.uint16]:
    bounded = np.clip(alpha, np.float32(0), np.float32(1))
    return (bounded * np.float32(MOST) + np.float32(0.5)).astype(np.uint16)


def light_for(
    recipe: Recipe,
    target: Target,
    *,
    pixels: Pixels | None = None,
    store: LightStore | None = None,
    copies: LightCopies | None = None,
) -> Light:
    """The reel's frame as opaque light, (h, w, 3): see Composed for which."""
    return compose(recipe, canvas_for(recipe, target, store, copies), pixels).light


def canvas_for(
    recipe: Recipe,
    target: Target,
    store: LightStore | None,
    copies: LightCopies | None,
) -> Canvas:
    size, frame = (target.width, target.height), (recipe.width, recipe.height)
    means = Means(recipe.colour, target.space, copies)
    return Canvas(size, frame, means, target.filter, store, target.exact, target.has_alpha)


def encode(composed: Composed, recipe: Recipe, target: Target) -> CodedPicture:
    """Light through the view, where it has not been there yet, into the target's space."""
    light = composed.light
    if light.shape[2] == 4:
        return encode_clear(composed, recipe, target)
    is_plain = recipe.colour.view is View.PLAIN and recipe.colour.working is Working.BT709
    if target.space is Space.SRGB and (is_plain or composed.is_shown) and target.lut is None:
        return CodedPicture(light, encoded_table_of_bits())
    steps = display_steps(composed, recipe, target)
    for step in steps[:-1]:
        step.apply(light)
    indexes = np.empty(light.shape, np.uint16)
    if steps:
        steps[-1].to_indexes(light, indexes)
    else:
        kernels.to_indexes(light, indexes)
    return CodedPicture(indexes, whole_table())


def encode_clear(composed: Composed, recipe: Recipe, target: Target) -> CodedPicture:
    """The same for premultiplied light with alpha, which stays: colour as the target wants it."""
    light = np.ascontiguousarray(composed.light)
    steps = display_steps(composed, recipe, target)

    def transform(straight: Light) -> None:
        for step in steps:
            step.apply(straight)

    transform_premultiplied(light, transform)
    if target.alpha is Alpha.STRAIGHT:
        kernels.divide_alpha(light)
    indexes = np.empty((*light.shape[:2], 3), np.uint16)
    kernels.to_indexes(light, indexes)
    return CodedPicture(indexes, whole_table(), alpha=whole_alpha(light[..., 3]))


def display_steps(composed: Composed, recipe: Recipe, target: Target) -> list[colour_spaces.Shows]:
    """From light to the numbers of the target, one after the other."""
    last: colour_spaces.Shows | None
    if composed.is_shown:
        last = colour_spaces.graphics_to_display(target.space, recipe.colour.white)
    else:
        last = colour_spaces.display_of(recipe.colour, target.space, exact=target.exact)
    if last is None and target.space is Space.SRGB:
        last = colour_spaces.make_process(colour_spaces.curve(encode=True))
    steps = [] if last is None else [last]
    if target.lut is not None:
        steps.append(lut_process(target.lut))
    return steps
