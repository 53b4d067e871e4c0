"""A frame as it is stored, with the tables that make light of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.arrays import Integers
from waxseal.core.picture.transfer_tables import Table

__all__ = ["StoredPicture"]


@dataclass(frozen=True, slots=True, eq=False)
class StoredPicture:
    """Light is table[values], turned by a matrix, and multiplied by alpha where that is straight.

    alphas: alpha is alphas[values[..., 3]]. matrix: (3, 3), None where nothing is turned.
    channels: of the light, 3 or 4; 3 leaves alpha out.
    covered: what values[..., 3] is where a pixel is opaque. Where all pixels are, the light has
        3 channels after all. None: it is known already.
    """

    values: Integers
    table: Table
    alphas: Table
    matrix: NDArray[np.float32] | None
    is_straight: bool
    channels: int
    covered: int | None = None
