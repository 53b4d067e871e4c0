"""How a picture sits in a frame: whole pixels, and the weights that scale it there."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from waxseal.core.job.model import Framing

__all__ = ["Box", "Filter", "Weights", "framing_words", "place", "scaled", "weights"]

LOBES = 3  # of the Lanczos window


@dataclass(frozen=True, slots=True)
class Box:
    """Where a picture lies in its frame, in whole pixels; may reach beyond it."""

    x: int
    y: int
    width: int
    height: int


class Filter(StrEnum):
    SHARP = "sharp"  # Lanczos, for deliveries
    AREA = "area"  # the mean of what each pixel covers, for looking


@dataclass(frozen=True, slots=True, eq=False)
class Weights:
    """One axis of a scaling.

    starts: (n,) int32, the first source pixel of each result pixel.
    values: (n, taps) float32; each row sums to one.
    """

    starts: NDArray[np.int32]
    values: NDArray[np.float32]


def place(source: tuple[int, int], frame: tuple[int, int], framing: Framing) -> Box:
    """Where a picture of size `source` lies in a frame, in pixels; centred, no thin border.

    A side that comes within a pixel of the frame's is the frame's.
    """
    width, height = source
    if framing is Framing.STRETCH:
        width, height = frame
    elif framing is not Framing.ACTUAL:
        across, down = frame[0] / width, frame[1] / height
        scale = min(across, down) if framing is Framing.FIT else max(across, down)
        width, height = snapped(width * scale, frame[0]), snapped(height * scale, frame[1])
    return Box((frame[0] - width) // 2, (frame[1] - height) // 2, width, height)


def snapped(exact: float, side: int) -> int:
    return side if abs(exact - side) < 1 else max(1, round(exact))


def scaled(box: Box, frame: tuple[int, int], to: tuple[int, int]) -> Box:
    """The same box in the same frame drawn at another size."""
    if frame == to:
        return box

    def at(value: int, axis: int) -> int:
        return round(value * to[axis] / frame[axis])

    left, top = at(box.x, 0), at(box.y, 1)
    right, bottom = at(box.x + box.width, 0), at(box.y + box.height, 1)
    return Box(left, top, max(1, right - left), max(1, bottom - top))


def framing_words(source: tuple[int, int], frame: tuple[int, int], framing: Framing) -> str:
    """What the framing does, in pixels: `fits: 240 px of ground left and right`."""
    box = place(source, frame, framing)
    parts = []
    for left, length, side, words in (
        (box.x, box.width, frame[0], "left and right"),
        (box.y, box.height, frame[1], "above and below"),
    ):
        if length < side:
            parts.append(f"{side - length} px of ground {words}")
        elif length > side and left < 0:
            parts.append(f"{length - side} px lost {words}")
    verb = {
        Framing.FIT: "fits",
        Framing.FILL: "fills",
        Framing.STRETCH: "stretched",
        Framing.ACTUAL: "actual pixels",
    }[framing]
    return f"{verb}: {', '.join(parts)}" if parts else verb


def weights(
    length: int, *, to: int, first: int, last: int, chosen: Filter = Filter.SHARP
) -> Weights:
    """Weights that scale `length` source pixels to `to`, for results first..last (both included).

    Lanczos of three lobes, widened by the ratio when scaling down; beyond the
    picture's edge nothing is taken and the rest weighs the more. AREA weighs
    by what a result pixel covers, and is only used downwards.
    Source: C. Duchon 1979, Lanczos Filtering in One and Two Dimensions.
    """
    ratio = length / to
    results = np.arange(first, last + 1, dtype=np.float64)
    if chosen is Filter.AREA and ratio >= 1:
        low, high = results * ratio, (results + 1) * ratio
        starts = np.floor(low + 1e-9).astype(np.int64)
        taps = int(np.ceil(ratio)) + 1
        pixels = starts[:, None] + np.arange(taps)
        values = np.minimum(pixels + 1, high[:, None]) - np.maximum(pixels, low[:, None])
        values = np.maximum(values, 0.0)
    else:
        wide = max(1.0, ratio)
        centres = (results + 0.5) * ratio
        starts = np.floor(centres - LOBES * wide + 0.5).astype(np.int64)
        taps = int(np.ceil(2 * LOBES * wide)) + 1
        pixels = starts[:, None] + np.arange(taps)
        away = (pixels + 0.5 - centres[:, None]) / wide
        values = np.sinc(away) * np.sinc(away / LOBES) * (np.abs(away) < LOBES)
    values = np.where((pixels >= 0) & (pixels < length), values, 0.0)
    # All taps of a row lie inside the picture: those that did not weigh nothing and move in.
    moved = np.clip(starts, 0, max(0, length - taps))
    taps = min(taps, length)
    shifted = np.zeros((len(results), taps))
    rows, columns = np.nonzero(values)
    shifted[rows, columns + (starts - moved)[rows]] = values[rows, columns]
    shifted /= shifted.sum(axis=1, keepdims=True)
    return Weights(moved.astype(np.int32), shifted.astype(np.float32))
