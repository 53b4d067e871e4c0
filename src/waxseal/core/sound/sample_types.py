"""What arrays of samples are called."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["Samples"]

Samples = NDArray[np.float32]  # (count, channels), full scale ±1
