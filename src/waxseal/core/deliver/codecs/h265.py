"""H.265 with 10 bits: high range, and softer gradients in standard range."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import (
    HIGH_RANGE,
    LARGE,
    STANDARD_RANGE,
    Codec,
    Facts,
    StreamEncoder,
)
from waxseal.core.deliver.codecs.h264 import bits_at_figure
from waxseal.core.job.model import Grade
from waxseal.core.picture.target import Layout

__all__ = ["H265"]

# One frame at a time: with more, the bytes depend on the machine's threads.
PARAMS = "open-gop=0:frame-threads=1:info=0:log-level=error"

H265 = Codec(
    name="H.265",
    title="H.265, 10 bits",
    layout=Layout.YUV420_10,
    spaces=STANDARD_RANGE | HIGH_RANGE,
    facts=Facts("hevc", "Main 10", "yuv420p10le"),
    containers=("MP4", "MOV", "MKV"),
    coding=StreamEncoder(
        library="libx265",
        has_key_frames=True,
        least_gap=2,
        delay=2,
        pixel_format="yuv420p10le",
        options={"preset": "medium", "x265-params": PARAMS},
        tag="hvc1",
        # The library takes the times of pictures from one that does not come here.
        if_large=((LARGE, {"x265-params": f"{PARAMS}:rc-lookahead=6"}),),
        if_short={"x265-params": f"{PARAMS}:bframes=0"},
    ),
    bits_a_pixel=bits_at_figure,
    # ITU-T H.265, Table A.8, level 6.2, from memory: 35 651 584 luma samples.
    most_pixels=35_651_584,
    longest=16_888,
    shortest=16,
    has_bitrate=True,
    grades={Grade.DRAFT: 28, Grade.GOOD: 22, Grade.HIGH: 18, Grade.MASTER: 12},
    best=0,
    coarsest=51,
)
