"""What arrays of pixels are called: one name for one shape, type and meaning."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["Codes", "Integers", "Light", "Plane", "Planes"]

# (height, width, 3 or 4) float32: scene-linear in working primaries, premultiplied; any
# finite value, alpha 0..1. A single channel, (height, width, 1 or none), where it is said.
Light = NDArray[np.float32]
Integers = NDArray[Any]  # (height, width, 3 or 4) uint8 or uint16: as stored, or halves as bits
Codes = NDArray[np.uint8]  # what a display or a file of 8 bits holds
Plane = NDArray[Any]  # (height, width) uint8, or uint16 that holds 10 bits
Planes = tuple[Plane, ...]
