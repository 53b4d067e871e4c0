"""Scopes: how a picture's codes are spread, as small pictures and figures.

They look at the picture as the screen shows it, 8-bit R'G'B'.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from waxseal.core.picture.arrays import Codes
from waxseal.core.picture.kernels.constants import BLUE, GREEN, RED

__all__ = ["Scopes", "scopes_of"]

COLUMNS = 256  # of the waveform


@dataclass(frozen=True, slots=True, eq=False)
class Scopes:
    """histogram: (64, 256, 4) and waveform: (128, 256, 4), B G R A, clear where there is nothing.

    The histogram has the code across, black left; red, green and blue add up.
    The waveform has the picture across and luma upwards, white at the top.
    at_black, at_white: parts of the picture, 0..1, with a channel at its end.
    clipped: (h, w, 4), hatched where a channel is at white, dotted where all are at
        black, clear elsewhere.
    """

    histogram: Codes
    waveform: Codes
    at_black: float
    at_white: float
    clipped: Codes


def scopes_of(screen: Codes) -> Scopes:
    """screen: (h, w, 4), B G R and anything."""
    colours = screen[..., :3]
    return Scopes(
        histogram_of(colours),
        waveform_of(colours),
        float((colours == 0).any(axis=2).mean()),
        float((colours == 255).any(axis=2).mean()),
        clipped_of(colours),
    )


def clipped_of(colours: Codes) -> Codes:
    """Told by their pattern, not by a colour alone."""
    height, width = colours.shape[:2]
    rows, columns = np.mgrid[0:height, 0:width]
    drawn = np.zeros((height, width, 4), np.uint8)
    white = (colours == 255).any(axis=2) & ((rows + columns) % 6 < 2)
    black = (colours == 0).all(axis=2) & (rows % 4 == 0) & (columns % 4 == 0)
    drawn[white] = (48, 36, 143, 255)
    drawn[black] = (230, 214, 120, 255)
    return drawn


def histogram_of(colours: Codes) -> Codes:
    """Heights by the root of the counts, so that little is seen too."""
    drawn = np.zeros((64, 256, 4), np.uint8)
    rows = np.arange(64)[::-1, None]
    for at in range(3):
        counts = np.sqrt(np.bincount(colours[..., at].ravel(), minlength=256).astype(np.float64))
        # The ends hold what is clipped, and would make all else small.
        most = max(counts[1:-1].max(), counts.max() / 4, 1.0)
        heights = np.minimum(counts / most, 1) * 63
        drawn[..., at] = np.where(rows < heights[None, :], 200, 0)
    drawn[..., 3] = np.where(drawn[..., :3].any(axis=2), 230, 0)
    return drawn


def waveform_of(colours: Codes) -> Codes:
    blue, green, red = (colours[..., at].astype(np.float32) for at in range(3))
    luma = (red * RED + green * GREEN + blue * BLUE).astype(np.int32) // 2
    height, width = luma.shape
    columns = np.broadcast_to(np.arange(width) * COLUMNS // width, (height, width))
    counts = np.bincount((luma * COLUMNS + columns).ravel(), minlength=128 * COLUMNS)
    bright = np.sqrt(counts.reshape(128, COLUMNS)[::-1] / max(1.0, height * width / COLUMNS / 16))
    drawn = np.zeros((128, COLUMNS, 4), np.uint8)
    drawn[..., :3] = np.minimum(bright * 160 + (bright > 0) * 50, 255)[..., None]
    drawn[..., 3] = np.where(bright > 0, 235, 0)
    return drawn
