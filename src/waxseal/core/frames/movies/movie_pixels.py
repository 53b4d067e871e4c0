"""The pixels of a decoded movie frame: R'G'B' as exact as the codec left them."""

from __future__ import annotations

from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from waxseal.core.frames.movies.ycbcr import PlaneCoding, rgb_of_planes

__all__ = ["has_alpha", "rgb_of"]

UNSPECIFIED, RESERVED = 2, 3
FULL_RANGE = 2  # libavutil's number
CENTRED = ("yuvj420p", "yuvj422p")


def rgb_of(frame: av.VideoFrame, untagged: int = 0) -> NDArray[Any]:
    """R'G'B' with or without alpha, uint8 for 8-bit R'G'B' formats, else uint16.

    untagged: see read_movie_frame.
    """
    name = frame.format.name
    alpha = has_alpha(frame)
    bits = max(component.bits for component in frame.format.components)
    if frame.format.is_rgb or name in ("pal8", "gray"):
        deep = bits > 8
        kind = ("rgba64le" if alpha else "rgb48le") if deep else ("rgba" if alpha else "rgb24")
        return pack(frame if name == kind else frame.reformat(format=kind), 4 if alpha else 3)
    if not is_planar(frame):
        frame = frame.reformat(format=f"yuv{'a' if alpha else ''}444p{'16le' if bits > 8 else ''}")
    bits = frame.format.components[0].bits
    full = int(frame.color_range) == FULL_RANGE or frame.format.name.startswith("yuvj")
    coding = PlaneCoding(
        matrix=matrix_of(frame, untagged),
        bits=bits,
        is_full=full,
        is_centred=frame.format.name in CENTRED,
    )
    return rgb_of_planes(tuple(lines_of(plane, bits) for plane in frame.planes), coding)


def is_planar(frame: av.VideoFrame) -> bool:
    """Whether its planes are Y', Cb, Cr and perhaps alpha, in this machine's byte order."""
    name = frame.format.name
    return name.startswith("yuv") and len(frame.planes) >= 3 and not name.endswith("be")


def matrix_of(frame: av.VideoFrame, untagged: int = 0) -> int:
    """As tagged; where nothing is, BT.601 below 720 lines (common practice, no source)."""
    told = int(frame.colorspace)
    if told not in (0, UNSPECIFIED, RESERVED):
        return told
    return untagged or (1 if frame.height >= 720 else 6)


def lines_of(plane: av.video.plane.VideoPlane, bits: int) -> NDArray[Any]:
    kind = np.uint8 if bits == 8 else np.uint16
    line = plane.line_size // np.dtype(kind).itemsize
    lines = np.frombuffer(memoryview(plane), kind).reshape(-1, line)
    return lines[: plane.height, : plane.width]


def pack(frame: av.VideoFrame, channels: int) -> NDArray[Any]:
    """An interleaved picture, copied out of the decoder's memory."""
    plane = frame.planes[0]
    kind = np.uint16 if frame.format.name.endswith(("64le", "48le")) else np.uint8
    line = plane.line_size // np.dtype(kind).itemsize
    lines = np.frombuffer(memoryview(plane), kind).reshape(-1, line)
    shaped = lines[: frame.height, : frame.width * channels]
    return shaped.reshape(frame.height, frame.width, channels).copy()


def has_alpha(frame: av.VideoFrame) -> bool:
    return any(component.is_alpha for component in frame.format.components) or (
        frame.format.name == "pal8"
    )
