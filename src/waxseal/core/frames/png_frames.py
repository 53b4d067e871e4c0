"""Ordinary PNG frames, 8 or 16 bits of colour with or without alpha, read and written quickly.

The codec (libavcodec) does the rows' filters, libdeflate packs and unpacks: two to four times
as fast as the codec's own packing. Between the two goes a PNG whose pixels are stored and
not packed. The same values give the same bytes on any machine.
Sources: W3C, PNG (third edition), 5.3 chunks, 9 filters, 10 compression, 11.3.2 colour;
RFC 1950 and RFC 1951, 3.2.4 stored blocks.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import deflate
import numpy as np
from numpy.typing import NDArray
from typing_extensions import Buffer

__all__ = ["SRGB", "decode_png", "write_png"]

SIGNATURE = b"\x89PNG\r\n\x1a\n"
# The chunks that make the pixels. Text and profiles may be compressed a thousand times over.
PIXEL_CHUNKS = frozenset({b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND"})
MOST_PACKED = 1032  # bytes that one byte of deflate can hold at most
LARGEST_BLOCK = 65_535  # bytes of a stored block
QUICKEST = 1  # of libdeflate's levels: smaller than the fourth of zlib, in half the time of others

FORMATS = {(3, 1): "rgb24", (4, 1): "rgba", (3, 2): "rgb48be", (4, 2): "rgba64be"}

SRGB = (1, 13)  # primaries and transfer, as ITU-T H.273 numbers them
# Read everywhere: the chunk itself, and the gamma and primaries nearest to it (11.3.2.5).
SAYS_SRGB = (
    (b"sRGB", b"\0"),
    (b"gAMA", struct.pack(">I", 45_455)),
    (b"cHRM", struct.pack(">8I", 31270, 32900, 64000, 33000, 30000, 60000, 15000, 6000)),
)


def decode_png(content: bytes) -> NDArray[Any]:
    """The values of a PNG's pixels: (height, width, 3 or 4), uint8 or uint16.

    A fresh codec context a frame: one that is used again gives wrong pixels
    from the second RGBA picture on (libavcodec 62.28), and saves nothing. Its
    check of the chunks' sums is off unless asked for: without it, damaged
    data gives a picture and no error.
    Raises ValueError.
    """
    import av
    from av.error import FFmpegError

    context = av.CodecContext.create("png", "r")
    context.thread_count = 1
    unpacked = with_stored_pixels(content)
    if unpacked is None:  # unusual or damaged: the codec says what it is
        unpacked = with_pixels_only(content)
        context.options = {"err_detect": "crccheck"}
    try:
        frames = context.decode(av.Packet(unpacked))
    except FFmpegError as error:
        raise ValueError(error.strerror) from error
    if len(frames) != 1 or frames[0].format.name not in FORMATS.values():
        raise ValueError("not one picture of 8 or 16 bits")
    return values_of(frames[0])


def values_of(frame: Any) -> NDArray[Any]:
    channels, size = next(key for key, name in FORMATS.items() if name == frame.format.name)
    plane = frame.planes[0]
    lines = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
    rows = lines[: frame.height, : frame.width * channels * size]
    if size == 2:
        rows = rows.view(">u2").astype(np.uint16)
    return rows.reshape(frame.height, frame.width, channels)


def chunks_of(content: bytes) -> Iterator[tuple[bytes, int, int]]:
    """The name of each chunk, and where it begins and ends; the last may be cut short.

    What is appended behind the last chunk of a picture does not belong to it.
    """
    at, name = len(SIGNATURE), b""
    while at + 8 <= len(content) and name != b"IEND":
        end = at + 12 + int.from_bytes(content[at : at + 4])
        name = content[at + 4 : at + 8]
        yield name, at, end
        at = end


def with_pixels_only(content: bytes) -> bytes:
    """The same picture without the chunks that make no pixels."""
    whole = memoryview(content)
    kept = [whole[at:end] for name, at, end in chunks_of(content) if name in PIXEL_CHUNKS]
    return b"".join([whole[: len(SIGNATURE)], *kept])


def with_stored_pixels(content: bytes) -> bytes | None:
    """The same picture with its pixels unpacked; None where it is unusual or damaged."""
    whole = memoryview(content)
    header, packed = b"", []
    for name, at, end in chunks_of(content):
        if name not in PIXEL_CHUNKS:
            continue
        data = whole[at + 8 : end - 4]
        total = int.from_bytes(whole[end - 4 : end])
        if end > len(content) or deflate.crc32(whole[at + 4 : end - 4]) != total:
            return None
        if name == b"IHDR":
            header = bytes(data)
        elif name == b"IDAT":
            packed.append(data)
    size = bytes_of_rows(header)
    zipped = b"".join(packed)
    if not 0 < size <= len(zipped) * MOST_PACKED:
        return None
    try:
        rows = deflate.zlib_decompress(zipped, size)
    except (deflate.DeflateError, ValueError, MemoryError):
        return None
    if len(rows) != size:
        return None
    return png_of(header, stored(rows))


def bytes_of_rows(header: bytes) -> int:
    """How many bytes the rows have, unpacked, each with the number of its filter.

    0 for a kind of picture that is not read here.
    """
    if len(header) != 13:
        return 0
    width, height, bits, kind, _, _, interlace = struct.unpack(">IIBBBBB", header)
    channels = {2: 3, 6: 4}.get(kind, 0)
    if not channels or bits not in (8, 16) or interlace:
        return 0
    return int(height * (1 + width * channels * bits // 8))


def stored(rows: Buffer) -> bytes:
    """The rows as a stream of stored blocks, with their Adler sum at its end."""
    whole = memoryview(rows)
    parts: list[Buffer] = [b"\x78\x01"]
    for at in range(0, len(whole), LARGEST_BLOCK):
        block = whole[at : at + LARGEST_BLOCK]
        is_last = at + len(block) == len(whole)
        parts += [struct.pack("<BHH", is_last, len(block), len(block) ^ 0xFFFF), block]
    return b"".join([*parts, deflate.adler32(rows).to_bytes(4)])


def png_of(header: bytes, pixels: Buffer, *said: tuple[bytes, bytes]) -> bytes:
    """A whole PNG from the data of its chunks. said: chunks that come before the pixels."""
    chunks = [(b"IHDR", header), *said, (b"IDAT", pixels), (b"IEND", b"")]
    parts: list[Buffer] = [SIGNATURE]
    for name, data in chunks:
        total = deflate.crc32(data, deflate.crc32(name))
        parts += [memoryview(data).nbytes.to_bytes(4), name, data, total.to_bytes(4)]
    return b"".join(parts)


def write_png(path: Path, values: NDArray[Any], code_points: tuple[int, int] = SRGB) -> None:
    """Write codes, (height, width, 3 or 4), uint8 or uint16; alpha is straight.

    code_points: primaries and transfer by ITU-T H.273, which the file says. Raises OSError.
    """
    height, width, channels = values.shape
    size = values.dtype.itemsize
    header = struct.pack(">IIBBBBB", width, height, 8 * size, {3: 2, 4: 6}[channels], 0, 0, 0)
    packed = deflate.zlib_compress(filtered(values), QUICKEST)
    cicp = (b"cICP", bytes((*code_points, 0, 1)))  # colour as such, of the full range
    said = SAYS_SRGB if code_points == SRGB else (cicp,)
    path.write_bytes(png_of(header, packed, *said))


def filtered(values: NDArray[Any]) -> Buffer:
    """The rows of the picture, each with the filter that leaves the smallest numbers."""
    import av

    height, width, channels = values.shape
    form = FORMATS[channels, values.dtype.itemsize]
    context = av.CodecContext.create("png", "w")
    context.width, context.height, context.pix_fmt = width, height, form
    context.time_base = Fraction(1, 24)  # the codec asks for one; the file has none
    context.thread_count = 1
    context.options = {"compression_level": "0", "pred": "mixed"}
    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(values), format=form)
    written = b"".join(bytes(packet) for packet in [*context.encode(frame), *context.encode(None)])
    pixels = b"".join(
        written[at + 8 : end - 4] for name, at, end in chunks_of(written) if name == b"IDAT"
    )
    return deflate.zlib_decompress(pixels, height * (1 + width * channels * values.dtype.itemsize))
