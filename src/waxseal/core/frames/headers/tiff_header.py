"""The pages of a TIFF file, and whether the strips or tiles of each are inside the file.

Source: TIFF Revision 6.0; the wide form with 8-byte offsets as in libtiff's BigTIFF design.
"""

from __future__ import annotations

import os
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from typing import BinaryIO

from waxseal.core.frames.headers.colour_metadata import by_profile
from waxseal.core.frames.headers.header import Broken, Format, Header, Incomplete, NotRead
from waxseal.core.job.model import Alpha, Part

__all__ = ["read_header"]

WIDTH, HEIGHT, BITS, PHOTOMETRIC, SAMPLES = 256, 257, 258, 262, 277
STRIPS, STRIP_BYTES, TILES, TILE_BYTES = 273, 279, 324, 325
ORIENTATION, EXTRA, SAMPLE_FORMAT, PROFILE = 274, 338, 339, 34675
CMYK = 5
COLOURS = (0, 1, 2, 3, 6)  # grey, RGB, by a table, and Y'CbCr, which the library turns into RGB
SIGNED, FLOATING = 2, 3
WHOLE, FLOATS = (1, 2, 4, 8, 10, 12, 14, 16), (16, 32)
LETTERS = {1: "B", 3: "H", 4: "I", 7: "B", 16: "Q"}
KNOWN = frozenset(
    (WIDTH, HEIGHT, BITS, PHOTOMETRIC, SAMPLES, STRIPS, STRIP_BYTES, TILES, TILE_BYTES)
) | {ORIENTATION, EXTRA, SAMPLE_FORMAT, PROFILE}
MOST_VALUES = 4_000_000  # of all tags of a file together: what they share is counted each time
MOST_PAGES = 1000
NEITHER, ASSOCIATED, UNASSOCIATED = 0, 1, 2

Tags = dict[int, tuple[int, ...]]


@dataclass(frozen=True, slots=True)
class TiffLayout:
    """How a directory is laid out: byte order, its entries, and how long a value may be in one."""

    order: str
    entry: str
    place: str
    room: int


def read_header(file: BinaryIO, size_bytes: int) -> Header:
    """Raises Broken."""
    try:
        pages = list(read_pages(file, size_bytes))
        tags = pages[0]
        width, height = tags[WIDTH][0], tags[HEIGHT][0]
        samples = tags.get(SAMPLES, (1,))[0]
        bits = tags.get(BITS, (1,))[0]
        numbers = tags.get(SAMPLE_FORMAT, (1,))[0]
        floating = numbers == FLOATING
        for page in pages:
            check_page(page, size_bytes)
        extra = tags.get(EXTRA, ())
        photometric = tags.get(PHOTOMETRIC, (2,))[0]
        orientation = tags.get(ORIENTATION, (1,))[0]
    except (KeyError, IndexError):
        raise Broken("damaged: its header does not make sense") from None
    except struct.error:
        raise Incomplete("cut short: it stops inside its header") from None
    if not width or not height:
        raise Broken("damaged: its header does not make sense")
    if photometric not in COLOURS:
        what = "CMYK colours" if photometric == CMYK else "other colours than RGB"
        raise NotRead(f"a TIFF of {what}: convert it to RGB")
    if bits not in (FLOATS if floating else WHOLE) or numbers == SIGNED:
        kind = "floating" if floating else "signed" if numbers == SIGNED else "whole"
        what = f"a TIFF of {kind} numbers of {bits} bits"
        raise NotRead(f"{what}: convert it to 8 or 16 bits, or to floats of 32")
    grey = photometric in (0, 1)
    profile = bytes(tags.get(PROFILE, ()))
    alpha = samples in (2, 4) and bool(extra) and extra[0] in (NEITHER, ASSOCIATED, UNASSOCIATED)
    kind = Alpha.NONE
    if alpha:
        kind = Alpha.STRAIGHT if extra[0] == UNASSOCIATED else Alpha.PREMULTIPLIED
    colours = ("Y",) if grey else ("R", "G", "B")
    depth = "float" if floating else "uint8" if bits <= 8 else "uint16"
    channels = (*colours, "A") if alpha else colours
    turned = orientation in range(5, 9)
    return Header(
        format=Format.TIFF,
        width=height if turned else width,
        height=width if turned else height,
        channels=channels,
        depth=depth,
        alpha=kind,
        orientation=orientation if orientation in range(1, 9) else 1,
        parts=parts_of_pages(pages, channels),
        stated=by_profile(profile) if profile else None,
    )


