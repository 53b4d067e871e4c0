"""Pixels to one file: EXR, PNG or TIFF, by the suffix; halves of light to EXR without a clock."""

from __future__ import annotations

import errno
import shutil
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.errors import FrameError

__all__ = ["write_light", "write_pixels"]


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
        written as it is: premultiplied in EXR, straight elsewhere.
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


def write_light(
    path: Path,
    values: NDArray[np.float16],
    *,
    compression: str = "ZIP",
    rate: Fraction | None = None,
    chromaticities: tuple[float, ...] | None = None,
) -> None:
    """Write halves, (height, width, 3 or 4), as an ordinary EXR: the same values, the same bytes.

    compression: by OpenEXR's name. Raises OSError.
    """
    import OpenEXR

    header: dict[str, Any] = {
        "compression": getattr(OpenEXR, f"{compression}_COMPRESSION"),
        "type": OpenEXR.scanlineimage,
    }
    if rate is not None:
        header["framesPerSecond"] = rate
    if chromaticities is not None:
        header["chromaticities"] = chromaticities
    names = "RGBA"[: values.shape[2]]
    try:
        with OpenEXR.File(header, {names: np.ascontiguousarray(values)}) as file:
            file.write(str(path))
    except RuntimeError as error:
        # The library does not say why: a disk without room for a frame is why enough.
        is_full = shutil.disk_usage(path.parent).free < values.nbytes
        raise OSError(errno.ENOSPC if is_full else errno.EIO, str(error)) from error
