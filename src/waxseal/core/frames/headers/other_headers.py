"""Headers that OpenImageIO reads: DPX, TGA, IFF, BMP, WebP, PSD; the file's end is our own look.

These formats say in their first bytes how long they are, all but TGA and PSD,
whose decoders notice the end themselves.
"""

from __future__ import annotations

import struct
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

from waxseal.core.frames.headers.colour_metadata import BT709_VIDEO
from waxseal.core.frames.headers.header import Broken, Format, Header, Incomplete, NotRead
from waxseal.core.frames.image_open import open_image
from waxseal.core.frames.isolated import run_isolated
from waxseal.core.job.model import Alpha

__all__ = ["LONGEST_MAGIC", "format_of", "read_header"]

LONGEST_MAGIC = 34
BMP_COMPRESSION, RUN_LENGTHS = 30, (1, 2)  # of its header, from memory

# SMPTE ST 268-1: "Printing density" and "Logarithmic" are film densities.
BT709_TRANSFER = "ITU-R 709-4"
LOG_TRANSFERS = frozenset({"Printing density", "Logarithmic"})


def format_of(start: bytes, suffix: str) -> Format | None:
    """The format by the first bytes; a TGA has no mark of its own, its name has to say so."""
    if start[:4] in (b"SDPX", b"XPDS"):
        return Format.DPX
    if start[:4] in (b"FOR4", b"FORM") and start[8:12] == b"CIMG":
        return Format.IFF
    if start[:2] == b"BM" and start[6:10] == bytes(4):
        return Format.BMP
    if start[:4] == b"RIFF" and start[8:12] == b"WEBP":
        return Format.WEBP
    if start[:4] == b"8BPS":
        return Format.PSD
    # Colour map 0 or 1, one of the six kinds of picture that exist.
    is_tga = len(start) >= 18 and start[1] in (0, 1) and start[2] in (1, 2, 3, 9, 10, 11)
    return Format.TGA if is_tga and suffix.lower() == ".tga" else None


def dpx_length(start: bytes) -> int:
    order = ">" if start[:4] == b"SDPX" else "<"
    length = int(struct.unpack(f"{order}I", start[16:20])[0])
    return 0 if length == 0xFFFFFFFF else length


def iff_length(start: bytes) -> int:
    return int(struct.unpack(">I", start[4:8])[0]) + 8


def bmp_length(start: bytes) -> int:
    return int(struct.unpack("<I", start[2:6])[0])


def webp_length(start: bytes) -> int:
    return int(struct.unpack("<I", start[4:8])[0]) + 8


SHORTEST_MAGIC = 20  # which has the lengths of all of them

LENGTHS: dict[Format, Callable[[bytes], int]] = {
    Format.DPX: dpx_length,
    Format.IFF: iff_length,
    Format.BMP: bmp_length,
    Format.WEBP: webp_length,
}


def read_header(path: Path, kind: Format, start: bytes, size_bytes: int) -> Header:
    """Raises Broken."""
    length = LENGTHS[kind](start) if kind in LENGTHS and len(start) >= SHORTEST_MAGIC else 0
    if length > size_bytes:
        raise Incomplete(f"cut short: about {100 * size_bytes // length} % of its file is there")
    if kind is Format.BMP and len(start) >= LONGEST_MAGIC and start[BMP_COMPRESSION] in RUN_LENGTHS:
        raise NotRead("a BMP packed by run lengths: convert it to PNG")
    return run_isolated(read_by_library, path, kind, size_bytes)


def read_by_library(path: Path, kind: Format, size_bytes: int) -> Header:
    """Raises Broken."""
    try:
        with open_image(path) as source:
            return header_of(kind, source.spec(), size_bytes)
    except (ValueError, RuntimeError, OSError):
        raise Broken("damaged: its header does not make sense") from None


def header_of(kind: Format, spec: Any, size_bytes: int) -> Header:
    names = tuple(spec.channelnames)
    if len(names) > 4 or spec.width < 1 or spec.height < 1 or spec.depth > 1:
        raise ValueError
    depth = str(spec.format)
    if depth not in ("uint8", "uint16", "half", "float"):
        raise NotRead(f"a {kind} of {depth} values: convert it to 8 or 16 bits")
    is_plain = kind is Format.DPX or (
        kind is Format.TGA and "compression" not in attributes_of(spec)
    )
    bits = attributes_of(spec).get("oiio:BitsPerSample", 8)
    least = spec.width * spec.height * len(names) * min(8, int(bits)) // 8
    if is_plain and least > size_bytes:
        raise Incomplete(f"cut short: about {100 * size_bytes // least} % of its file is there")
    return Header(
        format=kind,
        width=spec.full_width,
        height=spec.full_height,
        channels=names if "A" in names or len(names) != 2 else (names[0], "A"),
        depth=depth,
        alpha=alpha_of(kind, spec, names),
        rate=rate_of(spec),
        pixel_shape=shape_of(spec),
        is_log=attributes_of(spec).get("dpx:Transfer") in LOG_TRANSFERS,
        stated=BT709_VIDEO if attributes_of(spec).get("dpx:Transfer") == BT709_TRANSFER else None,
        orientation=orientation_of(spec),
        bits=int(bits) if depth == "uint16" and int(bits) in range(9, 16) else 0,
    )


def attributes_of(spec: Any) -> dict[str, Any]:
    return {attribute.name: attribute.value for attribute in spec.extra_attribs}


def alpha_of(kind: Format, spec: Any, names: tuple[str, ...]) -> Alpha:
    if "A" not in names:
        return Alpha.NONE
    # IFF and DPX come from renderers: associated by custom (no source).
    straight = attributes_of(spec).get("oiio:UnassociatedAlpha") or kind in (Format.BMP, Format.PSD)
    return Alpha.STRAIGHT if straight else Alpha.PREMULTIPLIED


def rate_of(spec: Any) -> Fraction | None:
    """The rate of a DPX. It is written as a float32: the nearest of the exact rates is meant."""
    value = attributes_of(spec).get("dpx:FrameRate") or attributes_of(spec).get("FramesPerSecond")
    if not isinstance(value, float) or not 1 <= value <= 240:
        return None
    if abs(value - round(value)) < 1e-4:
        return Fraction(round(value))
    dropping = Fraction(round(value * 1.001) * 1000, 1001)
    return dropping if abs(value - float(dropping)) < 1e-3 else None


def shape_of(spec: Any) -> Fraction | None:
    value = attributes_of(spec).get("PixelAspectRatio")
    if not isinstance(value, float) or not 0.1 < value < 10 or abs(value - 1) < 1e-3:
        return None
    return Fraction(value).limit_denominator(100)


def orientation_of(spec: Any) -> int:
    value = attributes_of(spec).get("Orientation", 1)
    return value if isinstance(value, int) and 1 <= value <= 8 else 1
