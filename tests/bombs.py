"""Small files of every format that claim, or unpack to, gigabytes."""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Callable
from functools import cache, partial
from pathlib import Path

import numpy as np
from PIL import Image

from tests.making import write_movie, write_sequence
from waxseal.core.frames.frame_writer import write_pixels

__all__ = ["BOMBS"]


def chunk(name: bytes, content: bytes) -> bytes:
    return (
        struct.pack(">I", len(content))
        + name
        + content
        + struct.pack(">I", zlib.crc32(name + content))
    )


@cache
def packed_nothing(size: int) -> bytes:
    """Zeros as zlib packs them; after a full flush a block is packed as the one before it."""
    packer, block = zlib.compressobj(9), bytes(1 << 20)
    first, second = (packer.compress(block) + packer.flush(zlib.Z_FULL_FLUSH) for _ in range(2))
    end = b"\x03\0" + struct.pack(">HH", size % 65_521, 1)  # nothing more, and Adler's sum
    return first + second * ((size >> 20) - 1) + end


def png_with(path: Path, name: bytes, head: bytes) -> Path:
    """A good PNG of 8 x 8 with a chunk that unpacks to a gigabyte."""
    write_pixels(path, np.full((8, 8, 3), 90, np.uint8))
    whole = path.read_bytes()
    extra = chunk(name, head + packed_nothing(1 << 30))
    path.write_bytes(whole[:33] + extra + whole[33:])
    return path


def tiff_of_shared_tags(path: Path) -> Path:
    """400 tags that all say that their values are the same four megabytes."""
    count = 1_000_000
    entries = [(256, 4, 1, 8), (257, 4, 1, 8), (258, 3, 1, 8), (277, 3, 1, 1)]
    entries += [(30_000 + at, 4, count, 8192) for at in range(400)]
    directory = struct.pack("<H", len(entries))
    for tag, kind, values, place in entries:
        directory += struct.pack("<HHII", tag, kind, values, place)
    head = b"II*\0" + struct.pack("<I", 8) + directory + struct.pack("<I", 0)
    path.write_bytes(head.ljust(8192, b"\0") + bytes(4 * count))
    return path


def tiff_of_long_strips(path: Path) -> Path:
    """Strips of a picture, a million of them for each of a thousand pages."""
    count = 1_000_000
    entries = [(256, 4, 1, 8), (257, 4, 1, 8), (273, 4, count, 8192), (279, 4, count, 8192)]
    directory = struct.pack("<H", len(entries))
    for tag, kind, values, place in entries:
        directory += struct.pack("<HHII", tag, kind, values, place)
    step = len(directory) + 4
    pages = b""
    for page in range(100):
        following = 8 + (page + 1) * step if page < 99 else 0
        pages += directory + struct.pack("<I", following)
    head = b"II*\0" + struct.pack("<I", 8) + pages
    path.write_bytes(head.ljust(8192, b"\0") + bytes(4 * count))
    return path


def exr_of_channels(path: Path) -> Path:
    """Ten thousand channels of 8 x 8 pixels, all there."""
    names = sorted(f"c{number}" for number in range(10_000))
    listed = b"".join(name.encode() + struct.pack("<xiBxxxii", 1, 0, 1, 1) for name in names)
    box = struct.pack("<4i", 0, 0, 7, 7)
    attributes = (
        ("channels", "chlist", listed + b"\0"),
        ("compression", "compression", b"\0"),
        ("dataWindow", "box2i", box),
        ("displayWindow", "box2i", box),
        ("lineOrder", "lineOrder", b"\0"),
        ("pixelAspectRatio", "float", struct.pack("<f", 1)),
        ("screenWindowCenter", "v2f", bytes(8)),
        ("screenWindowWidth", "float", struct.pack("<f", 1)),
    )
    head = struct.pack("<ii", 20000630, 2)
    for name, kind, value in attributes:
        head += f"{name}\0{kind}\0".encode() + struct.pack("<i", len(value)) + value
    head += b"\0"
    size = 8 * 2 * len(names)
    lines = [struct.pack("<ii", row, size) + bytes(size) for row in range(8)]
    starts = [len(head) + 64 + row * len(lines[0]) for row in range(8)]
    path.write_bytes(head + struct.pack("<8Q", *starts) + b"".join(lines))
    return path


