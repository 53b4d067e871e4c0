"""The first page of a TIFF file, and whether its strips or tiles are inside the file.

Source: TIFF Revision 6.0; the wide form with 8-byte offsets as in libtiff's BigTIFF design.
"""

from __future__ import annotations

import struct
from typing import BinaryIO

from waxseal.core.frames.headers.header import Broken, Format, Header
from waxseal.core.job.model import Alpha

__all__ = ["read_header"]

WIDTH, HEIGHT, BITS, PHOTOMETRIC, SAMPLES = 256, 257, 258, 262, 277
STRIPS, STRIP_BYTES, TILES, TILE_BYTES = 273, 279, 324, 325
EXTRA, SAMPLE_FORMAT = 338, 339
LETTERS = {1: "B", 3: "H", 4: "I", 16: "Q"}
MOST_VALUES = 4_000_000
NEITHER, ASSOCIATED, UNASSOCIATED = 0, 1, 2


def read_header(file: BinaryIO, size_bytes: int) -> Header:
    """Raises Broken."""
    try:
        tags = read_tags(file, size_bytes)
        width, height = tags[WIDTH][0], tags[HEIGHT][0]
        samples = tags.get(SAMPLES, (1,))[0]
        bits = tags.get(BITS, (1,))[0]
        floating = tags.get(SAMPLE_FORMAT, (1,))[0] == 3
        offsets = tags.get(TILES) or tags[STRIPS]
        lengths = tags.get(TILE_BYTES) or tags[STRIP_BYTES]
        extra = tags.get(EXTRA, ())
        photometric = tags.get(PHOTOMETRIC, (2,))[0]
    except (KeyError, IndexError):
        raise Broken("damaged: its header does not make sense") from None
    except struct.error:
        raise Broken("cut short: it stops inside its header") from None
    inside = sum(
        1
        for offset, length in zip(offsets, lengths, strict=False)
        if offset and length and offset + length <= size_bytes
    )
    if inside < len(offsets) or not offsets or len(lengths) < len(offsets):
        share = 100 * inside // max(1, len(offsets))
        raise Broken(f"cut short: about {share} % of its picture is there")
    if not width or not height or bits not in (1, 8, 16, 32):
        raise Broken(f"a TIFF of {bits} bits a channel, which is not read")
    grey = photometric in (0, 1)
    alpha = samples in (2, 4) and bool(extra) and extra[0] in (NEITHER, ASSOCIATED, UNASSOCIATED)
    kind = Alpha.NONE
    if alpha:
        kind = Alpha.STRAIGHT if extra[0] == UNASSOCIATED else Alpha.PREMULTIPLIED
    colours = ("Y",) if grey else ("R", "G", "B")
    depth = {8: "uint8", 16: "half" if floating else "uint16", 32: "float"}.get(bits, "uint8")
    return Header(
        format=Format.TIFF,
        width=width,
        height=height,
        channels=(*colours, "A") if alpha else colours,
        depth=depth,
        alpha=kind,
    )


def read_tags(file: BinaryIO, size_bytes: int) -> dict[int, tuple[int, ...]]:
    """The numbers of the first page, by tag. Raises struct.error where the file ends."""
    head = file.read(16)
    order = "<" if head[:2] == b"II" else ">"
    wide = head[2:4] in (b"+\0", b"\0+")
    if wide:
        (offset,) = struct.unpack(f"{order}Q", head[8:16])
        count_form, entry_form, room = "Q", "HHQ8s", 8
    else:
        (offset,) = struct.unpack(f"{order}I", head[4:8])
        count_form, entry_form, room = "H", "HHI4s", 4
    file.seek(min(offset, size_bytes))
    count_bytes = struct.calcsize(order + count_form)
    (count,) = struct.unpack(order + count_form, file.read(count_bytes))
    if count > 4096:
        raise Broken("damaged: its header does not make sense")
    entry_bytes = struct.calcsize(order + entry_form)
    directory = file.read(count * entry_bytes)
    tags: dict[int, tuple[int, ...]] = {}
    for at in range(count):
        entry = directory[at * entry_bytes : (at + 1) * entry_bytes]
        tag, kind, values, field = struct.unpack(order + entry_form, entry)
        if kind not in LETTERS or values > MOST_VALUES:
            continue
        form = f"{order}{values}{LETTERS[kind]}"
        length = struct.calcsize(form)
        if length > room:
            (place,) = struct.unpack(order + ("Q" if wide else "I"), field)
            file.seek(min(place, size_bytes))
            field = file.read(length)
        tags[tag] = struct.unpack(form, field[:length])
    return tags
