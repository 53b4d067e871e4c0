"""DNxHR in five grades of its own: for editing, and in MXF."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import (
    HIGH_RANGE,
    STANDARD_RANGE,
    Codec,
    Facts,
    StreamEncoder,
    Tags,
    always,
)
from waxseal.core.picture.target import Layout

__all__ = ["DNXHR"]

PIXELS = {
    Layout.YUV422: "yuv422p",
    Layout.YUV422_10: "yuv422p10le",
    Layout.YUV444_10: "yuv444p10le",
}

# Where a frame says its matrix, and which number it has there, by those of ITU-T H.273.
# From memory of SMPTE ST 2019-1, colour volume; the library's decoder reads it so.
VOLUME, SHIFT, BT2020 = 0x2C, 1, {9: 1}


def with_matrix(frame: bytes, tags: Tags) -> bytes:
    """The encoder says BT.709 of every frame."""
    _, _, matrix, _ = tags
    said = frame[VOLUME] & ~(3 << SHIFT) | BT2020.get(matrix, 0) << SHIFT
    return frame[:VOLUME] + bytes((said,)) + frame[VOLUME + 1 :]


def graded(name: str, layout: Layout, what: str, bits: float) -> Codec:
    """bits: a pixel, about: its published rate for 1920 x 1080 at 29.97, from memory."""
    return Codec(
        name=f"DNxHR {name}",
        title=f"DNxHR {name}, {what}",
        layout=layout,
        spaces=STANDARD_RANGE | (HIGH_RANGE if layout.depth == 10 else {}),
        facts=Facts("dnxhd", f"DNXHR {name}", PIXELS[layout]),
        containers=("MOV", "MXF"),
        coding=StreamEncoder(
            "dnxhd", PIXELS[layout], {"profile": f"dnxhr_{name.lower()}"}, mend=with_matrix
        ),
        bits_a_pixel=always(bits),
        most_pixels=16_384 * 8_640,
        longest=16_384,
        shortest=256,
        says_colour=False,  # only the matrix
    )


DNXHR = (
    graded("LB", Layout.YUV422, "8 bits 4:2:2, small", 0.73),
    graded("SQ", Layout.YUV422, "8 bits 4:2:2", 2.34),
    graded("HQ", Layout.YUV422, "8 bits 4:2:2, high", 3.54),
    graded("HQX", Layout.YUV422_10, "10 bits 4:2:2", 3.54),
    graded("444", Layout.YUV444_10, "10 bits 4:4:4", 7.1),
)
