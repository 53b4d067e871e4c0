"""Movies of R'G'B' that lose nothing, with alpha: FFV1 for keeping, PNG and run-length in MOV."""

from __future__ import annotations

from collections.abc import Mapping

from waxseal.core.deliver.codecs.codec import (
    LARGEST_PIXELS,
    Codec,
    Facts,
    StreamEncoder,
    always,
    of_rgb,
)
from waxseal.core.job.model import Alpha
from waxseal.core.picture.target import Layout

__all__ = ["LOSSLESS"]


def lossless(
    name: str,
    title: str,
    pixels: tuple[Layout, str, str],
    encoder: tuple[str, str, Mapping[str, str]],
    containers: tuple[str, ...],
    bits: float,
    *,
    is_full: bool = False,
) -> Codec:
    """pixels: their layout, and the formats without and with alpha.

    encoder: its name in the library, what a file of it measures, its options. bits: a
    pixel, about. is_full: see of_rgb.
    """
    layout, opaque, clear = pixels
    library, measured, options = encoder
    return Codec(
        name=name,
        title=title,
        layout=layout,
        spaces=of_rgb(is_full=is_full),
        facts=Facts(measured, "", opaque, clear),
        containers=containers,
        coding=StreamEncoder(
            library, opaque, options, clear_format=clear, if_large=SLICES.get(library, ())
        ),
        bits_a_pixel=always(bits),
        most_pixels=LARGEST_PIXELS,
        longest=32_768,
        shortest=16,
        is_lossless=True,
        alphas=(Alpha.STRAIGHT, Alpha.PREMULTIPLIED),
        clear_containers=containers,
    )


# RFC 9043, version 3 with a checksum a slice; every frame a key frame. The number of slices
# follows the size alone, because the bytes depend on it; the library limits the pixels of a slice
# (31 million of three channels of 16 bits in 16 slices are too many).
SLICES = {"ffv1": ((20_000_000, {"slices": "64"}), (80_000_000, {"slices": "256"}))}
FFV1 = ("ffv1", "ffv1", {"level": "3", "slicecrc": "1", "slices": "16", "g": "1"})
PNG = ("png", "png", {"pred": "mixed"})

LOSSLESS = (
    lossless(
        "FFV1",
        "FFV1, 16 bits RGB, lossless",
        (Layout.RGB16, "gbrp16le", "gbrap16le"),
        FFV1,
        ("MKV",),
        30.0,
    ),
    lossless(
        "FFV1 8",
        "FFV1, 8 bits RGB, lossless",
        (Layout.RGB8, "bgr0", "bgra"),
        FFV1,
        ("MKV", "AVI"),
        12.0,
    ),
    lossless(
        "PNG movie",
        "PNG movie, 8 bits RGB, lossless",
        (Layout.RGB8, "rgb24", "rgba"),
        PNG,
        ("MOV",),
        14.0,
        is_full=True,
    ),
    lossless(
        "PNG movie 16",
        "PNG movie, 16 bits RGB, lossless",
        (Layout.RGB16, "rgb48be", "rgba64be"),
        PNG,
        ("MOV",),
        36.0,
        is_full=True,
    ),
    lossless(
        "run-length",
        "Run-length, 8 bits RGB, lossless",
        (Layout.RGB8, "rgb24", "argb"),
        ("qtrle", "qtrle", {}),
        ("MOV",),
        20.0,
    ),
)
