"""How like a decoded frame is to the picture that it was made from.

Every frame leaves a mark when it is made, small enough to keep for a whole film,
and another when it is decoded. What loses nothing is recognised by a digest of
its pixels, everything else by a sketch: the means of a fixed grid of blocks. Some
frames are compared pixel by pixel besides.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import xxhash
from numpy.typing import NDArray

from waxseal.core.picture.arrays import Plane

__all__ = [
    "Comparison",
    "Likeness",
    "Sketch",
    "compare_digests",
    "compare_sketches",
    "comparison_for",
    "digest",
    "psnr",
    "sketch",
    "ssim",
]

ACROSS, DOWN = 64, 36
Sketch = NDArray[np.uint8]  # the means of luma blocks, then of both chroma planes'

WINDOW = 11  # pixels, of the similarity of structures
FARTHEST = 6.0  # codes of rms between sketches: a coarse encode stays below 2
CLOSER = 1.0  # codes by which a neighbour has to be nearer for the order to be in doubt


@dataclass(frozen=True, slots=True)
class Likeness:
    """The result over a film. Frames are counted from 1.

    compared: how many frames were compared at all.
    farthest: the largest distance of a frame's sketch, in codes; its frame.
    unlike: frames that do not look like their pictures.
    doubts: frames that look like their neighbour's picture rather than their own.
    """

    compared: int
    farthest: float
    farthest_frame: int
    unlike: tuple[int, ...]
    doubts: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Comparison:
    """mark: what is kept of the planes of a picture.

    compare: the marks that were made, and those that were decoded by their frames' places.
    """

    mark: Callable[[Sequence[Plane]], Any]
    compare: Callable[[Sequence[Any], Mapping[int, Any]], Likeness]


def comparison_for(*, is_lossless: bool) -> Comparison:
    if is_lossless:
        return Comparison(digest, compare_digests)
    return Comparison(sketch, compare_sketches)


# ---- digests ---------------------------------------------------------------------------------


def digest(planes: Sequence[Plane]) -> int:
    """One number for the bits of all planes."""
    total = xxhash.xxh3_64()
    for plane in planes:
        total.update(np.ascontiguousarray(plane).data)
    return total.intdigest()


def compare_digests(made: Sequence[int], decoded: Mapping[int, int]) -> Likeness:
    """Compare each frame with its picture, bit by bit."""
    compared = [at for at in range(len(made)) if at in decoded]
    unlike = tuple(at + 1 for at in compared if made[at] != decoded[at])
    return Likeness(len(compared), 0.0, 1, unlike)


# ---- sketches --------------------------------------------------------------------------------


def sketch(planes: Sequence[Plane]) -> Sketch:
    """The block means of three planes, rounded, as one row of uint8."""
    means = [block_means(planes[0], ACROSS, DOWN)]
    means += [block_means(plane, ACROSS // 4, DOWN // 4) for plane in planes[1:]]
    return np.concatenate([mean.ravel() for mean in means])


def block_means(plane: Plane, across: int, down: int) -> Sketch:
    """(down, across) means; a picture smaller than the grid has a block a pixel."""
    height, width = plane.shape
    across, down = min(across, width), min(down, height)
    wide, tall = width // across, height // down
    # What is left over at the right and below, less than a block, is not looked at.
    cut = plane[: tall * down, : wide * across]
    lines = np.add.reduce(cut.reshape(down, tall, wide * across), axis=1, dtype=np.uint32)
    sums = np.add.reduce(lines.reshape(down, across, wide), axis=2, dtype=np.uint32)
    each = wide * tall * steps_in_code(plane)
    means: Sketch = np.minimum((sums + each // 2) // each, 255).astype(np.uint8)
    return means


def steps_in_code(plane: Plane) -> int:
    """How many steps of a plane make one of 8 bits."""
    return 1 if plane.dtype == np.uint8 else 4


def distance(one: Sketch, other: Sketch) -> float:
    """Root of the mean square difference, in codes."""
    away = one.astype(np.float32) - other.astype(np.float32)
    return float(np.sqrt(np.mean(away * away)))


def compare_sketches(made: Sequence[Sketch], decoded: Mapping[int, Sketch]) -> Likeness:
    """Compare the sketches of a decoded film with those of its pictures, frame by frame."""
    farthest, farthest_frame = 0.0, 1
    unlike, doubts = [], []
    compared = [at for at in range(len(made)) if at in decoded]
    for at in compared:
        seen = decoded[at]
        away = distance(seen, made[at])
        if away > farthest:
            farthest, farthest_frame = away, at + 1
        if away > FARTHEST:
            unlike.append(at + 1)
        for neighbour in (at - 1, at + 1):
            if 0 <= neighbour < len(made) and distance(seen, made[neighbour]) + CLOSER < away:
                doubts.append(at + 1)
                break
    return Likeness(len(compared), farthest, farthest_frame, tuple(unlike), tuple(doubts))


# ---- whole frames ----------------------------------------------------------------------------


def psnr(one: Plane, other: Plane) -> float:
    """Peak signal-to-noise ratio in dB: 10·log10(255² ÷ MSE); infinite for equal planes."""
    away = (one.astype(np.float32) - other.astype(np.float32)) / np.float32(steps_in_code(one))
    mean_square = float(np.mean(away * away))
    return float("inf") if mean_square == 0 else float(10 * np.log10(255.0**2 / mean_square))


def ssim(one: Plane, other: Plane) -> float:
    """Structural similarity of two planes, 1 for equal ones; the mean over their insides.

    Source: Wang et al. 2004, Image Quality Assessment: a Gaussian window of
    11 x 11 with a deviation of 1.5, K1 0.01, K2 0.03. Smaller planes have none: 1.
    """
    import cv2

    if min(one.shape) < WINDOW:
        return 1.0
    steps = np.float32(steps_in_code(one))
    x, y = one.astype(np.float32) / steps, other.astype(np.float32) / steps

    def mean(values: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.asarray(cv2.GaussianBlur(values, (WINDOW, WINDOW), 1.5), np.float32)

    x_mean, y_mean = mean(x), mean(y)
    x_spread, y_spread = mean(x * x) - x_mean**2, mean(y * y) - y_mean**2
    both = mean(x * y) - x_mean * y_mean
    light, contrast = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    alike = (2 * x_mean * y_mean + light) * (2 * both + contrast)
    alike /= (x_mean**2 + y_mean**2 + light) * (x_spread + y_spread + contrast)
    edge = WINDOW // 2
    return float(alike[edge:-edge, edge:-edge].mean(dtype=np.float64))
