"""VP9: for the open web, with alpha where it is wanted."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import STANDARD_RANGE, Codec, Facts, StreamEncoder
from waxseal.core.job.model import Alpha, Grade
from waxseal.core.picture.target import Layout

__all__ = ["VP9", "bits_at_step"]


def bits_at_step(figure: float) -> float:
    """About as many as a grainy picture takes, at figures up to 63; no source."""
    return float(0.30 * 2.0 ** ((24 - figure) / 9))


VP9 = Codec(
    name="VP9",
    title="VP9, 8 bits",
    layout=Layout.YUV420,
    spaces=STANDARD_RANGE,
    facts=Facts("vp9", "Profile 0", "yuv420p", "yuva420p"),
    containers=("WebM", "MKV", "MP4"),
    coding=StreamEncoder(
        "libvpx-vp9",
        "yuv420p",
        # Without rows in parallel the bytes do not depend on the threads.
        {"row-mt": "0", "b": "0", "deadline": "good", "cpu-used": "3", "tile-columns": "2"},
        is_whole=True,
        has_key_frames=True,
        stretch=2,
        clear_format="yuva420p",
        clear_options={"auto-alt-ref": "0"},
    ),
    bits_a_pixel=bits_at_step,
    most_pixels=16_384 * 8_704,  # level 6.2 of its bitstream guide, from memory
    longest=16_384,
    shortest=16,
    grades={Grade.DRAFT: 42, Grade.GOOD: 33, Grade.HIGH: 24, Grade.MASTER: 12},
    best=0,
    coarsest=63,
    alphas=(Alpha.STRAIGHT,),
    clear_containers=("WebM", "MKV"),
)
