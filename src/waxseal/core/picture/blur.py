"""The one blur there is."""

from __future__ import annotations

import cv2
import numpy as np

from waxseal.core.picture.arrays import Light

__all__ = ["blur"]


def blur(light: Light, radius: float, height: int) -> Light:
    """A Gaussian blur; radius in thousandths of the frame's height. Edges go on as they are."""
    sigma = radius * height / 1000
    if sigma < 0.05:
        return light
    blurred = cv2.GaussianBlur(light, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)
    return np.asarray(blurred, np.float32).reshape(light.shape)
