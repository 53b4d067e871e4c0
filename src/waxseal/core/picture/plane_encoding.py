"""Encoded colour to the planes of a layout: codes of R'G'B' or Y'CbCr, and of alpha."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture import kernels
from waxseal.core.picture.arrays import Integers, Light, Planes
from waxseal.core.picture.target import Layout, Target
from waxseal.core.picture.transfer_tables import Table

__all__ = ["MOST", "CodedPicture", "as_integers", "empty_planes", "fill_planes"]

# Red and blue in luma. ITU-R BT.709-6, BT.2020-2 and BT.601-7.
BT709_LUMA, BT2020, BT601 = (0.2126, 0.0722), (0.2627, 0.0593), (0.299, 0.114)
HALF = np.full((1, 1), 0.5, np.float32)
MOST = 65_535  # of the alpha of what is coded


@dataclass(frozen=True, slots=True, eq=False)
class CodedPicture:
    """A picture whose encoded R'G'B' is table[values].

    values: integers; or opaque light, whose bits find their places in the table of bits.
    is_untouched: whether they are the very codes of a display-encoded file.
    alpha: (h, w) uint16, 0..MOST; None for an opaque picture.
    covered: what values[..., 3] has to be everywhere, or this is not the picture; None
        where nothing is asked. Seen while planes are filled: a look of its own costs time.
    """

    values: Integers | Light
    table: Table
    is_untouched: bool = False
    alpha: NDArray[np.uint16] | None = None
    covered: int | None = None


def empty_planes(target: Target) -> Planes:
    width, height = target.stored_size
    layout = target.layout
    if layout is Layout.SCREEN:
        return (np.empty((height, width, 4), np.uint8),)
    dtype = np.uint8 if layout.depth == 8 else np.uint16
    whole, small = (height, width), (height, width)
    if layout.is_ycbcr:
        small = (height // layout.chroma_rows, width // layout.chroma_columns)
    shapes = (whole, small, small, whole) if target.has_alpha else (whole, small, small)
    return tuple(np.empty(shape, dtype) for shape in shapes)


def fill_planes(
    coded: CodedPicture,
    target: Target,
    planes: Planes,
    top: int = 0,
    stop: int | None = None,
) -> bool:
    """Fill the rows from `top` on with a part of a picture; stop: None for all that are left.

    False: it is not covered where it has to be, and the planes hold nothing of use.
    """
    rows, layout = slice(top, stop), target.layout
    has_noise = target.dither and not coded.is_untouched
    is_short = layout is Layout.YUV420 and not has_noise and not target.space.is_high_range
    is_light = coded.values.dtype == np.float32
    if not is_short:
        coded = as_integers(coded)
    one = None if is_short else coded.covered  # the short way sees it as it goes
    if one is not None and not kernels.is_covered(coded.values, one):
        return False
    if layout is Layout.SCREEN:
        kernels.to_screen(coded.values, coded.table, planes[0][rows])
        return True
    spread = noise(*planes[0].shape)[rows] if has_noise else HALF
    if target.has_alpha:
        planes[3][rows] = alpha_codes(coded, target, planes[3][rows].shape)
    if layout.is_rgb:
        red, green, blue = (plane[rows] for plane in planes[:3])
        most = (1 << layout.depth) - 1
        kernels.to_rgb(coded.values, coded.table, (red, green, blue), most, spread)
        if layout is Layout.RGB10:
            for part in (red, green, blue):
                part[:] = fill_16(part)
        return True
    down = layout.chroma_rows
    fewer = slice(top // down, None if stop is None else stop // down)
    y, cb, cr = planes[0][rows], planes[1][fewer], planes[2][fewer]
    if is_short and is_light:
        kernels.light_to_yuv420(coded.values, coded.table, y, cb, cr)
        return True
    if is_short:
        return kernels.to_yuv420(coded.values, coded.table, y, cb, cr, coded.covered)
    is_full = layout is Layout.FULL_422
    coefficients = BT2020 if target.space.is_high_range else BT601 if is_full else BT709_LUMA
    kernels.to_ycbcr(
        coded.values, coded.table, (y, cb, cr), coefficients, layout.depth, spread, is_full=is_full
    )
    return True


def as_integers(coded: CodedPicture) -> CodedPicture:
    """The same picture with integers as its values: light is replaced by its indexes."""
    if coded.values.dtype != np.float32:
        return coded
    indexes = np.empty(coded.values.shape, np.uint16)
    kernels.index_light(coded.values, indexes)
    return replace(coded, values=indexes)


def alpha_codes(coded: CodedPicture, target: Target, shape: tuple[int, ...]) -> NDArray[np.uint32]:
    """Alpha from 0 to the largest code of the layout, whole range; the last row is repeated."""
    most = (1 << target.layout.depth) - 1
    if coded.alpha is None:
        return np.full(shape, most, np.uint32)
    codes: NDArray[np.uint32] = coded.alpha.astype(np.uint32) * np.uint32(most)
    codes = (codes + np.uint32(MOST // 2)) // np.uint32(MOST)
    if target.layout is Layout.RGB10:
        codes = fill_16(codes)
    beyond = [(0, there - here) for there, here in zip(shape, codes.shape, strict=True)]
    return np.pad(codes, beyond, "edge") if codes.shape != shape else codes


def fill_16(codes: NDArray[Any]) -> NDArray[Any]:
    """Codes of 10 bits that fill 16, the upper bits repeated below: 0 to 65 535."""
    return np.asarray((codes << 6) | (codes >> 4))


@lru_cache(maxsize=4)
def noise(height: int, width: int) -> Light:
    """What dithering adds before rounding down: 0..1, even over any few pixels.

    Source: Jimenez 2014, Next Generation Post Processing: interleaved gradient noise.
    """
    rows, columns = np.mgrid[0:height, 0:width].astype(np.float64)
    slope = np.modf(columns * 0.06711056 + rows * 0.00583715)[0]
    return np.asarray(np.modf(52.9829189 * slope)[0], np.float32)
