"""FFV1: nothing is lost, with checksums inside (RFC 9043): for keeping."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import Codec, Facts, StreamEncoder, always, of_rgb
from waxseal.core.job.model import Alpha
from waxseal.core.picture.target import Layout

__all__ = ["FFV1", "FFV1_8"]

# Version 3 with a checksum a slice; every frame a key frame. The number of slices is fixed,
# because the bytes depend on it.
OPTIONS = {"level": "3", "slicecrc": "1", "slices": "16", "g": "1"}

FFV1 = Codec(
    name="FFV1",
    title="FFV1, 16 bits RGB, lossless",
    layout=Layout.RGB16,
    spaces=of_rgb(is_full=False),
    facts=Facts("ffv1", "", "gbrp16le", "gbrap16le"),
    containers=("MKV",),
    coding=StreamEncoder("ffv1", "gbrp16le", OPTIONS, clear_format="gbrap16le"),
    bits_a_pixel=always(30.0),
    most_pixels=16_384 * 16_384,
    longest=32_768,
    shortest=16,
    is_lossless=True,
    alphas=(Alpha.STRAIGHT, Alpha.PREMULTIPLIED),
    clear_containers=("MKV",),
)
FFV1_8 = Codec(
    name="FFV1 8",
    title="FFV1, 8 bits RGB, lossless",
    layout=Layout.RGB8,
    spaces=of_rgb(is_full=False),
    facts=Facts("ffv1", "", "bgr0", "bgra"),
    containers=("MKV", "AVI"),
    coding=StreamEncoder("ffv1", "bgr0", OPTIONS, clear_format="bgra"),
    bits_a_pixel=always(12.0),
    most_pixels=16_384 * 16_384,
    longest=32_768,
    shortest=16,
    is_lossless=True,
    alphas=(Alpha.STRAIGHT, Alpha.PREMULTIPLIED),
    clear_containers=("MKV", "AVI"),
)
