"""AV1 with 10 bits: small files for the open web, and high range."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import (
    HIGH_RANGE,
    STANDARD_RANGE,
    Codec,
    Facts,
    StreamEncoder,
)
from waxseal.core.deliver.codecs.vp9 import bits_at_step
from waxseal.core.job.model import Grade
from waxseal.core.picture.target import Layout

__all__ = ["AV1"]

AV1 = Codec(
    name="AV1",
    title="AV1, 10 bits",
    layout=Layout.YUV420_10,
    spaces=STANDARD_RANGE | HIGH_RANGE,
    facts=Facts("av1", "Main", "yuv420p10le"),
    containers=("MP4", "WebM", "MKV"),
    coding=StreamEncoder(
        "libsvtav1",
        "yuv420p10le",
        # Filtered, a key frame would be a mixture of itself and the frames after it. With more than
        # one picture at work (lp), its threads now and then wait for each other for ever.
        {"preset": "8", "svtav1-params": "enable-tf=0:lp=1"},
        is_whole=True,
        has_key_frames=True,
        stretch=2,
    ),
    bits_a_pixel=bits_at_step,
    most_pixels=35_651_584,  # AV1 specification, annex A, level 6.3, from memory
    longest=16_384,
    shortest=64,  # its encoder hangs on less
    grades={Grade.DRAFT: 45, Grade.GOOD: 35, Grade.HIGH: 26, Grade.MASTER: 14},
    best=1,
    coarsest=63,
)
