"""A source's frame as light: decoded, read as said, premultiplied, in working primaries."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, replace
from functools import lru_cache, partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.frames.decode_ahead import decode
from waxseal.core.frames.frame_reader import Pixels
from waxseal.core.job.model import (
    BT709,
    DISPLAY_ENCODED,
    HIGH_RANGE,
    Alpha,
    Chromaticities,
    Colour,
    Colourway,
    Space,
    View,
    Working,
    change,
)
from waxseal.core.picture import kernels
from waxseal.core.picture.alpha_transforms import (
    Transform,
    transform_premultiplied,
    transform_straight,
)
from waxseal.core.picture.arrays import Integers, Light
from waxseal.core.picture.colour.colour_spaces import (
    display_to_working,
    high_range_to_light,
    source_to_working,
)
from waxseal.core.picture.colour.grading import lut_process
from waxseal.core.picture.kernels.stored_picture import StoredPicture
from waxseal.core.picture.light.frame_mixing import mix, move, move_along
from waxseal.core.picture.light.pass_stacking import PassLight, put_together
from waxseal.core.picture.transfer_tables import (
    BT1886,
    alpha_table,
    codes_of,
    decode_film_log,
    decode_srgb,
    encode_srgb,
    linear_of,
    linear_table,
    primaries_matrix,
    stored_as_integers,
)
from waxseal.core.plan.recipe import Beside, Layer, PassPick, Pick, Shown

if TYPE_CHECKING:
    from waxseal.core.picture.copies.proxy_folder import LightCopies

__all__ = [
    "Means",
    "covering",
    "decode_pick",
    "dtype_of",
    "key_of",
    "layer_light",
    "light_of",
    "light_of_shown",
    "read_frame",
    "typed_colour",
    "values_between",
    "values_of",
]

Size = tuple[int, int]  # width, height
MOST_HALF = float(np.finfo(np.float16).max)


SPACES = {Colour.PQ: Space.PQ, Colour.HLG: Space.HLG}
GRAPHICS = Colourway()  # the primaries that graphics are mixed in, and no view


@dataclass(frozen=True, slots=True)
class Means:
    """What light is worked out with, and for which space of a file.

    copies: taken in place of frames that have one; never for a delivery.
    is_graphics: whether light is that of graphics: what the display shows, in BT.709
        primaries, 1 where graphics are white.
    """

    colourway: Colourway
    space: Space
    copies: LightCopies | None = None
    is_graphics: bool = False

    @property
    def is_one_light(self) -> bool:
        """Whether graphics and scene are mixed in one light, which the end makes codes of.

        So it is where nothing but a curve is between the two, and where light itself
        is delivered.
        """
        has_view = self.colourway.view is not View.PLAIN or self.space.is_high_range
        return self.is_graphics or not has_view or self.space is Space.LINEAR

    @property
    def graphics(self) -> Means:
        """For the light of graphics."""
        if self.is_one_light:
            return self
        white = self.colourway.white
        return replace(self, colourway=change(GRAPHICS, white=white), is_graphics=True)

    def of(self, layer: Layer) -> Means:
        """For the light that a layer is read in."""
        return self.graphics if layer.is_graphics else self


def decode_pick(pick: Pick) -> Pixels:
    """Raises FrameError."""
    path, part = Path(pick.file.path), pick.read.part
    return decode(path, frame=pick.frame, part=part, key=key_of(pick))


def key_of(pick: Pick) -> Hashable:
    """The key that a decoded frame is shared under; a file that was replaced has another."""
    return pick.file, pick.frame, pick.read.part


def dtype_of(pixels: Pixels) -> np.dtype[Any]:
    """The type that indexes a table: floats are looked up as halves."""
    return pixels.values.dtype if pixels.values.dtype.kind == "u" else np.dtype(np.float16)


def values_of(pixels: Pixels) -> Light:
    """What the file says, 0..1 for integers, as (h, w, 3 or 4); not read as any colour."""
    values = pixels.values
    if values.dtype.kind == "u":
        return values.astype(np.float32) / np.float32(np.iinfo(values.dtype).max)
    return values.astype(np.float32)


def values_between(beside: Beside, means: Means) -> Light:
    """The values of what belongs to a picture, mixed or moved as the picture is.

    Raises FrameError, JobError.
    """
    before = values_of(decode_pick(beside.pick))
    if beside.following is None:
        return before
    after, share = values_of(decode_pick(beside.following)), float(beside.share)
    if before.shape != after.shape:
        return before
    if beside.along is None:
        return mix(before, after, share)
    first, last = (light_as_shown(one, means)[0] for one in beside.along)
    return move_along(first, last, before, after, share)


def covering(values: Integers, kind: np.dtype[Any], alpha: Alpha) -> int | None:
    """What alpha has to be in every pixel, as it is stored, or what is behind can be seen.

    None: nothing is asked, as there is no alpha, or it is read as none.
    """
    if values.shape[2] == 3 or alpha is Alpha.NONE:
        return None
    return 0x3C00 if kind == np.float16 else int(np.iinfo(values.dtype).max)


def layer_light(layer: Layer, means: Means, pixels: Pixels | None = None) -> tuple[Light, Size]:
    """The light of a layer, and its source's size. Raises FrameError, JobError.

    Only the light of a copy has another size than its source.
    """
    light, size = light_as_shown(layer.shown, means, pixels)
    between = layer.between
    if between is not None:
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
    passes = [PassLight(one, light_of_pass(one, means), tint_of(one.tint, means)) for one in shown]
    return put_together(passes)


def light_of_pass(one: PassPick, means: Means) -> Light:
    light = light_of(one.pick, means)
    if one.times is not None:
        light = light.copy()
        light[..., :3] *= light_of(one.times, means)[..., :3]
    return light


def light_of(pick: Pick, means: Means, pixels: Pixels | None = None) -> Light:
    """One frame as working light. Raises FrameError, JobError."""
    read = read_frame(pick, means, pixels)
    return kernels.to_linear(read) if isinstance(read, StoredPicture) else read


def read_frame(pick: Pick, means: Means, pixels: Pixels | None = None) -> StoredPicture | Light:
    """One frame as it is stored, where tables make working light of it; as light else.

    What is display-encoded becomes the light that the view shows as it; BT.709
    frames have the curve of sRGB, as files for the two are taken for one
    another, but where a delivery is made for a display with the curve of BT.1886.
    pixels: the frame, where the caller has decoded it already.
    Raises FrameError, JobError.
    """
    pixels = pixels or decode_pick(pick)
    values, kind = stored_as_integers(pixels.values), dtype_of(pixels)
    covered = covering(values, kind, pick.read.alpha)
    needs = needs_numbers(pick, pixels, means)
    if needs or has_premultiplied_curve(pick):
        is_opaque = covered is None or kernels.is_covered(values, covered)
        if needs or not is_opaque:
            return by_numbers(pick, pixels, means, is_opaque=is_opaque)
    working = means.colourway.working.chromaticities
    return StoredPicture(
        np.ascontiguousarray(values),
        linear_table(kind, pick.read.colour, is_bt1886=is_bt1886(pick, means)),
        alpha_table(kind),
        primaries_matrix(pick.read.chromaticities, working),
        is_straight=pick.read.alpha is Alpha.STRAIGHT,
        channels=3 if covered is None else 4,
        covered=covered,
    )


def has_premultiplied_curve(pick: Pick) -> bool:
    """Whether colour had its curve before it was multiplied by alpha: no table undoes both."""
    read = pick.read
    has_curve = read.colour is not Colour.LINEAR or read.matte != "#000000"
    return has_curve and read.alpha is Alpha.PREMULTIPLIED


def needs_numbers(pick: Pick, pixels: Pixels, means: Means) -> bool:
    """Whether even an opaque frame needs more than tables to become light."""
    read = pick.read
    if read.lut is not None or read.colour in (Colour.OWN, *HIGH_RANGE) or is_viewed(pick, means):
        return True
    # Brighter than a half can say: the table would cut it.
    return pixels.values.dtype == np.float32 and bool((np.abs(pixels.values) > MOST_HALF).any())


def is_viewed(pick: Pick, means: Means) -> bool:
    return means.colourway.view is not View.PLAIN and pick.read.colour in DISPLAY_ENCODED


def is_bt1886(pick: Pick, means: Means) -> bool:
    return pick.read.colour is Colour.BT709 and means.space not in (Space.SRGB, Space.LINEAR)


def by_numbers(pick: Pick, pixels: Pixels, means: Means, *, is_opaque: bool) -> Light:
    """What a table cannot do: a LUT, a space of the config, a curve on premultiplied colour."""
    light = np.nan_to_num(values_of(pixels), nan=0.0, posinf=MOST_HALF, neginf=-MOST_HALF)
    if is_opaque:
        light = np.ascontiguousarray(light[..., :3])
    transform = to_working(pick, means)
    if light.shape[2] == 3:
        transform(light)
        return light
    np.clip(light[..., 3], 0, 1, out=light[..., 3])
    if pick.read.alpha is Alpha.STRAIGHT:
        transform_straight(light, transform)
        return light
    # Porter & Duff 1984, over an opaque colour, solved for the front, which is premultiplied.
    light[..., :3] -= np.array(codes_of(pick.read.matte), np.float32) * (1 - light[..., 3:])
    transform_premultiplied(light, transform)
    return light


def to_working(pick: Pick, means: Means) -> Transform:
    """From the numbers of a file, straight, to working light, in place. Raises JobError."""
    read, colourway = pick.read, means.colourway
    steps: list[Transform] = []
    if read.lut is not None:
        steps.append(lut_process(read.lut).apply)
    if read.colour is Colour.OWN:
        steps.append(source_to_working(read.space, colourway).apply)
    elif is_viewed(pick, means):
        if primaries_matrix(read.chromaticities) is not None:
            steps.append(partial(to_usual_display, read.chromaticities))
        steps.append(display_to_working(colourway, means.space).apply)
    else:
        if read.colour in HIGH_RANGE:
            steps.append(high_range_to_light(SPACES[read.colour], colourway.white).apply)
        else:
            steps.append(partial(linearise, read.colour, is_bt1886(pick, means)))
        matrix = primaries_matrix(read.chromaticities, colourway.working.chromaticities)
        if matrix is not None:
            steps.append(partial(turn_primaries, matrix))

    def transform(light: Light) -> None:
        for step in steps:
            step(light)

    return transform


def turn_primaries(matrix: NDArray[np.float32], light: Light) -> None:
    light[..., :3] = light[..., :3] @ matrix.T


def to_usual_display(chromaticities: Chromaticities, light: Light) -> None:
    """The numbers of a display of other primaries as those of a usual one, in place."""
    matrix = primaries_matrix(chromaticities)
    if matrix is not None:
        values = light[..., :3]
        values[:] = encode_srgb(decode_srgb(np.maximum(values, 0)) @ matrix.T)


def linearise(colour: Colour, has_bt1886: bool, light: Light) -> None:  # noqa: FBT001
    """Numbers that are no integers any more, by the curve of their colour, in place.

    Light that a premultiplied file adds may be above one: the curve goes on.
    """
    if colour is Colour.LINEAR:
        return
    values = light[..., :3]
    if colour is Colour.FILM_LOG:
        values[:] = decode_film_log(values.astype(np.float64))
    elif has_bt1886:
        values[:] = np.maximum(values, 0) ** np.float32(BT1886)
    else:
        values[:] = decode_srgb(np.maximum(values, 0))


@lru_cache(maxsize=256)
def typed_light(colour: str, colourway: Colourway, space: Space) -> tuple[float, float, float]:
    if colourway.view is View.PLAIN or space is not Space.LINEAR:
        return factor_of(colour, colourway.working)
    light = np.array(codes_of(colour), np.float32).reshape(1, 1, 3)
    display_to_working(colourway, space).apply(light)
    red, green, blue = (float(value) for value in light[0, 0])
    return red, green, blue


def typed_colour(colour: str, means: Means) -> Light:
    """A colour that was typed, `#rrggbb` in sRGB, as light, (3,).

    Of a delivery of light itself under a view, the light that the view shows so.
    """
    return np.array(typed_light(colour, means.colourway, means.space), np.float32)


@lru_cache(maxsize=256)
def factor_of(colour: str, working: Working) -> tuple[float, float, float]:
    light = np.array(linear_of(colour), np.float32).reshape(1, 1, 3)
    matrix = primaries_matrix(BT709, working.chromaticities)
    if matrix is not None:
        turn_primaries(matrix, light)
    red, green, blue = (float(value) for value in light[0, 0])
    return red, green, blue


def tint_of(colour: str, means: Means) -> Light:
    """What light is multiplied by to be tinted, (3,): white light gets this colour."""
    return np.array(factor_of(colour, means.colourway.working), np.float32)
