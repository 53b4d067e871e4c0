"""The header of an OpenEXR file, and its table of chunks.

A writer that was killed leaves the table full of zeros; a file that was cut
has chunks that reach past its end. Source: OpenEXR File Layout,
openexr.com/en/latest/OpenEXRFileLayout.html.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from fractions import Fraction
from typing import BinaryIO

from waxseal.core.frames.headers.exr_parts import parts_of
from waxseal.core.frames.headers.header import Broken, Format, Header, Incomplete, NotRead
from waxseal.core.job.model import Alpha
from waxseal.core.job.primaries import are_primaries
from waxseal.core.timing.rates import is_possible

__all__ = ["LINES", "channels_of", "is_in_one_piece", "read_attributes", "read_header"]

TILED, DEEP, MULTI_PART = 0x200, 0x800, 0x1000
LONGEST_HEADER = 8 * 1024 * 1024
# Scan lines in a chunk, by the number of the compression.
LINES = {0: 1, 1: 1, 2: 1, 3: 16, 4: 32, 5: 16, 6: 32, 7: 32, 8: 32, 9: 256, 10: 256, 11: 32}
PIXEL_TYPES = {0: "uint32", 1: "half", 2: "float"}

Attributes = dict[str, bytes]


def read_header(file: BinaryIO, size_bytes: int) -> Header:
    """Raises Broken."""
    (flags,) = struct.unpack("<I", read(file, 8)[4:])
    if flags & DEEP:
        raise NotRead("a deep EXR has samples instead of pixels: flatten it")
    parts = [read_attributes(file)]
    while flags & MULTI_PART and (attributes := read_attributes(file)):
        parts.append(attributes)
    try:
        check_chunks(file, size_bytes, parts, flags)
        return describe(parts, flags)
    except (KeyError, IndexError, struct.error, ValueError, ZeroDivisionError):
        raise Broken("damaged: its header does not make sense") from None


def describe(file_parts: list[Attributes], flags: int) -> Header:
    """The windows, channels and what else it says; the rate, colour and shape of the first part."""
    attributes = file_parts[0]
    left, top, right, bottom = struct.unpack("<4i", attributes["displayWindow"])
    width, height = right - left + 1, bottom - top + 1
    if width < 1 or height < 1:
        raise ValueError
    channels_by_part = [kinds_of(part["channels"]) for part in file_parts]
    names_by_part = [part.get("name", b"").decode("latin-1") for part in file_parts]
    parts = parts_of(
        [
            (name, tuple(sorted(channels, key=picture_first)))
            for name, channels in zip(names_by_part, channels_by_part, strict=True)
        ],
        {
            (place, name)
            for place, channels in enumerate(channels_by_part)
            for name, kind in channels.items()
            if kind == "uint32"
        },
    )
    first = parts[0]
    kinds = {channels_by_part[first.place][name] for name in first.channels}
    names = [
        f"{name}.{channel}" if place and name and not channel.startswith(f"{name}.") else channel
        for place, name in enumerate(names_by_part)
        for channel in sorted(channels_by_part[place], key=picture_first)
    ]
    rate = None
    if "framesPerSecond" in attributes:
        numerator, denominator = struct.unpack("<iI", attributes["framesPerSecond"])
        if numerator > 0 and denominator > 0 and is_possible(Fraction(numerator, denominator)):
            rate = Fraction(numerator, denominator)
    primaries = None
    if "chromaticities" in attributes:
        told = struct.unpack("<8f", attributes["chromaticities"])
        primaries = told if are_primaries(told) else None
    shape = None
    if "pixelAspectRatio" in attributes:
        (ratio,) = struct.unpack("<f", attributes["pixelAspectRatio"])
        if 0.1 < ratio < 10 and abs(ratio - 1) > 1e-3:
            shape = Fraction(ratio).limit_denominator(100)
    ordinary = (
        is_in_one_piece(flags)
        and set(names) in ({"R", "G", "B"}, {"R", "G", "B", "A"})
        and kinds == {"half"}
        and attributes["dataWindow"] == attributes["displayWindow"]
    )
    return Header(
        format=Format.EXR,
        width=width,
        height=height,
        channels=tuple(names),
        depth="half" if kinds == {"half"} else "float",
        alpha=Alpha.PREMULTIPLIED if first.has_alpha else Alpha.NONE,
        rate=rate,
        chromaticities=primaries,
        pixel_shape=shape,
        parts=parts,
        is_ordinary=ordinary,
    )


def picture_first(channel: str) -> tuple[int, str]:
    return "RGBA".find(channel) % 9, channel


def kinds_of(value: bytes) -> dict[str, str]:
    """The pixel type of each channel, by its name."""
    kinds = {name: PIXEL_TYPES[kind] for name, kind, _ in channels_of(value)}
    if not kinds:
        raise ValueError
    return kinds


def channels_of(value: bytes) -> Iterator[tuple[str, int, tuple[int, int]]]:
    """What the attribute says of each channel: name, number of its type, sampling across, down."""
    while len(value) > 1:
        name, _, rest = value.partition(b"\0")
        kind, _, *sampling = struct.unpack("<4i", rest[:16])
        yield name.decode("latin-1"), kind, (sampling[0], sampling[1])
        value = rest[16:]


def is_in_one_piece(flags: int) -> bool:
    """Whether it has one part, of scan lines."""
    return not flags & (TILED | DEEP | MULTI_PART)


def check_chunks(file: BinaryIO, size_bytes: int, parts: list[Attributes], flags: int) -> None:
    """See that every chunk has a place in the file, and that the last one is whole."""
    counts = [chunk_count(part, flags) for part in parts]
    if any(count is None for count in counts):
        return  # a tiled file with levels from an old writer: the decoder will tell
    total = sum(count or 0 for count in counts)
    if total < 1 or total * 8 > size_bytes:
        raise Incomplete("cut short: it stops before its pixels begin")
    table = struct.unpack(f"<{total}Q", read(file, total * 8))
    if not any(table):
        raise Incomplete("unfinished: its writer was stopped before the pixels were in place")
    written = sum(1 for offset in table if 0 < offset < size_bytes)
    last = max(table)
    if written == total:
        file.seek(last)
        place = 0
        if flags & MULTI_PART:
            (place,) = struct.unpack("<i", read(file, 4))
        head = 20 if is_tiled(parts[place], flags) else 8
        last = file.tell()
        chunk = file.read(head)
        whole = len(chunk) == head
        if whole and last + head + struct.unpack("<i", chunk[-4:])[0] <= size_bytes:
            return
        written -= 1
    share = 100 * max(0, written) // total
    raise Incomplete(f"cut short: about {share} % of its picture is there")


def chunk_count(attributes: Attributes, flags: int) -> int | None:
    if "chunkCount" in attributes:
        return int(struct.unpack("<i", attributes["chunkCount"])[0])
    left, top, right, bottom = struct.unpack("<4i", attributes["dataWindow"])
    width, height = int(right - left + 1), int(bottom - top + 1)
    if is_tiled(attributes, flags):
        across, down, mode = struct.unpack("<2IB", attributes["tiles"])
        return int(-(-width // across) * -(-height // down)) if mode & 0xF == 0 else None
    return -(-height // LINES[attributes["compression"][0]])


def is_tiled(attributes: Attributes, flags: int) -> bool:
    return bool(flags & TILED) or attributes.get("type", b"").startswith(b"tiled")


def read_attributes(file: BinaryIO) -> Attributes:
    """One part's attributes; empty at the mark behind the last part."""
    attributes: Attributes = {}
    left = LONGEST_HEADER
    while name := read_word(file):
        read_word(file)  # its type: the names that are looked at have one type each
        (length,) = struct.unpack("<i", read(file, 4))
        left -= length
        if length < 0 or left < 0:
            raise Broken("damaged: its header does not make sense")
        attributes[name] = read(file, length)
    return attributes


def read_word(file: BinaryIO) -> str:
    word = bytearray()
    while (byte := read(file, 1)) != b"\0":
        word += byte
        if len(word) > 255:
            raise Broken("damaged: its header does not make sense")
    return word.decode("latin-1")


def read(file: BinaryIO, count: int) -> bytes:
    found = file.read(count)
    if len(found) < count:
        raise Incomplete("cut short: it stops inside its header")
    return found
