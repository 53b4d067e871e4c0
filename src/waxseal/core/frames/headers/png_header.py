"""The header of a PNG file, and its end. Source: W3C Portable Network Graphics (3rd edition)."""

from __future__ import annotations

import os
import struct
from typing import BinaryIO

from waxseal.core.frames.headers.colour_metadata import LARGEST_PROFILE, by_chunks
from waxseal.core.frames.headers.header import Broken, Format, Header, Incomplete
from waxseal.core.job.model import Alpha

__all__ = ["read_header"]

GREY, TRUE, PALETTE, GREY_ALPHA, TRUE_ALPHA = 0, 2, 3, 4, 6
END = b"\0\0\0\0IEND\xae\x42\x60\x82"
MOST_CHUNKS = 100_000
LOOKED_AT = frozenset({b"tRNS", b"cICP", b"iCCP", b"sRGB", b"gAMA", b"cHRM"})


def read_header(file: BinaryIO, size_bytes: int) -> Header:
    """Raises Broken."""
    head = file.read(33)
    if len(head) < 33 or head[12:16] != b"IHDR":
        raise Incomplete("cut short: it stops inside its header")
    width, height, bits, kind, *_ = struct.unpack(">IIBBBBB", head[16:29])
    if not width or not height or kind not in (GREY, TRUE, PALETTE, GREY_ALPHA, TRUE_ALPHA):
        raise Broken("damaged: its header does not make sense")
    chunks = chunks_before_pixels(file)
    transparent = b"tRNS" in chunks
    file.seek(-min(12, size_bytes), os.SEEK_END)
    if file.read() != END and not ends_earlier(file):
        raise Incomplete("cut short: it ends before its last rows")
    alpha = kind in (GREY_ALPHA, TRUE_ALPHA) or transparent
    colours = ("Y",) if kind in (GREY, GREY_ALPHA) else ("R", "G", "B")
    return Header(
        format=Format.PNG,
        width=width,
        height=height,
        channels=(*colours, "A") if alpha else colours,
        depth="uint16" if bits == 16 else "uint8",
        alpha=Alpha.STRAIGHT if alpha else Alpha.NONE,
        stated=by_chunks(chunks),
        is_ordinary=bits in (8, 16) and kind in (TRUE, TRUE_ALPHA) and not transparent,
    )


def chunks_before_pixels(file: BinaryIO) -> dict[bytes, bytes]:
    """What comes before the pixels of what is looked at, none of it longer than a profile."""
    found: dict[bytes, bytes] = {}
    for _ in range(64):
        head = file.read(8)
        if len(head) < 8 or head[4:] == b"IDAT":
            break
        length, name = int.from_bytes(head[:4]), head[4:]
        if name in LOOKED_AT and length <= LARGEST_PROFILE:
            found[name] = file.read(length)
            length = 0
        file.seek(length + 4, os.SEEK_CUR)
    return found


def ends_earlier(file: BinaryIO) -> bool:
    """Whether the picture is whole with something appended behind it."""
    file.seek(8)
    for _ in range(MOST_CHUNKS):
        head = file.read(8)
        if len(head) < 8:
            return False
        if head[4:] == b"IEND":
            return len(file.read(4)) == 4
        file.seek(struct.unpack(">I", head[:4])[0] + 4, os.SEEK_CUR)
    return False
