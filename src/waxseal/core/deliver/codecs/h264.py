"""H.264 with 8 bits: what plays everywhere."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import LARGE, STANDARD_RANGE, Codec, Facts, StreamEncoder
from waxseal.core.job.model import Grade
from waxseal.core.picture.target import Layout

__all__ = ["H264", "bits_at_figure"]


def bits_at_figure(figure: float) -> float:
    """Six steps of the figure halve the bits; at 18 a grainy pixel takes a third of one.

    Common practice, no source.
    """
    return float(0.33 * 2.0 ** ((18 - figure) / 6))


H264 = Codec(
    name="H.264",
    title="H.264, 8 bits",
    layout=Layout.YUV420,
    spaces=STANDARD_RANGE,
    facts=Facts("h264", "High", "yuv420p"),
    containers=("MP4", "MOV", "MKV"),
    coding=StreamEncoder(
        library="libx264",
        has_key_frames=True,
        delay=2,
        pixel_format="yuv420p",
        options={
            "preset": "medium",
            "profile": "high",
            # cpu-independent: without it the bytes depend on the processor.
            "x264-params": "open-gop=0:cpu-independent=1",
        },
        if_large=((LARGE, {"rc-lookahead": "20"}),),
        finest=1,  # below it is lossless, in a profile that few players have
    ),
    bits_a_pixel=bits_at_figure,
    # ITU-T H.264, Table A-1, level 6.2, from memory: 139 264 macroblocks of 16 x 16.
    most_pixels=139_264 * 256,
    longest=16_384,
    shortest=16,
    has_bitrate=True,
    grades={Grade.DRAFT: 28, Grade.GOOD: 22, Grade.HIGH: 18, Grade.MASTER: 12},
    best=0,
    coarsest=51,
)
