"""How like a decoded frame is to the picture that it was made from.

Every frame leaves a mark when it is made, small enough to keep for a whole film,
and another when it is decoded. What loses nothing is recognised by a digest of
its pixels, everything else by a sketch, see `frame_sketches`. Some frames are compared
pixel by pixel besides.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.arrays import Plane
from waxseal.core.seal.frame_sketches import (
    LEAST_STEP,
    Coarseness,
    Sketch,
    compare_films,
    sketch,
    sketch_of_rgb,
    steps_in_code,
)
from waxseal.core.seal.lightlevels import levels_of
from waxseal.core.seal.packet_digests import planes_digest

__all__ = [
    "Comparison",
    "Likeness",
    "Sketch",
    "compare_digests",
    "compare_sketches",
    "comparison_for",
    "fine_detail",
    "psnr",
    "sketch",
    "ssim",
]

WINDOW = 11  # pixels, of the similarity of structures
STRIP = 64  # rows that are compared together: what is worked out on the way stays in the cache


@dataclass(frozen=True, slots=True)
class Likeness:
    """The result over a film. Frames are counted from 1.

    compared: how many frames were compared at all.
    farthest: the largest distance of a frame's sketch, in codes; its frame.
    unlike: frames that do not look like their pictures.
    doubts: frames that look like their neighbour's picture rather than their own.
    faults: what is wrong with the whole film, in sentences.
    """

    compared: int
    farthest: float
    farthest_frame: int
    unlike: tuple[int, ...]
    doubts: tuple[int, ...] = ()
    faults: tuple[str, ...] = ()

    @property
    def is_alike(self) -> bool:
        return not (self.unlike or self.doubts or self.faults)


@dataclass(frozen=True, slots=True)
class Comparison:
    """mark: what is kept of the planes of a picture.

    compare: the marks that were made, those that were decoded by their frames' places, and how
        much fine detail the pictures have, see `compare_films`.
    """

    mark: Callable[[Sequence[Plane]], Any]
    compare: Callable[[Sequence[Any], Mapping[int, Any], float], Likeness]


def comparison_for(
    size: tuple[int, int],
    *,
    is_lossless: bool,
    coarse: Coarseness = Coarseness.FINE,
    is_rgb: bool = False,
    has_levels: bool = False,
    least_step: float = LEAST_STEP,
) -> Comparison:
    """size: of the frames that are stored, in pixels. coarse: see `compare_films`.

    is_rgb: whether their planes are R, G and B, and not Y'CbCr. has_levels: whether a mark ends
    with the picture's light levels. least_step: see `compare_films`.
    """
    if is_lossless:
        return Comparison(planes_digest, compare_digests)
    compare = partial(compare_sketches, size=size, coarse=coarse, least_step=least_step)
    if has_levels:
        return Comparison(sketch_and_levels, partial(compare_without_levels, compare))
    return Comparison(sketch_of_rgb if is_rgb else sketch, compare)


def sketch_and_levels(planes: Sequence[Plane]) -> Sketch:
    return (*sketch(planes), levels_of(planes))


def compare_without_levels(
    compare: Callable[[Sequence[Any], Mapping[int, Any], float], Likeness],
    made: Sequence[Sketch],
    decoded: Mapping[int, Sketch],
    detail: float = 0.0,
) -> Likeness:
    seen = {at: one[:-1] for at, one in decoded.items()}
    return compare([one[:-1] for one in made], seen, detail)


# ---- digests ---------------------------------------------------------------------------------


def compare_digests(
    made: Sequence[int], decoded: Mapping[int, int], _detail: float = 0.0
) -> Likeness:
    """Compare each frame with its picture, bit by bit."""
    compared = [at for at in range(len(made)) if at in decoded]
    unlike = tuple(at + 1 for at in compared if made[at] != decoded[at])
    return Likeness(len(compared), 0.0, 1, unlike)


# ---- sketches --------------------------------------------------------------------------------


def compare_sketches(
    made: Sequence[Sketch],
    decoded: Mapping[int, Sketch],
    detail: float = 0.0,
    *,
    size: tuple[int, int],
    coarse: Coarseness = Coarseness.FINE,
    least_step: float = LEAST_STEP,
) -> Likeness:
    """Compare the sketches of a decoded film with those of its pictures; see compare_films."""
    verdict = compare_films(
        made, decoded, size, coarse=coarse, least_step=least_step, detail=detail
    )
    return Likeness(
        len([at for at in range(len(made)) if at in decoded]),
        verdict.farthest,
        verdict.farthest_at + 1,
        tuple(at + 1 for at in verdict.unlike),
        tuple(at + 1 for at in verdict.doubts),
        verdict.faults,
    )


# ---- whole frames ----------------------------------------------------------------------------


def psnr(one: Plane, other: Plane) -> float:
    """Peak signal-to-noise ratio in dB: 10·log10(255² ÷ MSE); infinite for equal planes."""
    import cv2

    away = cv2.norm(one, other, cv2.NORM_L2SQR)
    most = (255.0 * steps_in_code(one)) ** 2 * one.size
    return float(10 * np.log10(most / away)) if away else float("inf")


def fine_detail(plane: Plane) -> float:
    """What is left of a plane without its neighbourhoods' means: rms, in codes of 8 bits."""
    import cv2

    values = plane.astype(np.float32) / np.float32(steps_in_code(plane))
    left = values - cv2.blur(values, (3, 3))
    return float(np.sqrt(np.mean(left * left)))


