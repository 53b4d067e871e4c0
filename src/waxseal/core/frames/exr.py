"""EXR frames of scan lines that are packed by deflate (ZIP, ZIPS), unpacked quickly.

libdeflate unpacks, and one loop does the rest: it adds the differences up, puts the two
halves of each number together, and lays the channels that are wanted beside each other. With
OpenEXR that takes half as long again, and with OpenImageIO more than twice as long. What is
unusual or damaged is left to them.
Sources: OpenEXR File Layout; the predictor and the two halves as in ImfZip.cpp of OpenEXR.
"""

from __future__ import annotations

import os
import struct
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import count, pairwise
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from waxseal.core.errors import FrameError
from waxseal.core.frames.headers.exr import LINES, channels_of, is_in_one_piece, read_attributes
from waxseal.core.frames.headers.header import Broken
from waxseal.core.machine.kernel import compiled, inlined, is_at_hand
from waxseal.core.regular import open_regular

__all__ = ["DAMAGED", "decode_exr", "exercise"]

DAMAGED = "damaged: its pixels cannot be unpacked"

ZIPPED = (2, 3)  # ZIPS and ZIP, as the attribute `compression` numbers them
HALF, FLOAT = 1, 2  # types of values, by their numbers; 0 is uint
WORDS = {0: 2, HALF: 1, FLOAT: 2}  # of 16 bits in a value
DTYPES = {HALF: np.float16, FLOAT: np.float32}
HEAD = struct.Struct("<2i")  # of a chunk: its first line, and the bytes that follow
LARGEST_CHUNK = 1 << 26  # bytes, unpacked
EARLY = 4  # frames that the library decodes first: to fetch the kernel costs as much as it saves
UNWANTED = -1
BYTE, EIGHT, FLIP = np.uint32(255), np.uint32(8), np.uint16(0x8080)

decoded = count()


@dataclass(frozen=True, slots=True)
class Layout:
    """How a file's pixels lie in it.

    lines: of a chunk; the last one may have fewer. names, types: of the channels, in their order
    in the file. table: where the places of the chunks begin.
    """

    top: int
    width: int
    height: int
    lines: int
    names: tuple[str, ...]
    types: tuple[int, ...]
    table: int

    @property
    def firsts(self) -> range:
        """The first line of each chunk, from 0."""
        return range(0, self.height, self.lines)

    @property
    def words(self) -> list[int]:
        """How many words of 16 bits one value has, for each channel."""
        return [WORDS[kind] for kind in self.types]

    @property
    def bytes_of_line(self) -> int:
        return 2 * self.width * sum(self.words)


def decode_exr(path: Path, wanted: Sequence[str]) -> NDArray[Any] | None:
    """The values of some channels, in this order: (height, width, channels), float16 or float32.

    None where the file is unusual, or while the kernel is not there, and where it is damaged in a
    way that a library may mend. Raises OSError, and FrameError where the pixels are damaged.
    """
    if next(decoded) < EARLY:
        return None
    try:
        with open_regular(path) as file:
            layout = layout_of(file)
            if layout is None:
                return None
            places = [layout.names.index(name) for name in wanted]
            (dtype,) = {DTYPES[layout.types[place]] for place in places}
            values = np.empty((layout.height, layout.width, len(places)), dtype)
            return values if fill(values, places, file, layout) else None
    except (Broken, LookupError, ValueError, ArithmeticError, struct.error):
        return None


def fill(values: NDArray[Any], places: list[int], file: BinaryIO, layout: Layout) -> bool:
    """Fill in the channels at some places of the file; False while the kernel is not there.

    Raises what `chunks_of` raises.
    """
    words = np.array(layout.words)
    size = words[places[0]]
    starts = np.full(len(words), UNWANTED)
    starts[places] = np.arange(len(places)) * size
    pixels = values.view(np.uint16)
    lines = pixels.reshape(layout.height, -1)
    if not is_at_hand(unpack, NOTHING, starts, words, lines):
        return False
    for first, stop, raw, is_packed in chunks_of(file, layout):
        if is_packed:
            unpack(raw, starts, words, lines[first:stop])
            continue
        stored = raw.view("<u2").reshape(stop - first, -1)
        ends = np.cumsum(words) * layout.width
        for place, start in zip(places, starts[places], strict=True):
            channel = stored[:, ends[place] - layout.width * size : ends[place]]
            pixels[first:stop, :, start : start + size] = channel.reshape(stop - first, -1, size)
    return True


