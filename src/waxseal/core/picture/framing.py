"""Scaling: the filters, and the weights of each source pixel in each result pixel."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

__all__ = ["Filter", "Weights", "weights"]

LOBES = 3  # of the Lanczos window


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
