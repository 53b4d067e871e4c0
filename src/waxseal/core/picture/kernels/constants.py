"""What the kernels, and those who call them, agree upon."""

from __future__ import annotations

import numpy as np

__all__ = [
    "ADD",
    "ADDED",
    "AXIS_BEND",
    "AXIS_BRIGHT",
    "AXIS_DARK",
    "AXIS_FIRST_STOP",
    "AXIS_LONG",
    "BLUE",
    "BLUE_SCALE",
    "CLEAR",
    "FULL_RANGE",
    "GREEN",
    "LIMITED_RANGE",
    "MULTIPLY",
    "OVER",
    "RED",
    "RED_SCALE",
    "SCREEN",
]

OVER, ADD, MULTIPLY, SCREEN = range(4)  # what `blend` does
CLEAR, ADDED = 1, 2  # what `mark_clear` writes

# ITU-R BT.709: luma, and the colour differences scaled to ±0.5 of 224 codes.
RED, GREEN, BLUE = np.float32(0.2126), np.float32(0.7152), np.float32(0.0722)
BLUE_SCALE = np.float32(224 / 1.8556)
RED_SCALE = np.float32(224 / 1.5748)
# Codes of 8 bits from black to white, from one end of a colour difference to the other, and black.
LIMITED_RANGE = (np.float32(219), np.float32(224), np.float32(16))
FULL_RANGE = (np.float32(255), np.float32(255), np.float32(0))

# A logarithm from the bits of a float32, the same on every machine: light is lifted by
# AXIS_DARK, its exponent is the stop, and its mantissa m is bent to m + c m (1 - m), which is
# within a hundredth of log2(1 + m) and has no corner from stop to stop.
AXIS_BEND = np.float32(0.3466)  # the slope of log2(1 + m) at its ends, 1 / ln 2 and half of it
AXIS_FIRST_STOP = -9
AXIS_DARK = np.float32(2.0**AXIS_FIRST_STOP)
AXIS_BRIGHT = np.float32(256)


def axis_length() -> float:
    """Stops from one end of an axis to the other."""
    stops, beyond = np.float32(8 - AXIS_FIRST_STOP), AXIS_DARK / AXIS_BRIGHT
    return float((stops + beyond) + (AXIS_BEND * beyond) * (np.float32(1) - beyond))


AXIS_LONG = axis_length()