def layout_of(file: BinaryIO) -> Layout | None:
    """None for a file that is not read here. Raises Broken and what `struct` raises."""
    (flags,) = struct.unpack("<I", file.read(8)[4:])
    attributes = read_attributes(file)
    window = attributes["dataWindow"]
    compression = attributes["compression"][0]
    channels = list(channels_of(attributes["channels"]))
    left, top, right, bottom = struct.unpack("<4i", window)
    layout = Layout(
        top=top,
        width=right - left + 1,
        height=bottom - top + 1,
        lines=LINES[compression],
        names=tuple(name for name, _, _ in channels),
        types=tuple(kind for _, kind, _ in channels),
        table=file.tell(),
    )
    is_read = (
        is_in_one_piece(flags)
        and compression in ZIPPED
        and window == attributes["displayWindow"]
        and all(sampling == (1, 1) for _, _, sampling in channels)
        and all(one < next_one for one, next_one in pairwise(layout.names))  # as is prescribed
        and layout.lines * layout.bytes_of_line <= LARGEST_CHUNK
        and layout.table + 8 * len(layout.firsts) <= size_of(file)  # before memory is taken
    )
    return layout if is_read else None


def size_of(file: BinaryIO) -> int:
    return os.fstat(file.fileno()).st_size


def chunks_of(file: BinaryIO, layout: Layout) -> Iterator[tuple[int, int, NDArray[np.uint8], bool]]:
    """Of each chunk the lines, from 0, its bytes, and whether they were packed.

    What would not become smaller was not packed. Raises FrameError where the pixels are damaged,
    ValueError and what `struct` raises where the places are.
    """
    import deflate

    end, chunks = size_of(file), len(layout.firsts)
    file.seek(layout.table)
    table = struct.unpack(f"<{chunks}Q", file.read(8 * chunks))
    for first, at in zip(layout.firsts, table, strict=True):
        stop = min(first + layout.lines, layout.height)
        size = (stop - first) * layout.bytes_of_line
        if at >= end:
            raise ValueError
        file.seek(at)
        line, length = HEAD.unpack(file.read(HEAD.size))
        if line != layout.top + first or not 0 <= length <= size:
            raise ValueError
        raw: bytes | bytearray = file.read(length)
        if length < size:
            try:
                raw = deflate.zlib_decompress(raw, size)
            except deflate.DeflateError:
                raise FrameError(DAMAGED) from None
        if len(raw) != size:
            raise ValueError
        yield first, stop, np.frombuffer(raw, np.uint8), length < size


@inlined
def word_of(low: Any, high: Any) -> Any:
    return np.uint16((low & BYTE) | ((high & BYTE) << EIGHT))


@compiled
def unpack(raw: Any, starts: Any, words: Any, lines: Any) -> None:
    """raw: a chunk, unpacked. lines: (lines, words of a line), uint16.

    For each channel of the file: starts, where in a pixel its first word goes, or UNWANTED;
    words, how many a value has.
    """
    all_words, across = 0, 0
    for channel in range(starts.shape[0]):
        all_words += words[channel]
        if starts[channel] >= 0:
            across += words[channel]
    half = raw.shape[0] // 2
    width = half // (all_words * lines.shape[0])
    low_bytes, high_bytes = raw[:half], raw[half:]
    # A byte is the sum of all before it, less 128 for each but the first: that turns the highest
    # bit of every second one. The low bytes of all words come first, then the high ones.
    low, high = np.uint32(0), np.uint32(128 * (half & 1))
    for at in range(half):
        high = np.uint32(high + np.uint32(low_bytes[at]))
    at = 0
    for y in range(lines.shape[0]):
        line = lines[y]
        for channel in range(starts.shape[0]):
            size, start = words[channel], starts[channel]
            length = width * size
            lows, highs = low_bytes[at : at + length], high_bytes[at : at + length]
            flip = np.uint16(FLIP * (at & 1))
            at += length
            if start < 0:
                for x in range(length):
                    low = np.uint32(low + np.uint32(lows[x]))
                    high = np.uint32(high + np.uint32(highs[x]))
            elif size == 1:
                column = line[start::across]
                for x in range(width):
                    low = np.uint32(low + np.uint32(lows[x]))
                    high = np.uint32(high + np.uint32(highs[x]))
                    column[x] = word_of(low, high) ^ flip
                    flip ^= FLIP
            else:
                for x in range(length):
                    low = np.uint32(low + np.uint32(lows[x]))
                    high = np.uint32(high + np.uint32(highs[x]))
                    line[(x >> 1) * across + start + (x & 1)] = word_of(low, high) ^ flip
                    flip ^= FLIP


NOTHING = np.frombuffer(bytes(4), np.uint8)


def exercise() -> None:
    """Compile the kernel where an earlier run has not."""
    unpack(NOTHING, np.zeros(1, np.int64), np.full(1, 2), np.empty((1, 2), np.uint16))
