"""How like a decoded frame is to the picture that it was made from.

Every frame is compared by its sketch: the means of a fixed grid of blocks,
small enough to keep for a whole film. Some are compared pixel by pixel.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["Likeness", "Sketch", "compare", "psnr", "sketch", "ssim"]

ACROSS, DOWN = 64, 36
Sketch = NDArray[np.uint8]  # the means of luma blocks, then of both chroma planes'
Plane = NDArray[Any]  # uint8; uint16 holds 10 bits

WINDOW = 11  # pixels, of the similarity of structures
FARTHEST = 6.0  # codes of rms between sketches: a coarse encode stays below 2
CLOSER = 1.0  # codes by which a neighbour has to be nearer for the order to be in doubt


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


@dataclass(frozen=True, slots=True)
class Likeness:
    """The result over a film. Frames are counted from 1.

    farthest: the largest distance of a frame's sketch, in codes; its frame.
    doubts: frames that look like their neighbour's picture rather than their own.
    """

    farthest: float
    farthest_frame: int
    unlike: tuple[int, ...]
    doubts: tuple[int, ...]


def compare(made: Sequence[Sketch], decoded: Sequence[Sketch]) -> Likeness:
    """Hold the sketches of a decoded film against those of its pictures, frame by frame."""
    farthest, farthest_frame = 0.0, 1
    unlike, doubts = [], []
    for at, seen in enumerate(decoded[: len(made)]):
        away = distance(seen, made[at])
        if away > farthest:
            farthest, farthest_frame = away, at + 1
        if away > FARTHEST:
            unlike.append(at + 1)
        for neighbour in (at - 1, at + 1):
            if 0 <= neighbour < len(made) and distance(seen, made[neighbour]) + CLOSER < away:
                doubts.append(at + 1)
                break
    return Likeness(farthest, farthest_frame, tuple(unlike), tuple(doubts))
