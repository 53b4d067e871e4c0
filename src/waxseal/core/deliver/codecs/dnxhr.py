"""DNxHR in five grades of its own: for editing, and in MXF."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import (
    HIGH_RANGE,
    STANDARD_RANGE,
    Codec,
    Facts,
    StreamEncoder,
    always,
)
from waxseal.core.picture.target import Layout

__all__ = ["DNXHR"]

PIXELS = {
    Layout.YUV422: "yuv422p",
    Layout.YUV422_10: "yuv422p10le",
    Layout.YUV444_10: "yuv444p10le",
}


def graded(name: str, layout: Layout, what: str, bits: float) -> Codec:
    """bits: a pixel, about: its published rate for 1920 x 1080 at 29.97, from memory."""
    return Codec(
        name=f"DNxHR {name}",
        title=f"DNxHR {name}, {what}",
        layout=layout,
        spaces=STANDARD_RANGE | (HIGH_RANGE if layout.depth == 10 else {}),
        facts=Facts("dnxhd", f"DNXHR {name}", PIXELS[layout]),
        containers=("MOV", "MXF"),
        coding=StreamEncoder("dnxhd", PIXELS[layout], {"profile": f"dnxhr_{name.lower()}"}),
        bits_a_pixel=always(bits),
        most_pixels=16_384 * 8_640,
        longest=16_384,
        shortest=256,
    )


DNXHR = (
    graded("LB", Layout.YUV422, "8 bits 4:2:2, small", 0.73),
    graded("SQ", Layout.YUV422, "8 bits 4:2:2", 2.34),
    graded("HQ", Layout.YUV422, "8 bits 4:2:2, high", 3.54),
    graded("HQX", Layout.YUV422_10, "10 bits 4:2:2", 3.54),
    graded("444", Layout.YUV444_10, "10 bits 4:4:4", 7.1),
)
