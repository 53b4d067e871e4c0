"""ProRes in five grades of its own: what pictures are edited and handed on in.

The libraries have two encoders. `prores_aw` takes a fourth to a ninth of the time, is as near
to the reel at the same size, and keeps its quality where a picture is grainy: the file exceeds the
published rate there. Its alpha is not wholly opaque where it should be, so it is given none, and
`prores_alpha` puts it in. `prores_ks` keeps to the rate whatever becomes of the picture, and takes
seconds for a frame of noise; but only it takes odd widths.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from waxseal.core.deliver.codecs import prores_alpha
from waxseal.core.deliver.codecs.codec import (
    HIGH_RANGE,
    STANDARD_RANGE,
    Codec,
    Facts,
    StreamEncoder,
    Tags,
    always,
)
from waxseal.core.job.model import Alpha
from waxseal.core.picture.target import Layout

if TYPE_CHECKING:
    from waxseal.core.picture.arrays import Plane

__all__ = ["PRORES", "PRORES_4444"]

CURVE = 23  # the byte of transfer_characteristic in a frame: SMPTE RDD 36, frame header


def with_curve(frame: bytes, tags: Tags) -> bytes:
    """`prores_aw` says only the curves that the document lists: sRGB's is left out."""
    _, curve, _, _ = tags
    return frame[:CURVE] + bytes((curve,)) + frame[CURVE + 1 :]


def with_alpha(frame: bytes, alpha: Plane) -> bytes:
    return prores_alpha.with_alpha(frame, alpha)


def of_422(name: str, profile: str, measured: str, bits: float) -> Codec:
    """bits: a pixel, about: its published rate for 1920 x 1080 at 29.97, from memory."""
    return Codec(
        name=f"ProRes {name}",
        title=f"ProRes {name}, 10 bits 4:2:2",
        layout=Layout.YUV422_10,
        spaces=STANDARD_RANGE | HIGH_RANGE,
        facts=Facts("prores", measured, "yuv422p10le"),
        containers=("MOV", "MXF", "MKV"),
        coding=StreamEncoder("prores_aw", "yuv422p10le", {"profile": profile}, mend=with_curve),
        bits_a_pixel=always(bits),
        most_pixels=16_384 * 8_640,
        longest=16_384,
        shortest=16,
    )


PRORES = (
    of_422("proxy", "0", "Proxy", 0.72),
    of_422("LT", "1", "LT", 1.64),
    of_422("422", "2", "Standard", 2.37),
    of_422("HQ", "3", "HQ", 3.54),
)

PRORES_4444 = Codec(
    name="ProRes 4444",
    title="ProRes 4444, 10 bits, with alpha",
    layout=Layout.YUV444_10,
    spaces=STANDARD_RANGE | HIGH_RANGE,
    # Its decoder gives 12 bits, whatever was encoded.
    facts=Facts("prores", "4444", "yuv444p12le", "yuva444p12le"),
    containers=("MOV", "MKV"),
    coding=StreamEncoder(
        "prores_aw",
        "yuv444p10le",
        {"profile": "4"},
        clear_format="yuva444p10le",
        other="prores_ks",
        mend=with_curve,
        weave=with_alpha,
    ),
    bits_a_pixel=always(7.0),
    most_pixels=16_384 * 8_640,
    longest=16_384,
    shortest=16,
    alphas=(Alpha.STRAIGHT, Alpha.PREMULTIPLIED),
    clear_containers=("MOV", "MKV"),
)
