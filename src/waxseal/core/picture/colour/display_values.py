"""Light to display values and back: the sRGB curve, quick enough for every frame of a fade.

It is the curve of `colour_spaces.curve`, which the colour library works out as a power: that
costs five times as much as a look into a table. Here it is laid out in straight pieces. Each is
so short that what it leaves out is less than a float32 can say: with n pieces a stop, of
f(x) = xᵖ at most |p (p - 1)| / 8n² of the value.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture import kernels
from waxseal.core.picture.arrays import Light

__all__ = ["PiecewiseCurve", "in_display_values"]

Function = Callable[[NDArray[np.float64]], NDArray[np.float64]]

# IEC 61966-2-1, with the foot that meets the power exactly: it ends where both are as steep.
GAMMA, OFFSET = 2.4, 0.055
FOOT_ENDS = OFFSET / (GAMMA - 1)  # a display value
FOOT = ((FOOT_ENDS + OFFSET) / (1 + OFFSET)) ** GAMMA / FOOT_ENDS  # light for a display value

MANTISSA_BITS, EXPONENT_OF_ONE = 23, 127  # of a float32: IEEE 754
BRIGHTEST = 32  # stops above 1: what is brighter is as bright


@dataclass(frozen=True, slots=True, eq=False)
class PiecewiseCurve:
    """A curve in straight pieces; `apply` changes (h, w, 3 or 4) in place, but for alpha.

    values: at the beginning of each piece. steps: what each float32 in it adds to the one before.
    first: the bits of the float32 at which the first piece begins, without those of a place in a
    piece; shift: how many these are. foot: how steep the line below the first piece is. most: the
    largest float32 in the last one; what is larger is taken for it.
    Below zero the curve is mirrored. What is no number becomes 0.
    """

    values: NDArray[np.float32]
    steps: NDArray[np.float32]
    first: int
    shift: int
    foot: float
    most: float

    def apply(self, light: Light) -> None:
        kernels.bend(light, self)


@lru_cache(maxsize=1)
def in_display_values() -> tuple[PiecewiseCurve, PiecewiseCurve]:
    """To display values, and back to light."""
    bits, bits_back = 10, 12  # 2**bits pieces a stop: the curve back bends more
    most = float(to_display(np.array([2.0**BRIGHTEST]))[0])
    return (
        in_pieces(to_display, (-9, BRIGHTEST), bits, 1 / FOOT),
        in_pieces(to_light, (-5, int(np.ceil(np.log2(most)))), bits_back, FOOT),
    )


def to_display(light: NDArray[np.float64]) -> NDArray[np.float64]:
    power = (1 + OFFSET) * light ** (1 / GAMMA) - OFFSET
    return np.where(light <= FOOT * FOOT_ENDS, light / FOOT, power)


def to_light(display: NDArray[np.float64]) -> NDArray[np.float64]:
    power = ((display + OFFSET) / (1 + OFFSET)) ** GAMMA
    return np.where(display <= FOOT_ENDS, display * FOOT, power)


def in_pieces(curve: Function, stops: tuple[int, int], bits: int, foot: float) -> PiecewiseCurve:
    """Lay out a curve from one power of two to another; below the first it is a line through 0."""
    first, last = stops
    pieces = 1 << bits
    ends = np.concatenate(
        [np.ldexp(1 + np.arange(pieces) / pieces, stop) for stop in range(first, last)]
    )
    ends = np.append(ends, 2.0**last)
    values, shift = curve(ends), MANTISSA_BITS - bits
    return PiecewiseCurve(
        values[:-1].astype(np.float32),
        (np.diff(values) / (1 << shift)).astype(np.float32),
        first=(first + EXPONENT_OF_ONE) << bits,
        shift=shift,
        foot=foot,
        most=float(np.nextafter(np.float32(2.0**last), np.float32(0))),
    )
