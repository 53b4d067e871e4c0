"""A source's frame as light: decode_pick, read as said, premultiplied, in working primaries."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.frames.decoding import decode
from waxseal.core.frames.reading import Pixels
from waxseal.core.job.model import Alpha, Colour, Colourway, Space, View
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.colour.curves import (
    alpha_table,
    decode_film_log,
    decode_srgb,
    linear_table,
    plain_table,
    primaries_matrix,
    stored_as_integers,
)
from waxseal.core.picture.kernels.choice import Kernels
from waxseal.core.picture.light.stacking import put_together
from waxseal.core.plan.recipe import Layer, Pick, Shown

if TYPE_CHECKING:
    from waxseal.core.picture.copies.folder import LightCopies

__all__ = [
    "DISPLAY_ENCODED",
    "Means",
    "decode_pick",
    "is_opaque",
    "kind_of",
    "layer_light",
    "light_of",
    "light_of_shown",
    "values_of",
]

Size = tuple[int, int]  # width, height
DISPLAY_ENCODED = (Colour.SRGB, Colour.BT709, Colour.RAW)


@dataclass(frozen=True, slots=True)
class Means:
    """What light is worked out with, and for which space of a file.

    copies: taken in place of frames that have one; never for a delivery.
    """

    colourway: Colourway
    space: Space
    kernels: Kernels
    copies: LightCopies | None = None


def decode_pick(pick: Pick) -> Pixels:
    """Raises FrameError."""
    return decode(Path(pick.file.path), frame=pick.frame, part=pick.read.part)


def kind_of(pixels: Pixels) -> np.dtype[Any]:
    """The type that indexes a table: floats are looked up as halves."""
    return pixels.values.dtype if pixels.values.dtype.kind == "u" else np.dtype(np.float16)


def values_of(pixels: Pixels) -> Light:
    """What the file says, 0..1 for integers, as (h, w, 3 or 4); not read as any colour."""
    values = pixels.values
    if values.dtype.kind == "u":
        return values.astype(np.float32) / np.float32(np.iinfo(values.dtype).max)
    return values.astype(np.float32)


def is_opaque(values: NDArray[Any], kind: np.dtype[Any], alpha: Alpha) -> bool:
    """Whether nothing behind the picture can be seen: no alpha, read as none, or one everywhere."""
    if values.shape[2] == 3 or alpha is Alpha.NONE:
        return True
    one = 0x3C00 if kind == np.float16 else np.iinfo(values.dtype).max
    covered = values[..., 3]
    # Where anything is clear, the first row mostly says so.
    return bool((covered[0] == one).all() and (covered == one).all())


def layer_light(layer: Layer, means: Means, pixels: Pixels | None = None) -> tuple[Light, Size]:
    """The light of a layer, and its source's size. Raises FrameError, JobError.

    Only the light of a copy has another size than its source.
    """
    light, size = light_as_shown(layer.shown, means, pixels)
    between = layer.between
    if between is not None:
        from waxseal.core.picture.light.between import mix, move  # OpenCV: only where needed

        after, _ = light_as_shown(between.following, means)
        if light.shape == after.shape:
            light = (move if between.by_motion else mix)(light, after, float(between.share))
    return light, size


def light_as_shown(shown: Shown, means: Means, pixels: Pixels | None = None) -> tuple[Light, Size]:
    """From a copy where there is one; and the size of the frame itself."""
    copy = means.copies.find(shown, means.colourway) if means.copies is not None else None
    if copy is not None:
        return copy
    light = light_of_shown(shown, means, pixels)
    return light, (light.shape[1], light.shape[0])


def light_of_shown(shown: Shown, means: Means, pixels: Pixels | None = None) -> Light:
    if isinstance(shown, Pick):
        return light_of(shown, means, pixels)
    passes = [(one, light_of(one.pick, means)) for one in shown]
    return put_together(passes, passes[0][1].shape[0])


def light_of(pick: Pick, means: Means, pixels: Pixels | None = None) -> Light:
    """One frame as working light. Raises FrameError, JobError.

    What is display-encoded becomes the light that the view shows as it; BT.709
    frames have the curve of sRGB, as files for the two are taken for one
    another, but where a delivery is made for a display with the curve of BT.1886.
    pixels: the frame, where the caller has decode_pick it already.
    """
    kernels, working = means.kernels, means.colourway.working.chromaticities
    pixels = pixels or decode_pick(pick)
    values, kind = stored_as_integers(pixels.values), kind_of(pixels)
    opaque = is_opaque(values, kind, pick.read.alpha)
    is_viewed = means.colourway.view is not View.PLAIN and pick.read.colour in DISPLAY_ENCODED
    if pick.read.lut is not None or pick.read.colour is Colour.OWN or is_viewed:
        return by_library(pick, values[..., :3] if opaque else values, kind, means)
    is_linear = pick.read.colour is Colour.LINEAR
    is_straight = pick.read.alpha is Alpha.STRAIGHT
    has_matte = pick.read.matte != "#000000"
    if not opaque and not is_straight and (has_matte or not is_linear):
        values, is_straight = straighten(values, kind, pick.read.matte), True
    return kernels.to_linear(
        np.ascontiguousarray(values),
        linear_table(kind, pick.read.colour, is_bt1886=is_bt1886(pick, means)),
        alpha_table(kind),
        primaries_matrix(pick.read.chromaticities, working),
        is_straight=is_straight,
        channels=3 if opaque else values.shape[2],
    )


def is_bt1886(pick: Pick, means: Means) -> bool:
    return pick.read.colour is Colour.BT709 and means.space not in (Space.SRGB, Space.LINEAR)


def by_library(pick: Pick, values: NDArray[Any], kind: np.dtype[Any], means: Means) -> Light:
    """Through a LUT, a space of the config, or both, on straight values as the file has them."""
    from waxseal.core.picture.colour.spaces import display_to_working, source_to_working
    from waxseal.core.picture.finish.grading import lut_process

    kernels, colourway = means.kernels, means.colourway
    if values.shape[2] == 4 and pick.read.alpha is Alpha.PREMULTIPLIED:
        values = straighten(values, kind, pick.read.matte)
    table = plain_table(kind)
    light = kernels.to_linear(
        np.ascontiguousarray(values),
        table,
        alpha_table(kind),
        None,
        is_straight=False,
        channels=values.shape[2],
    )
    if pick.read.lut is not None:
        lut_process(pick.read.lut).apply(light)
    if pick.read.colour is Colour.OWN:
        source_to_working(pick.read.space, colourway).apply(light)
    elif colourway.view is not View.PLAIN and pick.read.colour in DISPLAY_ENCODED:
        display_to_working(colourway, means.space).apply(light)
    else:
        light[..., :3] = as_linear(light[..., :3], pick.read.colour)
        matrix = primaries_matrix(pick.read.chromaticities, colourway.working.chromaticities)
        if matrix is not None:
            light[..., :3] = light[..., :3] @ matrix.T
    if light.shape[2] == 4:
        kernels.multiply_alpha(light)
    return light


def as_linear(values: Light, colour: Colour) -> Light:
    """Numbers that are no integers any more, by the curve of their colour."""
    if colour is Colour.LINEAR:
        return values
    if colour is Colour.FILM_LOG:
        return decode_film_log(values.astype(np.float64)).astype(np.float32)
    return decode_srgb(np.clip(values, 0, 1).astype(np.float64)).astype(np.float32)


def straighten(values: NDArray[Any], kind: np.dtype[Any], matte: str) -> NDArray[Any]:
    """Colour taken off its matte: a curve is never applied to premultiplied values.

    values: (height, width, 4), as stored. What is clear stays as it is.
    matte: `#rrggbb`; in the file's own encoding, as the colour was laid over it.
    Source: Porter & Duff 1984, over an opaque colour, solved for the front.
    """
    if kind == np.float16:
        numbers, most = values.view(np.float16).astype(np.float32), 1.0
    else:
        numbers, most = values.astype(np.float32), float(np.iinfo(kind).max)
    colour, alpha = numbers[..., :3], numbers[..., 3:]
    behind = np.array([int(matte[at : at + 2], 16) for at in (1, 3, 5)], np.float32) * (most / 255)
    with np.errstate(divide="ignore", invalid="ignore"):
        front = (colour - behind) * (most / alpha) + behind
    front = np.where(alpha > 0, front, colour)
    straight = values.copy()
    if kind == np.float16:
        straight.view(np.float16)[..., :3] = front
    else:
        straight[..., :3] = np.clip(front + 0.5, 0, most)
    return straight
