"""Scaling: the filters, and the weights of each source pixel in each result pixel."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.target import Filter

__all__ = ["Weights", "weights"]

LOBES = 3  # of the Lanczos window
B_SPLINE = 2  # pixels to each side that the cubic reaches


@dataclass(frozen=True, slots=True, eq=False)
class Weights:
    """One axis of a scaling.

    starts: (n,) int32, the first source pixel of each result pixel.
    values: (n, taps) float32; each row sums to one.
    """

    starts: NDArray[np.int32]
    values: NDArray[np.float32]


@lru_cache(maxsize=64)  # every frame of a shot is scaled alike; nobody writes into them
def weights(
    length: int,
    *,
    to: int,
    first: int,
    last: int,
    chosen: Filter = Filter.SHARP,
    is_held: bool = False,
) -> Weights:
    """Weights that scale `length` source pixels to `to`, for results first..last (both included).

    Lanczos of three lobes, widened by the ratio when scaling down; beyond the
    picture's edge nothing is taken and the rest weighs the more. AREA weighs
    by what a result pixel covers, and is only used downwards. is_held: only the lobe in
    the middle, which is nowhere negative.
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
        reach = B_SPLINE if chosen is Filter.SOFT else LOBES
        centres = (results + 0.5) * ratio
        starts = np.floor(centres - reach * wide + 0.5).astype(np.int64)
        taps = int(np.ceil(2 * reach * wide)) + 1
        pixels = starts[:, None] + np.arange(taps)
        away = (pixels + 0.5 - centres[:, None]) / wide
        values = b_spline(away) if chosen is Filter.SOFT else lanczos(away)
        if is_held and chosen is not Filter.SOFT:
            values *= np.abs(away) < 1
    values = np.where((pixels >= 0) & (pixels < length), values, 0.0)
    # As few taps as weigh something, and all inside the picture: the rest of a row moves in.
    weighs = values != 0
    leading, trailing = weighs.argmax(axis=1), weighs[:, ::-1].argmax(axis=1)
    taps = int((taps - leading - trailing).max())
    moved = np.clip(starts + leading, 0, length - taps)
    shifted = np.zeros((len(results), taps))
    rows, columns = np.nonzero(weighs)
    shifted[rows, columns + (starts - moved)[rows]] = values[rows, columns]
    shifted /= shifted.sum(axis=1, keepdims=True)
    return Weights(moved.astype(np.int32), shifted.astype(np.float32))


def lanczos(away: NDArray[np.float64]) -> NDArray[np.float64]:
    """Source: C. Duchon 1979, Lanczos Filtering in One and Two Dimensions."""
    values = np.sinc(away) * np.sinc(away / LOBES) * (np.abs(away) < LOBES)
    return np.asarray(values, np.float64)


def b_spline(away: NDArray[np.float64]) -> NDArray[np.float64]:
    """Source: Mitchell & Netravali 1988, Reconstruction Filters in Computer Graphics: B 1, C 0."""
    far = np.abs(away)
    near = (4 - 6 * far**2 + 3 * far**3) / 6
    return np.asarray(np.where(far < 1, near, np.maximum(2 - far, 0) ** 3 / 6), np.float64)
