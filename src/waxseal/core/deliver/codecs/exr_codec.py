"""EXR frames: scene-linear halves in the working primaries, a file a frame."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from waxseal.core.deliver.codecs.codec import Codec, Facts, FrameFile, always
from waxseal.core.frames.frame_writer import write_light
from waxseal.core.job.model import Alpha, Space
from waxseal.core.picture.target import Layout

if TYPE_CHECKING:
    from waxseal.core.deliver.format.resolved_format import ResolvedFormat
    from waxseal.core.picture.arrays import Planes

__all__ = ["EXR"]


def write(path: Path, planes: Planes, form: ResolvedFormat) -> None:
    write_light(
        path,
        planes[0],
        rate=form.rate,
        chromaticities=form.primaries,
        pixel_shape=form.pixel_shape,
    )


EXR = Codec(
    name="EXR",
    title="EXR frames, half",
    layout=Layout.LIGHT,
    spaces={Space.LINEAR: (0, 0, 0, True)},  # the files name their primaries themselves
    facts=Facts("exr", "half", "RGB", "RGBA"),
    containers=("frames",),
    coding=FrameFile(".exr", write, says_pixel_shape=True),
    bits_a_pixel=always(48.0),  # three halves: light compresses little
    most_pixels=16_384 * 16_384,
    longest=32_768,
    is_lossless=True,
    alphas=(Alpha.PREMULTIPLIED,),
    clear_containers=("frames",),
)
