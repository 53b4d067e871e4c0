"""Frame sizes as people type them."""

from __future__ import annotations

import re

from waxseal.core.errors import WrongUse
from waxseal.core.job.model import Size

__all__ = ["parse_size"]

LARGEST = 32_768


def parse_size(text: str) -> Size:
    """`1920x1080` or `1920 × 1080`. Raises WrongUse."""
    found = re.fullmatch(r"\s*(\d{1,5})\s*[x×]\s*(\d{1,5})\s*", text)
    if not found:
        raise WrongUse(f"“{text}” is not a frame size: write it as 1920x1080.")
    if not all(1 <= int(side) <= LARGEST for side in found.groups()):
        raise WrongUse(f"“{text}”: each side of a frame has 1 to {LARGEST} pixels.")
    return Size(width=int(found[1]), height=int(found[2]))
