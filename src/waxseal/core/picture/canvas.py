"""What layers are laid on, and where a picture is while it is corrected."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from waxseal.core.job.model import BT709
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.colour.curves import ground_linear, primaries_matrix
from waxseal.core.picture.framing import Box
from waxseal.core.picture.kernels.choice import Kernels
from waxseal.core.picture.light.reading import Means
from waxseal.core.picture.light.store import LightStore
from waxseal.core.picture.target import Filter

__all__ = ["Around", "Canvas"]


@dataclass(frozen=True, slots=True)
class Canvas:
    """size: in pixels, of what is made. frame: of the reel. store: keeps framed light."""

    size: tuple[int, int]
    frame: tuple[int, int]
    means: Means
    chosen: Filter
    store: LightStore | None = None

    @property
    def kernels(self) -> Kernels:
        return self.means.kernels

    @property
    def box(self) -> Box:
        return Box(0, 0, *self.size)

    def colour(self, hex_colour: str) -> Light:
        """`#rrggbb`, sRGB, as working light."""
        light = np.array(ground_linear(hex_colour), np.float32)
        matrix = primaries_matrix(BT709, self.means.colourway.working.chromaticities)
        return light if matrix is None else np.asarray(matrix @ light, np.float32)

    def empty(self, ground: str, rows: int | None = None) -> Light:
        """The whole frame in one colour, or a band of it with so many rows."""
        width, height = self.size
        whole = np.empty((rows or height, width, 3), np.float32)
        whole.reshape(len(whole), -1)[:] = np.tile(self.colour(ground), width)
        return whole


@dataclass(frozen=True, slots=True)
class Around:
    """Where a picture is while it is corrected: the part in the frame, and its whole box."""

    canvas: Canvas
    at: Box
    box: Box

    @property
    def size(self) -> tuple[int, int]:
        return self.canvas.size

    @property
    def height(self) -> int:
        return self.canvas.size[1]
