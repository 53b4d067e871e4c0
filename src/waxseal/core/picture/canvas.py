"""What layers are laid on, and where a picture is while it is corrected."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from waxseal.core.job.model import Placing
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.framing import Box
from waxseal.core.picture.light.light_reader import Means, typed_colour
from waxseal.core.picture.light.light_store import LightStore
from waxseal.core.picture.target import Filter
from waxseal.core.plan.recipe import CENTRED

__all__ = ["Around", "Canvas"]


@dataclass(frozen=True, slots=True)
class Canvas:
    """size: in pixels, of what is made. frame: of the reel. store: keeps framed light.

    exact: whether a view is worked out for each pixel rather than read from a table.
    is_clear: whether there is nothing under the layers, rather than a ground.
    """

    size: tuple[int, int]
    frame: tuple[int, int]
    means: Means
    chosen: Filter
    store: LightStore | None = None
    exact: bool = False
    is_clear: bool = False

    @property
    def box(self) -> Box:
        return Box(0, 0, *self.size)

    @property
    def graphics(self) -> Canvas:
        """The same for the light of graphics."""
        return replace(self, means=self.means.graphics)

    def colour(self, hex_colour: str) -> Light:
        """`#rrggbb`, sRGB, as light, (3,): of graphics where there is one, else as it shows so."""
        return typed_colour(hex_colour, self.means)

    def empty(self, ground: str, rows: int | None = None) -> Light:
        """The whole frame in one colour, or a band of it with so many rows; or clear, (h, w, 4)."""
        width, height = self.size
        if self.is_clear:
            return np.zeros((rows or height, width, 4), np.float32)
        whole = np.empty((rows or height, width, 3), np.float32)
        whole.reshape(len(whole), -1)[:] = np.tile(self.colour(ground), width)
        return whole


@dataclass(frozen=True, slots=True)
class Around:
    """Where a picture is while it is corrected: the part in the frame, and its whole box.

    placing: how it was mirrored and turned, as what belongs to it is.
    """

    canvas: Canvas
    at: Box
    box: Box
    placing: Placing = CENTRED

    @property
    def size(self) -> tuple[int, int]:
        return self.canvas.size

    @property
    def height(self) -> int:
        return self.canvas.size[1]
