"""The planes of a movie's frame, as arrays on its memory, whatever way it holds them.

In one order for all: Y′, Cb, Cr, or R, G, B; alpha comes last.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

__all__ = ["read_planes", "write_planes"]

Plane = NDArray[Any]


@dataclass(frozen=True, slots=True)
class PlaneMemory:
    """How a pixel format lies in memory.

    at: for each plane in our order, the library's plane, and the value's place in a pixel.
    step: values in a pixel of a library's plane. drop: bits that a decoder adds below.
    """

    dtype: str
    at: tuple[tuple[int, int], ...]
    step: int = 1
    drop: int = 0


def planar(dtype: str, order: str = "012", drop: int = 0) -> PlaneMemory:
    return PlaneMemory(dtype, tuple((int(plane), 0) for plane in order), drop=drop)


def packed(dtype: str, order: str) -> PlaneMemory:
    """order: the letters of a pixel's values, in memory; 0 is nothing."""
    return PlaneMemory(
        dtype, tuple((0, order.index(one)) for one in "RGBA" if one in order), len(order)
    )


MEMORY: dict[str, PlaneMemory] = {
    **{name: planar("u1") for name in ("yuv420p", "yuv422p", "yuv444p", "yuvj422p")},
    **{f"{name}10le": planar("<u2") for name in ("yuv420p", "yuv422p", "yuv444p")},
    "yuva420p": planar("u1", "0123"),
    "yuva444p10le": planar("<u2", "0123"),
    # A decoder that gives 12 bits of what was encoded as 10.
    "yuv444p12le": planar("<u2", drop=2),
    "yuva444p12le": planar("<u2", "0123", drop=2),
    "gbrp16le": planar("<u2", "201"),
    "gbrap16le": planar("<u2", "2013"),
    "rgb24": packed("u1", "RGB"),
    "rgba": packed("u1", "RGBA"),
    "argb": packed("u1", "ARGB"),
    "bgra": packed("u1", "BGRA"),
    "bgr0": packed("u1", "BGR0"),
    "rgb48be": packed(">u2", "RGB"),
    "rgba64be": packed(">u2", "RGBA"),
}


def views(frame: av.VideoFrame) -> tuple[Plane, ...]:
    """Arrays on the memory of a frame; none where its pixel format is not known here."""
    memory = MEMORY.get(frame.format.name)
    if memory is None:
        return ()
    dtype = np.dtype(memory.dtype)
    pixel = memory.step * dtype.itemsize
    return tuple(
        np.ndarray(
            (frame.planes[number].height, frame.planes[number].width),
            dtype,
            memoryview(frame.planes[number]),
            place * dtype.itemsize,
            (frame.planes[number].line_size, pixel),
        )
        for number, place in memory.at
    )


def read_planes(frame: av.VideoFrame) -> tuple[Plane, ...]:
    """uint8, or uint16; valid as long as the frame is. Empty for a format that is not known."""
    memory = MEMORY.get(frame.format.name)
    planes = views(frame)
    if memory is None:
        return ()
    if memory.drop:
        return tuple(plane >> memory.drop for plane in planes)
    is_native = memory.dtype[0] != (">" if sys.byteorder == "little" else "<")
    return planes if is_native else tuple(plane.astype(np.uint16) for plane in planes)


def write_planes(frame: av.VideoFrame, planes: tuple[Plane, ...]) -> None:
    """Fill a frame; planes: as many as its format has, no larger than its own."""
    for view, values in zip(views(frame), planes, strict=True):
        view[: values.shape[0], : values.shape[1]] = values
