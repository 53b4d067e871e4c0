"""Y'CbCr planes of a decoded movie to R'G'B', in full precision.

The library's own conversion changes more than a third of the luma codes of an
8-bit picture by one or more; this one gives them back (measured, 1080p).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["Matrix", "PlaneCoding", "rgb_of_planes"]

Plane = NDArray[Any]
Light = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Matrix:
    """The weights of red and blue in luma; green has the rest. Source: ITU-T H.273, table 4."""

    red: float
    blue: float


MATRICES = {
    1: Matrix(0.2126, 0.0722),
    4: Matrix(0.30, 0.11),
    5: Matrix(0.299, 0.114),
    6: Matrix(0.299, 0.114),
    7: Matrix(0.212, 0.087),
    9: Matrix(0.2627, 0.0593),
}


@dataclass(frozen=True, slots=True)
class PlaneCoding:
    """How planes are coded.

    matrix: its number in ITU-T H.273. bits: 8 to 16. is_full: codes from 0 to
    the largest, else the limited range. is_centred: chroma sited between its
    pixels across, as in JPEG; else with the left one, as in H.264 and MPEG-2.
    """

    matrix: int
    bits: int
    is_full: bool
    is_centred: bool = False


def rgb_of_planes(planes: tuple[Plane, ...], coding: PlaneCoding) -> NDArray[np.uint16]:
    """R'G'B', 0..65535, with alpha where there is a fourth plane.

    planes: Y', Cb, Cr and perhaps alpha (always full range), uint8 or uint16;
        (height, width), chroma smaller by a whole factor or a row less than it.
    Returns (height, width, 3 or 4) uint16. What is outside R'G'B' is clipped.
    Source: ITU-R BT.709-6, item 3; ITU-T H.273, equations 20 to 38.
    """
    step = float(1 << (coding.bits - 8))
    most = float((1 << coding.bits) - 1)
    height, width = planes[0].shape
    low, luma_range, chroma_range = (0.0, most, most) if coding.is_full else (
        16 * step, 219 * step, 224 * step
    )  # fmt: skip
    luma = planes[0].astype(np.float32)
    luma -= np.float32(low)
    luma *= np.float32(65_535 / luma_range)
    middle = np.float32(128 * step)
    scale = np.float32(65_535 / chroma_range)
    blue_diff, red_diff = (
        spread((plane.astype(np.float32) - middle) * scale, height, width, coding.is_centred)
        for plane in planes[1:3]
    )
    matrix = MATRICES.get(coding.matrix, MATRICES[1])
    green_weight = 1 - matrix.red - matrix.blue
    rgb = np.empty((height, width, len(planes)), np.uint16)
    store(rgb[..., 0], luma + red_diff * np.float32(2 * (1 - matrix.red)))
    store(rgb[..., 2], luma + blue_diff * np.float32(2 * (1 - matrix.blue)))
    blue_diff *= np.float32(2 * matrix.blue * (1 - matrix.blue) / green_weight)
    red_diff *= np.float32(2 * matrix.red * (1 - matrix.red) / green_weight)
    luma -= blue_diff
    luma -= red_diff
    store(rgb[..., 1], luma)
    if len(planes) == 4:
        store(rgb[..., 3], planes[3].astype(np.float32) * np.float32(65_535 / most))
    return rgb


def store(target: NDArray[np.uint16], values: Light) -> None:
    values += np.float32(0.5)
    np.clip(values, 0, 65_535, out=values)
    target[:] = values


def spread(chroma: Light, height: int, width: int, is_centred: bool) -> Light:  # noqa: FBT001
    """Chroma at every pixel of luma, by straight lines between its own."""
    if -(-height // chroma.shape[0]) > 1:
        chroma = between(chroma)[:height]
    if -(-width // chroma.shape[1]) > 1:
        across = np.ascontiguousarray(chroma.T)
        chroma = (between(across) if is_centred else beside(across)).T[:, :width]
    return np.ascontiguousarray(chroma)


def between(lines: Light) -> Light:
    """Twice as many lines; each old one is between two new ones."""
    before = np.concatenate([lines[:1], lines[:-1]])
    after = np.concatenate([lines[1:], lines[-1:]])
    twice = np.empty((2 * len(lines), lines.shape[1]), np.float32)
    twice[0::2] = lines * np.float32(0.75) + before * np.float32(0.25)
    twice[1::2] = lines * np.float32(0.75) + after * np.float32(0.25)
    return twice


def beside(lines: Light) -> Light:
    """Twice as many lines; each old one is the first of two new ones."""
    after = np.concatenate([lines[1:], lines[-1:]])
    twice = np.empty((2 * len(lines), lines.shape[1]), np.float32)
    twice[0::2] = lines
    twice[1::2] = (lines + after) * np.float32(0.5)
    return twice
