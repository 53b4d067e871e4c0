"""What a picture is made for: its size, its layout, its colour, and what of it is looked at.

No pixels here: naming a target needs no NumPy.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from waxseal.core.job.model import Alpha, Space
from waxseal.core.picture.framing import Box
from waxseal.core.plan.filestates import FileState
from waxseal.core.plan.recipe import Pick
from waxseal.core.plan.recipe_keys import LATER, Keyed

__all__ = ["DIFFERENCE_TIMES", "PICTURE", "Aspect", "Filter", "Inspection", "Layout", "Target"]


DIFFERENCE_TIMES = 4  # how much stronger than it is a difference is shown, so that it is seen


class Layout(StrEnum):
    """How pixels are arranged."""

    YUV420 = "yuv420"  # three planes, 8-bit limited-range Y'CbCr; sides made even
    YUV420_10 = "yuv420p10"  # the same with 10 bits, as uint16
    YUV422 = "yuv422"
    YUV422_10 = "yuv422p10"
    YUV444_10 = "yuv444p10"
    FULL_422 = "full422"  # full range, and the older matrix of ITU-R BT.601: as JPEG has it
    RGB8 = "rgb8"  # three planes of R, G, B
    RGB10 = "rgb10"  # the same in 10 bits, which fill 16: the upper ones are repeated below
    RGB16 = "rgb16"
    SCREEN = "screen"  # one plane of B, G, R, 255
    LIGHT = "light"  # one plane of R, G, B: halves of scene-linear light in working primaries

    @property
    def is_ycbcr(self) -> bool:
        return self in CHROMA

    @property
    def is_rgb(self) -> bool:
        """Whether its planes are codes of R, G and B."""
        return self in (Layout.RGB8, Layout.RGB10, Layout.RGB16)

    @property
    def chroma_columns(self) -> int:
        """Columns of luma to one of chroma."""
        return CHROMA[self][0]

    @property
    def chroma_rows(self) -> int:
        """Rows of luma to one of chroma."""
        return CHROMA[self][1]

    @property
    def depth(self) -> int:
        """Bits of a code."""
        return DEPTHS[self]

    def stored_size(self, width: int, height: int) -> tuple[int, int]:
        """The size that a picture is stored in.

        Chroma at half the size needs even sides: an odd one grows by one, and its
        last column or row is repeated.
        """
        if not self.is_ycbcr:
            return width, height
        return width + width % self.chroma_columns, height + height % self.chroma_rows


CHROMA = {
    Layout.YUV420: (2, 2),
    Layout.YUV420_10: (2, 2),
    Layout.YUV422: (2, 1),
    Layout.YUV422_10: (2, 1),
    Layout.YUV444_10: (1, 1),
    Layout.FULL_422: (2, 1),
}
DEPTHS = dict.fromkeys(Layout, 8) | {
    Layout.YUV420_10: 10,
    Layout.YUV422_10: 10,
    Layout.YUV444_10: 10,
    Layout.RGB10: 10,
    Layout.RGB16: 16,
    Layout.LIGHT: 16,
}


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
    placed: where the reel's picture is in the frame, where the frame has another shape; its
        corner lies on whole pixels of chroma.
    is_stretched: whether the whole of the reel's picture, letters and borders too, is made
        as wide and as high as a frame of another shape.
    alpha: how colour is related to it where it is kept, as a last plane (in `LIGHT` as a
        last channel, premultiplied); NONE where a ground is under everything.
    """

    width: int
    height: int
    layout: Layout
    filter: Filter = Filter.SHARP
    space: Space = Space.SRGB
    exact: bool = False
    lut: FileState | None = None
    dither: bool = False
    alpha: Alpha = Alpha.NONE
    placed: Box | None = None
    inspection: Inspection = PICTURE
    is_stretched: bool = field(default=False, metadata=LATER)

    @property
    def has_alpha(self) -> bool:
        return self.alpha is not Alpha.NONE

    @property
    def is_inspected(self) -> bool:
        """Whether something else than the picture is looked at."""
        return self.inspection.aspect is not Aspect.PICTURE

    @property
    def stored_size(self) -> tuple[int, int]:
        return self.layout.stored_size(self.width, self.height)
