"""Frame sizes as people type them."""

from __future__ import annotations

import re
from fractions import Fraction

from waxseal.core.errors import WrongUse
from waxseal.core.job.model import Size

__all__ = ["inside", "is_of_shape", "parse_frame_shape", "parse_size"]

LARGEST = 32_768
LONGEST_SIDE = 100  # times the other


def parse_size(text: str) -> Size:
    """`1920x1080` or `1920 × 1080`. Raises WrongUse."""
    found = re.fullmatch(r"\s*(\d{1,5})\s*[x×]\s*(\d{1,5})\s*", text)
    if not found:
        raise WrongUse(f"“{text}” is not a frame size: write it as 1920x1080.")
    if not all(1 <= int(side) <= LARGEST for side in found.groups()):
        raise WrongUse(f"“{text}”: each side of a frame has 1 to {LARGEST} pixels.")
    return Size(width=int(found[1]), height=int(found[2]))


def parse_frame_shape(text: str) -> Fraction:
    """Width to height: `16:9`, `1`, `2.39`. Raises WrongUse."""
    across, mark, down = text.partition(":")
    try:
        shape = Fraction(across.strip()) / Fraction(down.strip() if mark else "1")
    except (ValueError, ZeroDivisionError):
        raise WrongUse(f"“{text}” is not the shape of a frame: write it as 16:9.") from None
    if not Fraction(1, LONGEST_SIDE) <= shape <= LONGEST_SIDE:
        raise WrongUse(f"“{text}”: no frame is as long as that.")
    return shape


def is_of_shape(size: Size, shape: Fraction) -> bool:
    """Whether a frame has a shape, as nearly as whole pixels can."""
    return abs(size.width - size.height * shape) <= 1 or abs(size.height - size.width / shape) <= 1


def inside(size: Size, shape: Fraction) -> Size:
    """The largest frame of a shape in another one; its sides are even."""
    width = min(Fraction(size.width), size.height * shape)
    wide, tall = (max(2, round(side / 2) * 2) for side in (width, width / shape))
    return Size(width=wide, height=tall)
