"""A colour transform of OpenColorIO that is ready to work on light."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture import kernels
from waxseal.core.picture.arrays import Light

__all__ = ["Process"]

BAND = 32  # rows that stay in the processor's cache


@dataclass(frozen=True, slots=True, eq=False)
class Process:
    """A colour transform that is ready to work; `apply` changes (h, w, 3 or 4) in place."""

    cpu: Any

    def apply(self, light: Light) -> None:
        if light.shape[2] == 4:
            self.cpu.applyRGBA(light)
            return
        # The library is twice as fast on four channels: three go through a band of four.
        height, width = light.shape[:2]
        band = np.empty((min(BAND, height), width, 4), np.float32)
        for top in range(0, height, BAND):
            part = light[top : top + BAND]
            four = band[: len(part)]
            kernels.widen(part, four)
            self.cpu.applyRGBA(four)
            kernels.narrow(four, part)

    def to_indexes(self, light: Light, indexes: NDArray[np.uint16]) -> None:
        """As `apply` and then the kernels' `to_indexes`, while a band is in the cache."""
        height, width = light.shape[:2]
        band = np.empty((min(BAND, height), width, 4), np.float32)
        for top in range(0, height, BAND):
            part = light[top : top + BAND]
            four = band[: len(part)]
            kernels.widen(part, four)
            self.cpu.applyRGBA(four)
            kernels.to_indexes(four, indexes[top : top + BAND])
