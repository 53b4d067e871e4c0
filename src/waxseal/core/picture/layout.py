"""The layouts that pictures are made in, for those too who only name one and need no pixels."""

from __future__ import annotations

from enum import StrEnum

__all__ = ["Layout"]


class Layout(StrEnum):
    YUV420 = "yuv420"  # three planes, 8-bit limited-range Y'CbCr; sides made even
    YUV420_10 = "yuv420p10"  # the same with 10 bits, as uint16
    YUV422_10 = "yuv422p10"
    SCREEN = "screen"  # one plane of B, G, R, 255
    LIGHT = "light"  # one plane of R, G, B: halves of scene-linear light in working primaries