def claiming(path: Path, mark: bytes, offset: int, form: str) -> Path:
    """A good frame of 48 x 32 whose header claims 60 000 x 60 000 pixels.

    offset: of the sizes, from where the mark is found.
    """
    write_sequence(path.parent, f"%d-{path.name}", frames=range(1, 2), width=48, height=32)
    good = path.with_name(f"1-{path.name}")
    content = bytearray(good.read_bytes())
    good.unlink()
    struct.pack_into(form, content, content.index(mark) + offset, 60_000, 60_000)
    path.write_bytes(content)
    return path


def png_of_nothing(path: Path) -> Path:
    """60 000 x 60 000 pixels of sixteen bits, in a few bytes."""
    size = struct.pack(">IIBBBBB", 60_000, 60_000, 16, 6, 0, 0, 0)
    pixels = chunk(b"IDAT", zlib.compress(bytes(1000)))
    path.write_bytes(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", size) + pixels + chunk(b"IEND", b""))
    return path


def mp4_of_samples(path: Path) -> Path:
    """A table of times that claims four thousand million entries."""
    write_movie(path, count=4)
    content = bytearray(path.read_bytes())
    struct.pack_into(">I", content, content.index(b"stts") + 8, 0xFFFFFFFF)
    path.write_bytes(content)
    return path


def webp_of_nothing(path: Path) -> Path:
    """A small WebP whose picture claims to be as large as the format allows."""
    whole = io.BytesIO()
    Image.new("RGB", (48, 32), (9, 9, 9)).save(whole, "webp", lossless=True)
    content = bytearray(whole.getvalue())
    at = content.index(b"VP8L") + 9  # behind its length and its signature
    (sizes,) = struct.unpack_from("<I", content, at)
    struct.pack_into("<I", content, at, sizes & ~0x0FFFFFFF | 16_383 | 16_383 << 14)
    path.write_bytes(content)
    return path


def psd_of_nothing(path: Path) -> Path:
    """Three planes of 30 000 x 30 000 in a few bytes."""
    head = struct.pack(">4sH6xHIIHH", b"8BPS", 1, 3, 30_000, 30_000, 8, 3)
    path.write_bytes(head + bytes(12) + struct.pack(">H", 1) + b"\0\1" * 100)
    return path


def apng_of_frames(path: Path, count: int, side: int) -> Path:
    """An animation that claims so many frames, the second of them of side by side pixels."""
    head = chunk(b"IHDR", struct.pack(">IIBBBBB", 48, 32, 8, 2, 0, 0, 0))
    first = struct.pack(">IIIIIHHBB", 0, 48, 32, 0, 0, 1, 1000, 0, 0)
    second = struct.pack(">IIIIIHHBB", 1, side, side, 0, 0, 1, 1000, 0, 0)
    pixels = chunk(b"IDAT", zlib.compress(bytes((48 * 3 + 1) * 32)))
    path.write_bytes(
        b"\x89PNG\r\n\x1a\n"
        + head
        + chunk(b"acTL", struct.pack(">II", count, 0))
        + chunk(b"fcTL", first)
        + pixels
        + chunk(b"fcTL", second)
        + chunk(b"fdAT", struct.pack(">I", 2) + packed_nothing(1 << 30))
        + chunk(b"IEND", b"")
    )
    return path


def exr_head(version: int, *more: tuple[bytes, bytes, bytes], last: int = 31) -> bytes:
    """The header of a small EXR of three halves, packed by deflate."""
    channels = b"".join(
        name + b"\0" + struct.pack("<iB3xii", 1, 0, 1, 1) for name in (b"B", b"G", b"R")
    )
    box = struct.pack("<4i", 0, 0, 47, last)
    every = (
        (b"channels", b"chlist", channels + b"\0"),
        (b"compression", b"compression", b"\3"),
        (b"dataWindow", b"box2i", box),
        (b"displayWindow", b"box2i", box),
        (b"lineOrder", b"lineOrder", b"\0"),
        (b"pixelAspectRatio", b"float", struct.pack("<f", 1)),
        (b"screenWindowCenter", b"v2f", bytes(8)),
        (b"screenWindowWidth", b"float", struct.pack("<f", 1)),
        *more,
    )
    body = b"".join(
        name + b"\0" + kind + b"\0" + struct.pack("<i", len(value)) + value
        for name, kind, value in every
    )
    return struct.pack("<II", 20_000_630, version) + body + b"\0"


def exr_of_giant_tiles(path: Path) -> Path:
    tiles = struct.pack("<IIB", 0x7FFFFFFF, 0x7FFFFFFF, 0)
    head = exr_head(2 | 0x200, (b"tiles", b"tiledesc", tiles))
    chunk = struct.pack("<iiiii", 0, 0, 0, 0, 100) + bytes(100)
    path.write_bytes(head + struct.pack("<Q", len(head) + 8) + chunk)
    return path


def exr_of_depths(path: Path) -> Path:
    """Deep scan lines whose samples claim to be more than any disk."""
    head = exr_head(
        2 | 0x800,
        (b"type", b"string", b"deepscanline"),
        (b"version", b"int", struct.pack("<i", 1)),
        (b"chunkCount", b"int", struct.pack("<i", 32)),
    )
    table = struct.pack("<32Q", *[len(head) + 256] * 32)
    path.write_bytes(head + table + struct.pack("<iQQQ", 0, 1 << 40, 1 << 40, 1 << 50))
    return path


def exr_of_lying_chunks(path: Path) -> Path:
    head = exr_head(2)
    table = struct.pack("<2Q", *[len(head) + 16] * 2)
    path.write_bytes(head + table + struct.pack("<ii", 0, 0x7FFFFFFF) + bytes(100))
    return path


def exr_of_a_giant_window(path: Path) -> Path:
    head = exr_head(2, last=200_000)
    table = struct.pack("<100Q", *[len(head) + 800] * 100)
    path.write_bytes(head + table + struct.pack("<ii", 0, 100) + bytes(200))
    return path


def lying_movie(path: Path, mark: bytes, offset: int, lie: bytes, codec: str = "libx264") -> Path:
    """A small movie with other bytes from an offset behind a mark on."""
    write_movie(path, codec=codec, count=4)
    content = bytearray(path.read_bytes())
    at = content.index(mark) + offset
    content[at : at + len(lie)] = lie
    path.write_bytes(content)
    return path


MXF_ESSENCE = bytes.fromhex("060e2b34010201010d010301")
BOMBS: dict[str, Callable[[Path], Path]] = {
    "text.png": lambda path: png_with(path, b"zTXt", b"Comment\0\0"),
    "profile.png": lambda path: png_with(path, b"iCCP", b"profile\0\0"),
    "size.png": png_of_nothing,
    "shared.tif": tiff_of_shared_tags,
    "strips.tif": tiff_of_long_strips,
    "channels.exr": exr_of_channels,
    "size.jpg": partial(claiming, mark=b"\xff\xc0", offset=5, form=">HH"),
    "size.dpx": partial(claiming, mark=b"XPDS", offset=772, form="<II"),
    "size.tga": partial(claiming, mark=b"\0\0", offset=12, form="<HH"),
    "size.bmp": partial(claiming, mark=b"BM", offset=18, form="<ii"),
    "size.iff": partial(claiming, mark=b"TBHD", offset=8, form=">II"),
    "samples.mp4": mp4_of_samples,
    "size.webp": webp_of_nothing,
    "size.psd": psd_of_nothing,
    "frames.apng": partial(apng_of_frames, count=0x7FFFFFFF, side=32),
    "huge.apng": partial(apng_of_frames, count=2, side=60_000),
    "tiles.exr": exr_of_giant_tiles,
    "deep.exr": exr_of_depths,
    "chunks.exr": exr_of_lying_chunks,
    "window.exr": exr_of_a_giant_window,
    "cluster.mkv": partial(
        lying_movie, mark=b"\x1f\x43\xb6\x75", offset=4, lie=b"\x01" + b"\xff" * 6 + b"\xfe"
    ),
    "index.avi": partial(
        lying_movie, mark=b"idx1", offset=4, lie=b"\xf0\xff\xff\x7f", codec="mpeg4"
    ),
    "frames.avi": partial(
        lying_movie, mark=b"avih", offset=24, lie=b"\xff\xff\xff\xff", codec="mpeg4"
    ),
    "essence.mxf": partial(
        lying_movie,
        mark=MXF_ESSENCE,
        offset=16,
        lie=b"\x88\x7f" + b"\xff" * 7,
        codec="mpeg2video",
    ),
}
