"""Movies of whole pictures, lossless and with alpha: PNG and run-length in MOV."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import Codec, Facts, StreamEncoder, always, of_rgb
from waxseal.core.job.model import Alpha
from waxseal.core.picture.target import Layout

__all__ = ["PNG_MOVIE", "PNG_MOVIE_16", "RUN_LENGTH"]

BOTH = (Alpha.STRAIGHT, Alpha.PREMULTIPLIED)


def of_png(name: str, title: str, layout: Layout, formats: tuple[str, str], bits: float) -> Codec:
    return Codec(
        name=name,
        title=title,
        layout=layout,
        spaces=of_rgb(is_full=True),
        facts=Facts("png", "", *formats),
        containers=("MOV",),
        coding=StreamEncoder("png", formats[0], {"pred": "mixed"}, clear_format=formats[1]),
        bits_a_pixel=always(bits),
        most_pixels=16_384 * 16_384,
        longest=32_768,
        is_lossless=True,
        alphas=BOTH,
        clear_containers=("MOV",),
    )


PNG_MOVIE = of_png(
    "PNG movie", "PNG movie, 8 bits RGB, lossless", Layout.RGB8, ("rgb24", "rgba"), 14.0
)
PNG_MOVIE_16 = of_png(
    "PNG movie 16",
    "PNG movie, 16 bits RGB, lossless",
    Layout.RGB16,
    ("rgb48be", "rgba64be"),
    36.0,
)
RUN_LENGTH = Codec(
    name="run-length",
    title="Run-length, 8 bits RGB, lossless",
    layout=Layout.RGB8,
    spaces=of_rgb(is_full=False),
    facts=Facts("qtrle", "", "rgb24", "argb"),
    containers=("MOV",),
    coding=StreamEncoder("qtrle", "rgb24", {}, clear_format="argb"),
    bits_a_pixel=always(20.0),
    most_pixels=16_384 * 16_384,
    longest=32_768,
    is_lossless=True,
    alphas=BOTH,
    clear_containers=("MOV",),
)
