"""Pixels to one file, by its suffix; what is delivered has no clock in it."""

from __future__ import annotations

import errno
import os
import shutil
import struct
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.errors import FrameError
from waxseal.core.frames.png_frames import SRGB, write_png

__all__ = ["name_in_dpx", "write_codes", "write_light", "write_pixels"]


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
    pixel_shape: Fraction = Fraction(1),
) -> None:
    """Write halves, (height, width, 3 or 4), as an ordinary EXR: the same values, the same bytes.

    compression: by OpenEXR's name. pixel_shape: width to height. Raises OSError.
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
    if pixel_shape != 1:
        header["pixelAspectRatio"] = float(pixel_shape)
    names = "RGBA"[: values.shape[2]]
    try:
        with OpenEXR.File(header, {names: np.ascontiguousarray(values)}) as file:
            file.write(str(path))
    except RuntimeError as error:
        # The library does not say why: a disk without room for a frame is why enough.
        is_full = shutil.disk_usage(path.parent).free < values.nbytes
        raise OSError(errno.ENOSPC if is_full else errno.EIO, str(error)) from error


BT709_POINTS = (1, 1)
DPX_BT709 = "ITU-R 709-4"  # the library's word for code 6 of SMPTE ST 268-1


def write_codes(
    path: Path,
    values: NDArray[Any],
    *,
    quality: float | None = None,
    bits: int = 0,
    is_premultiplied: bool = False,
    rate: Fraction | None = None,
    pixel_shape: Fraction = Fraction(1),
    code_points: tuple[int, int] = SRGB,
) -> None:
    """Write codes, (height, width, 3 or 4), uint8 or uint16: the same values, the same bytes.

    quality: of JPEG, 1 to 100. bits: of a code, where they are fewer than the type has.
    rate: frames a second; pixel_shape: width to height; both are said in DPX only.
    code_points: primaries and transfer by ITU-T H.273, said in PNG, and in DPX where they are
    those of BT.709. Raises OSError.
    """
    if path.suffix.lower() == ".png":
        write_png(path, values, code_points)
        return
    attributes: dict[str, Any] = {
        "oiio:UnassociatedAlpha": 0 if is_premultiplied else 1,
        "DateTime": "",
    }
    if quality is not None:
        attributes |= {"compression": f"jpeg:{round(quality)}", "jpeg:subsampling": "4:4:4"}
    if bits:
        attributes["oiio:BitsPerSample"] = bits
    if rate is not None and path.suffix.lower() == ".dpx":
        attributes |= {"dpx:FrameRate": float(rate), "dpx:TemporalFrameRate": float(rate)}
    if code_points == BT709_POINTS and path.suffix.lower() == ".dpx":
        attributes |= {"dpx:Transfer": DPX_BT709, "dpx:Colorimetric": DPX_BT709}
    try:
        write_pixels(path, values, attributes=attributes)
        if path.suffix.lower() == ".dpx":
            name_in_dpx(path)
            if pixel_shape != 1:
                shape_in_dpx(path, pixel_shape)
    except FrameError as error:
        is_full = shutil.disk_usage(path.parent).free < values.nbytes
        raise OSError(errno.ENOSPC if is_full else errno.EIO, str(error)) from error


def shape_in_dpx(path: Path, shape: Fraction) -> None:
    """Say the shape of a DPX's pixels exactly: the library leaves it out.

    SMPTE ST 268-1: two whole numbers of 32 bits, width and height, begin at 1628, in the order of
    bytes that the first four tell.
    """
    with path.open("r+b") as file:
        order = ">" if file.read(4) == b"SDPX" else "<"
        file.seek(1628)
        file.write(struct.pack(f"{order}2I", shape.numerator, shape.denominator))


def name_in_dpx(path: Path) -> None:
    """Give a DPX its bare name: the library writes where it was made, on this machine.

    SMPTE ST 268: the name's field, 100 bytes, begins at 36.
    """
    with path.open("r+b") as file:
        file.seek(36)
        file.write(os.fsencode(path.name)[:99].ljust(100, b"\0"))
