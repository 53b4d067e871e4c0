"""EXR frames: scene-linear halves in the working primaries, a file a frame."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from waxseal.core.deliver.codecs.codec import Codec, Facts, FrameFile
from waxseal.core.job.model import Chromaticities, Space
from waxseal.core.picture.target import Layout

if TYPE_CHECKING:
    from waxseal.core.picture.arrays import Planes

__all__ = ["EXR"]


def write(path: Path, planes: Planes, rate: Fraction, primaries: Chromaticities) -> None:
    from waxseal.core.frames.writing import write_light

    write_light(path, planes[0], rate=rate, chromaticities=primaries)


def bits_of_light(_figure: float) -> float:
    """Three halves: light compresses little."""
    return 48.0


EXR = Codec(
    name="EXR",
    title="EXR frames, half",
    layout=Layout.LIGHT,
    spaces={Space.LINEAR: (0, 0, 0, True)},  # the files name their primaries themselves
    facts=Facts("exr", "half", "RGB"),
    containers=("frames",),
    coding=FrameFile(".exr", write),
    bits_a_pixel=bits_of_light,
    most_pixels=16_384 * 16_384,
    longest=32_768,
    is_lossless=True,
)
