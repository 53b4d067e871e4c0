"""What a picture is made for: its size, its layout, its colour, and what of it is looked at.

No pixels here: naming a target needs no NumPy.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from waxseal.core.job.model import Space
from waxseal.core.plan.keys import Keyed
from waxseal.core.plan.recipe import FileState, Pick

__all__ = ["DIFFERENCE_TIMES", "PICTURE", "Aspect", "Filter", "Inspection", "Layout", "Target"]


DIFFERENCE_TIMES = 4  # how much stronger than it is a difference is shown, so that it is seen


class Layout(StrEnum):
    """How pixels are arranged."""

    YUV420 = "yuv420"  # three planes, 8-bit limited-range Y'CbCr; sides made even
    YUV420_10 = "yuv420p10"  # the same with 10 bits, as uint16
    YUV422_10 = "yuv422p10"
    SCREEN = "screen"  # one plane of B, G, R, 255
    LIGHT = "light"  # one plane of R, G, B: halves of scene-linear light in working primaries

    @property
    def is_ycbcr(self) -> bool:
        return self in (Layout.YUV420, Layout.YUV420_10, Layout.YUV422_10)

    @property
    def chroma_rows(self) -> int:
        """Rows of luma to one of chroma."""
        return 1 if self is Layout.YUV422_10 else 2

    @property
    def depth(self) -> int:
        """Bits of a code."""
        return 8 if self in (Layout.YUV420, Layout.SCREEN) else 10

    def stored_size(self, width: int, height: int) -> tuple[int, int]:
        """The size that a picture is stored in.

        Chroma at half the size needs even sides: an odd one grows by one, and its
        last column or row is repeated.
        """
        if not self.is_ycbcr:
            return width, height
        return width + width % 2, height + height % self.chroma_rows


class Filter(StrEnum):
    """How a picture is scaled."""

    SHARP = "sharp"  # Lanczos, for deliveries
    SOFT = "soft"  # cubic B-spline: no weight is negative, so that nothing rings
    AREA = "area"  # the mean of what each pixel covers, for looking


class Aspect(StrEnum):
    """What of a frame is looked at; all but the picture before any finish."""

    PICTURE = "picture"
    ALPHA = "alpha"
    DIFFERENCE = "difference from the beauty"
    UNSURE = "unsure motion"  # where the movement between two frames is not known
    RANGE = "own range"  # numbers that are no light, from the least to the most of them


@dataclass(frozen=True)
class Inspection(Keyed):
    """An aspect of a frame; beauty: what its passes are compared with, where that is looked at."""

    aspect: Aspect = Aspect.PICTURE
    beauty: Pick | None = None


PICTURE = Inspection()


@dataclass(frozen=True)
class Target(Keyed):
    """A size in pixels, a layout, a filter for scaling, and what the numbers mean.

    exact: whether a view is worked out for each pixel rather than read from a table.
    lut: a LUT's file that the finished numbers go through.
    dither: whether what is rounded to codes is spread.
    """

    width: int
    height: int
    layout: Layout
    filter: Filter = Filter.SHARP
    space: Space = Space.SRGB
    exact: bool = False
    lut: FileState | None = None
    dither: bool = False
    inspection: Inspection = PICTURE

    @property
    def is_inspected(self) -> bool:
        """Whether something else than the picture is looked at."""
        return self.inspection.aspect is not Aspect.PICTURE

    @property
    def stored_size(self) -> tuple[int, int]:
        return self.layout.stored_size(self.width, self.height)
