"""Frames of codes, a file each: PNG, TIFF, DPX, JPEG."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from waxseal.core.deliver.codecs.codec import HIGH_RANGE, Codec, Facts, FrameFile, Tags, always
from waxseal.core.frames.frame_writer import name_in_dpx, write_codes
from waxseal.core.job.model import Alpha, Grade, Space
from waxseal.core.picture.target import Layout

if TYPE_CHECKING:
    from waxseal.core.deliver.format.resolved_format import ResolvedFormat
    from waxseal.core.picture.arrays import Planes

__all__ = ["ANIMATED_PNG", "DPX", "JPEG", "PNG", "PNG_16", "TIFF", "TIFF_8"]

# PNG says what its colour is, and DPX where it is BT.709; the others are taken for what is usual.
USUAL: dict[Space, Tags] = {Space.SRGB: (0, 0, 0, True), Space.BT709: (0, 0, 0, True)}
SAID: dict[Space, Tags] = {
    Space.SRGB: (1, 13, 0, True),
    Space.BT709: (1, 1, 0, True),
    Space.P3: (12, 13, 0, True),
}
SAID_HIGH = {space: (*tags[:2], 0, True) for space, tags in HIGH_RANGE.items()}
BOTH = (Alpha.STRAIGHT, Alpha.PREMULTIPLIED)


def write(path: Path, planes: Planes, form: ResolvedFormat) -> None:
    codec = form.codec
    quality = codec.figure_for(form.quality) if codec is JPEG else None
    bits = 10 if codec is DPX else 0
    is_premultiplied = form.target.alpha is Alpha.PREMULTIPLIED
    write_codes(
        path,
        np.dstack(planes),
        quality=quality,
        bits=bits,
        is_premultiplied=is_premultiplied,
        rate=form.rate,
        pixel_shape=form.pixel_shape,
        code_points=form.tags[:2],
    )


def name_dpx(path: Path) -> None:
    name_in_dpx(path)


def of_stills(
    name: str,
    title: str,
    layout: Layout,
    facts: tuple[str, str],
    alphas: tuple[Alpha, ...],
    spaces: Mapping[Space, Tags] = USUAL,
) -> Codec:
    """facts: the format's name and its depth, as they measure."""
    bits = 14.0 if layout.depth == 8 else 30.0
    return Codec(
        name=name,
        title=title,
        layout=layout,
        spaces=spaces,
        facts=Facts(*facts, "RGB", "RGBA"),
        containers=("frames",),
        coding=file_of(facts[0]),
        bits_a_pixel=always(bits),
        most_pixels=16_384 * 16_384,
        longest=32_768,
        is_lossless=True,
        alphas=alphas,
        clear_containers=("frames",) if alphas else (),
    )


def file_of(kind: str) -> FrameFile:
    if kind == "dpx":
        return FrameFile(SUFFIXES[kind], write, name=name_dpx, says_pixel_shape=True)
    return FrameFile(SUFFIXES[kind], write, says_rate=False)


SUFFIXES = {"png": ".png", "tiff": ".tif", "dpx": ".dpx"}

# What a PNG holds is straight, by its standard.
PNG = of_stills("PNG", "PNG frames, 8 bits", Layout.RGB8, ("png", "8"), (Alpha.STRAIGHT,), SAID)
PNG_16 = of_stills(
    *("PNG 16", "PNG frames, 16 bits", Layout.RGB16, ("png", "16"), (Alpha.STRAIGHT,)),
    SAID | SAID_HIGH,  # 8 bits are too few for a high range
)
TIFF_8 = of_stills("TIFF 8", "TIFF frames, 8 bits", Layout.RGB8, ("tiff", "8"), BOTH)
TIFF = of_stills("TIFF", "TIFF frames, 16 bits", Layout.RGB16, ("tiff", "16"), BOTH)
DPX = of_stills(
    *("DPX", "DPX frames, 10 bits", Layout.RGB10, ("dpx", "10"), ()),
    USUAL | {Space.BT709: (1, 1, 0, True)},
)


# The same frames in one file, which browsers play.
ANIMATED_PNG = replace(
    PNG,
    name="animated PNG",
    title="animated PNG, 8 bits",
    facts=Facts("apng", "", "rgb24", "rgba"),
    containers=("APNG",),
    clear_containers=("APNG",),
    spaces=USUAL,
    untagged=(2, 2, 0, True),
)


def bits_at(figure: float) -> float:
    """About as many as a grainy picture takes, whole colour; no source."""
    return float(1.5 + 9.0 * max(0.0, figure / 100) ** 8)


JPEG = Codec(
    name="JPEG",
    title="JPEG frames, 8 bits",
    layout=Layout.RGB8,
    spaces=USUAL,
    facts=Facts("jpeg", "8", "RGB"),
    containers=("frames",),
    coding=FrameFile(".jpg", write, says_rate=False),
    bits_a_pixel=bits_at,
    most_pixels=16_384 * 16_384,
    longest=32_768,
    grades={Grade.DRAFT: 75, Grade.GOOD: 88, Grade.HIGH: 95, Grade.MASTER: 100},
    best=100,
    coarsest=1,
)
