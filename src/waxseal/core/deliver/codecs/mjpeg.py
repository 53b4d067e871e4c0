"""Motion JPEG: each picture by itself, for machines that know nothing else."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import LARGEST_PIXELS, Codec, Facts, StreamEncoder
from waxseal.core.job.model import Grade, Space
from waxseal.core.picture.target import Layout

__all__ = ["MJPEG"]


def bits_at(figure: float) -> float:
    """About as many as a grainy picture takes; no source."""
    return 5.0 / figure


MJPEG = Codec(
    name="MJPEG",
    title="Motion JPEG, 8 bits 4:2:2",
    layout=Layout.FULL_422,
    # ITU-T T.871: full range and the matrix of BT.601.
    spaces={Space.SRGB: (1, 1, 5, True), Space.BT709: (1, 1, 5, True)},
    facts=Facts("mjpeg", "Baseline", "yuvj422p"),
    containers=("MOV", "AVI", "MKV"),
    # One thread: the bytes depend on it.
    coding=StreamEncoder(
        "mjpeg",
        "yuvj422p",
        {"huffman": "optimal"},
        figures=("qmin", "qmax"),
        threads=1,
        is_whole=True,
    ),
    bits_a_pixel=bits_at,
    most_pixels=LARGEST_PIXELS,
    longest=32_768,
    shortest=16,
    grades={Grade.DRAFT: 8, Grade.GOOD: 4, Grade.HIGH: 2, Grade.MASTER: 1},
    best=1,
    coarsest=31,
    untagged=(2, 2, 5, True),
)