def ssim(one: Plane, other: Plane) -> float:
    """Structural similarity of two planes, 1 for equal ones; the mean over their insides.

    Source: Wang et al. 2004, Image Quality Assessment: a Gaussian window of
    11 x 11 with a deviation of 1.5, K1 0.01, K2 0.03. Smaller planes have none: 1.
    """
    if min(one.shape) < WINDOW:
        return 1.0
    rows, columns = (side - WINDOW + 1 for side in one.shape)
    total = 0.0
    room = np.empty((7, min(STRIP, rows) + WINDOW - 1, one.shape[1]), np.float32)
    for top in range(0, rows, STRIP):
        tall = min(STRIP, rows - top) + WINDOW - 1
        part = slice(top, top + tall)
        total += float(alikeness(one[part], other[part], room[:, :tall]).sum(dtype=np.float64))
    return float(total / (rows * columns))


def alikeness(one: Plane, other: Plane, room: NDArray[np.float32]) -> NDArray[np.float32]:
    """SSIM at each pixel around which there is a whole window.

    room: seven times as large as a plane. Nothing else is taken from memory: that costs more
    than the arithmetic.
    """
    import cv2

    def mean(values: NDArray[np.float32], out: NDArray[np.float32]) -> NDArray[np.float32]:
        cv2.GaussianBlur(values, (WINDOW, WINDOW), 1.5, dst=out)
        return out

    light, contrast = np.float32((0.01 * 255) ** 2), np.float32((0.03 * 255) ** 2)
    x, y, x_mean, y_mean, spreads, both, product = room
    steps = np.float32(steps_in_code(one))
    for values, plane in ((x, one), (y, other)):
        values[:] = plane
        values /= steps
    mean(x, x_mean), mean(y, y_mean)
    np.multiply(x, y, out=product)
    mean(product, both)
    x *= x
    y *= y
    x += y
    mean(x, spreads)
    means = np.multiply(x_mean, y_mean, out=product)
    x_mean *= x_mean
    y_mean *= y_mean
    squares = x_mean
    squares += y_mean
    spreads -= squares
    both -= means
    # (2 means + light) (2 both + contrast) / ((squares + light) (spreads + contrast))
    means += means
    means += light
    both += both
    both += contrast
    means *= both
    squares += light
    spreads += contrast
    squares *= spreads
    means /= squares
    edge = WINDOW // 2
    return np.asarray(means[edge:-edge, edge:-edge], np.float32)
