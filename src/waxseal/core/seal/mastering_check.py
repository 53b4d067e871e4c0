"""A mastering display as the boxes of an MP4 or MOV have it.

Sources: ISO/IEC 14496-12, 12.1.6 (`mdcv`); ITU-T H.265, D.3.28 (its units, and its order:
green, blue, red).
"""

from __future__ import annotations

import struct

from waxseal.core.job.mastering import mastering_of
from waxseal.core.job.primaries import primaries_name

__all__ = ["read_mastering", "write_mastering"]

POINT, LIGHT = 50_000, 10_000  # steps of a coordinate, and of a cd/m²
CONTENT = struct.Struct(">8H2I")


def write_mastering(text: str) -> bytes:
    """What the box says of a display, `P3 1000 0.005`; empty for none."""
    display = mastering_of(text)
    if display is None:
        return b""
    points = [round(one * POINT) for one in display.chromaticities]
    red, green, blue, white = (points[at : at + 2] for at in range(0, 8, 2))
    lights = (round(one * LIGHT) for one in (display.peak, display.black))
    return CONTENT.pack(*green, *blue, *red, *white, *lights)


def read_mastering(content: bytes) -> str:
    """The same as text; empty for none. Raises struct.error."""
    if not content:
        return ""
    *points, peak, black = CONTENT.unpack(content[: CONTENT.size])
    green, blue, red, white = ((points[at], points[at + 1]) for at in range(0, 8, 2))
    x1, y1, x2, y2, x3, y3, x4, y4 = (
        one / POINT for pair in (red, green, blue, white) for one in pair
    )
    name = primaries_name((x1, y1, x2, y2, x3, y3, x4, y4))
    return f"{name} {peak / LIGHT:g} {black / LIGHT:g}"
