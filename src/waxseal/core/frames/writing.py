"""Pixels to one file: EXR, PNG or TIFF, by the suffix."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.errors import FrameError

__all__ = ["write_pixels"]


def write_pixels(
    path: Path,
    values: NDArray[Any],
    *,
    rate: Fraction | None = None,
    compression: str | None = None,
    attributes: dict[str, Any] | None = None,
    depth: str = "",
) -> None:
    """Write one frame.

    values: (height, width, channels) in the type that the file shall have
        (float16 or float32 for EXR, uint8 or uint16 otherwise); alpha is
        written as it stands: premultiplied in EXR, straight elsewhere.
    rate: frames a second, kept in EXR only. depth: the file's, where it is not that
        of the values: `half` for float32.
    Raises FrameError.
    """
    import OpenImageIO as oiio

    height, width, count = values.shape
    kind = depth or str(values.dtype).replace("float16", "half").replace("float32", "float")
    spec = oiio.ImageSpec(width, height, count, kind)
    if path.suffix.lower() == ".exr":
        spec.attribute("compression", compression or "zip")
        if rate is not None:
            spec.attribute(
                "framesPerSecond", oiio.TypeDesc("rational"), (rate.numerator, rate.denominator)
            )
    else:
        spec.attribute("oiio:UnassociatedAlpha", 1)
        spec.attribute("compression", compression or "zip")
        if path.suffix.lower() == ".png":
            spec.attribute("png:compressionLevel", 2)
    for name, value in (attributes or {}).items():
        if isinstance(value, tuple):
            spec.attribute(name, oiio.TypeDesc(f"float[{len(value)}]"), value)
        else:
            spec.attribute(name, value)
    target = oiio.ImageOutput.create(str(path))
    if target is None or not target.open(str(path), spec):
        raise FrameError(f"{path} cannot be written: {oiio.geterror()}", path=path)
    written = target.write_image(np.ascontiguousarray(values))
    if not target.close() or not written:
        raise FrameError(f"{path} cannot be written: {target.geterror()}", path=path)
