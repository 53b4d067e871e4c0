"""Whether a stored picture is opaque: its alpha, read from pixels that are one number each."""

from __future__ import annotations

import sys
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.arrays import Integers
from waxseal.core.picture.kernels.compiling import compiled, inlined

__all__ = ["as_numbers", "is_covered", "is_row_all", "is_whole"]


@inlined
def is_row_all(pixels: Any, shift: Any, one: Any) -> Any:
    """Whether every pixel has `one` in the bits above `shift`."""
    every = some = pixels[0]
    for x in range(pixels.shape[0]):
        every &= pixels[x]
        some |= pixels[x]
    return (every >> shift) == one and (some >> shift) == one


@compiled
def are_all(pixels: Any, shift: Any, one: Any) -> bool:
    for row in range(pixels.shape[0]):  # noqa: SIM110 - a generator does not compile
        if not is_row_all(pixels[row], shift, one):
            return False
    return True


@compiled
def are_all_of(values: Any, one: Any) -> bool:
    for row in range(values.shape[0]):
        for x in range(values.shape[1]):
            if values[row, x, 3] != one:
                return False
    return True


def is_covered(values: Integers, one: int) -> bool:
    """Whether the fourth channel is `one` everywhere. values: (h, w, 4)."""
    if not is_whole(values):
        return are_all_of(values, values.dtype.type(one))
    return are_all(*as_numbers(values, one))


def is_whole(values: Integers) -> bool:
    """Whether a pixel can be read as one number, whose upper bits are its alpha."""
    return values.shape[2] == 4 and values.flags.c_contiguous and sys.byteorder == "little"


def as_numbers(values: Integers, one: int | None) -> tuple[NDArray[Any], Any, Any]:
    """Pixels as numbers, (h, w), the place of alpha in them, and what it has to be.

    No pixels, (0, 0), where nothing is asked of them, or none can be read so.
    """
    number = np.uint32 if values.dtype == np.uint8 else np.uint64
    is_asked = one is not None and is_whole(values)
    pixels = values.view(number)[..., 0] if is_asked else np.empty((0, 0), number)
    return pixels, number(24 * values.itemsize), number(one or 0)