def parts_of_pages(pages: list[Tags], channels: tuple[str, ...]) -> tuple[Part, ...]:
    """Each page of the first one's size is a picture; smaller ones are previews."""
    first = (pages[0][WIDTH], pages[0][HEIGHT], pages[0].get(SAMPLES))
    alike = [
        place
        for place, page in enumerate(pages)
        if (page.get(WIDTH), page.get(HEIGHT), page.get(SAMPLES)) == first
    ]
    if len(alike) < 2:
        return ()
    return tuple(Part(name=f"page {place + 1}", place=place, channels=channels) for place in alike)


def check_page(tags: Tags, size_bytes: int) -> None:
    """See that all strips or tiles of a page are inside the file."""
    offsets = tags.get(TILES) or tags[STRIPS]
    lengths = tags.get(TILE_BYTES) or tags[STRIP_BYTES]
    inside = sum(
        1
        for offset, length in zip(offsets, lengths, strict=False)
        if offset and length and offset + length <= size_bytes
    )
    if inside < len(offsets) or not offsets or len(lengths) < len(offsets):
        there = sum(
            max(0, min(offset + length, size_bytes) - offset)
            for offset, length in zip(offsets, lengths, strict=False)
        )
        share = 100 * there // max(1, sum(lengths))
        raise Incomplete(f"cut short: about {share} % of its picture is there")


def read_pages(file: BinaryIO, size_bytes: int) -> Iterator[Tags]:
    """The numbers of each page, by tag. Raises struct.error where the file ends."""
    head = file.read(16)
    order = "<" if head[:2] == b"II" else ">"
    wide = head[2:4] in (b"+\0", b"\0+")
    if wide:
        (offset,) = struct.unpack(f"{order}Q", head[8:16])
        count_form, entry_form, room = "Q", "HHQ8s", 8
    else:
        (offset,) = struct.unpack(f"{order}I", head[4:8])
        count_form, entry_form, room = "H", "HHI4s", 4
    next_form = order + ("Q" if wide else "I")
    count_bytes = struct.calcsize(order + count_form)
    entry_bytes = struct.calcsize(order + entry_form)
    seen, left = {0}, MOST_VALUES
    while offset not in seen and len(seen) <= MOST_PAGES:
        seen.add(offset)
        file.seek(min(offset, size_bytes))
        (count,) = struct.unpack(order + count_form, file.read(count_bytes))
        if count > 4096:
            raise Broken("damaged: its header does not make sense")
        directory = file.read(count * entry_bytes)
        (following,) = struct.unpack(next_form, file.read(struct.calcsize(next_form)))
        tags = read_tags(file, directory, TiffLayout(order, entry_form, next_form, room), left)
        left -= sum(len(values) for values in tags.values())
        yield tags
        offset = following


def read_tags(file: BinaryIO, directory: bytes, form: TiffLayout, most: int) -> Tags:
    """The known tags of a directory, with at most so many values. Raises Broken."""
    size_bytes = os.fstat(file.fileno()).st_size
    entry_bytes = struct.calcsize(form.order + form.entry)
    tags: Tags = {}
    for at in range(len(directory) // entry_bytes):
        entry = directory[at * entry_bytes : (at + 1) * entry_bytes]
        tag, kind, values, field = struct.unpack(form.order + form.entry, entry)
        if tag not in KNOWN or kind not in LETTERS:
            continue
        most -= values
        if most < 0:
            raise Broken("damaged: its header holds more numbers than any picture needs")
        letters = f"{form.order}{values}{LETTERS[kind]}"
        length = struct.calcsize(letters)
        if length > form.room:
            (place,) = struct.unpack(form.place, field)
            file.seek(min(place, size_bytes))
            field = file.read(length)
        tags[tag] = struct.unpack(letters, field[:length])
    return tags
