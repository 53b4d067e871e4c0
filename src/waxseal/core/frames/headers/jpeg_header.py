"""The header of a JPEG file, and its end. Source: ITU-T T.81, Annex B."""

from __future__ import annotations

import os
import struct
from dataclasses import dataclass
from typing import BinaryIO

from waxseal.core.frames.headers.colour_metadata import LARGEST_PROFILE, by_profile
from waxseal.core.frames.headers.header import Format, Header, Incomplete, NotRead
from waxseal.core.job.model import Alpha

__all__ = ["read_header"]

STARTS_OF_FRAME = frozenset({*range(0xC0, 0xD0)} - {0xC4, 0xC8, 0xCC})
WITHOUT_LENGTH = frozenset({0x01, *range(0xD0, 0xD9)})
MOST_SEGMENTS = 2000
APP1, APP2, START_OF_SCAN = 0xE1, 0xE2, 0xDA
END = b"\xff\xd9"
TAIL = 4096  # what some cameras append fits in here


def read_header(file: BinaryIO, size_bytes: int) -> Header:
    """Raises Broken."""
    frame = find_frame(file)
    (bits, height, width, components), orientation, profile = (
        frame.facts,
        frame.orientation,
        frame.profile,
    )
    if bits != 8:
        raise NotRead(f"a JPEG of {bits} bits: convert it to 8 bits, or to PNG")
    if not width or not height or components not in (1, 3):
        what = "CMYK colours" if components == 4 else f"{components} components"
        raise NotRead(f"a JPEG of {what}: convert it to RGB")
    if not has_end(file, size_bytes):
        raise Incomplete("cut short: it ends before its last rows")
    turned = orientation in range(5, 9)
    return Header(
        format=Format.JPEG,
        width=height if turned else width,
        height=width if turned else height,
        channels=("Y",) if components == 1 else ("R", "G", "B"),
        depth="uint8",
        alpha=Alpha.NONE,
        orientation=orientation,
        stated=by_profile(profile) if profile else None,
        oddity="has a few stray bytes between its parts" if frame.has_strays else "",
    )


def has_end(file: BinaryIO, size_bytes: int) -> bool:
    """Whether its end is marked, behind what was read of it; something may follow the mark."""
    begun = file.tell()
    file.seek(max(begun, size_bytes - TAIL))
    if END in file.read():
        return True
    file.seek(begun)
    return END in file.read()


@dataclass(frozen=True, slots=True)
class Frame:
    """What stands before the picture. facts: bits, height, width, components.

    has_strays: whether bytes that belong to nothing stand between its segments.
    """

    facts: tuple[int, int, int, int]
    orientation: int
    profile: bytes
    has_strays: bool


def find_frame(file: BinaryIO) -> Frame:
    """Read up to the start of the scan. Raises Incomplete."""
    file.seek(2)
    orientation, profile, has_strays = 1, b"", False
    found: tuple[int, int, int, int] | None = None
    for _ in range(MOST_SEGMENTS):
        byte = file.read(1)
        if not byte:
            break
        if byte != b"\xff":
            has_strays = True
            continue
        while (mark := file.read(1)) == b"\xff":
            pass
        if not mark:
            break
        if mark[0] in WITHOUT_LENGTH:
            continue
        length = file.read(2)
        if len(length) < 2:
            break
        if mark[0] in STARTS_OF_FRAME:
            facts = file.read(6)
            if len(facts) < 6:
                break
            bits, height, width, components = struct.unpack(">BHHB", facts)
            found = found or (bits, height, width, components)
            file.seek(max(0, struct.unpack(">H", length)[0] - 8), os.SEEK_CUR)
            continue
        if mark[0] == START_OF_SCAN and found is not None:
            return Frame(found, orientation, profile, has_strays)
        rest = max(0, struct.unpack(">H", length)[0] - 2)
        if mark[0] == APP1:
            orientation = orientation_in(file.read(rest)) or orientation
        elif mark[0] == APP2 and len(profile) < LARGEST_PROFILE:
            profile += profile_in(file.read(rest))
        else:
            file.seek(rest, os.SEEK_CUR)
    raise Incomplete("cut short: it stops inside its header")


def profile_in(segment: bytes) -> bytes:
    """A part of an ICC profile; the parts come in their order. Source: ICC.1:2022, B.4."""
    mark = b"ICC_PROFILE\0"
    return segment[len(mark) + 2 :] if segment.startswith(mark) else b""


def orientation_in(segment: bytes) -> int:
    """How the picture has to be turned; 0 where the segment does not say it.

    Source: CIPA DC-008 (Exif 2.3), 4.6.4 and 4.7.2.
    """
    if not segment.startswith(b"Exif\0\0"):
        return 0
    block = segment[6:]
    order = "<" if block[:2] == b"II" else ">"
    try:
        (place,) = struct.unpack_from(f"{order}I", block, 4)
        (count,) = struct.unpack_from(f"{order}H", block, place)
        for at in range(count):
            tag, _, _, value = struct.unpack_from(f"{order}HHIH", block, place + 2 + 12 * at)
            if tag == 0x0112:
                return value if 1 <= value <= 8 else 0
    except struct.error:
        return 0
    return 0
