"""Small files that unpack to gigabytes: memory is bounded by what a picture needs."""

from __future__ import annotations

import resource
import struct
import subprocess
import sys
import zlib
from collections.abc import Callable
from functools import cache
from pathlib import Path

import numpy as np
import pytest

from waxseal.core.apart import dismiss_helpers, run_apart, use_helpers
from waxseal.core.errors import WaxSealError
from waxseal.core.frames.writing import write_pixels

MOST = 700_000_000  # bytes: Python, NumPy and the libraries take some two hundred million
LOOK = """
import sys
from pathlib import Path
from waxseal.core.errors import WaxSealError
from waxseal.core.frames.headers import look
from waxseal.core.frames.reading import read_pixels
for act in (look, read_pixels):
    try:
        act(Path(sys.argv[1]))
    except WaxSealError as error:
        print(error)
# (ru_maxrss would count the process that started this one, too.)
status = Path("/proc/self/status").read_text().split("VmHWM:")[1]
print(int(status.split()[0]) * 1024)
"""


def peak(path: Path) -> int:
    """Bytes that a process takes that looks at a file and decodes it."""
    done = subprocess.run(
        [sys.executable, "-c", LOOK, str(path)], capture_output=True, text=True, timeout=60
    )
    assert done.returncode == 0, done.stderr
    return int(done.stdout.split()[-1])


def chunk(name: bytes, content: bytes) -> bytes:
    return (
        struct.pack(">I", len(content))
        + name
        + content
        + struct.pack(">I", zlib.crc32(name + content))
    )


@cache
def packed_nothing(size: int) -> bytes:
    packer = zlib.compressobj(9)
    block = bytes(1 << 20)
    return b"".join([packer.compress(block) for _ in range(size >> 20)] + [packer.flush()])


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


BOMBS: dict[str, Callable[[Path], Path]] = {
    "text.png": lambda path: png_with(path, b"zTXt", b"Comment\0\0"),
    "profile.png": lambda path: png_with(path, b"iCCP", b"profile\0\0"),
    "shared.tif": tiff_of_shared_tags,
    "strips.tif": tiff_of_long_strips,
}


@pytest.mark.parametrize("name", BOMBS)
def test_a_bomb_takes_no_more_than_a_picture(tmp_path: Path, name: str) -> None:
    assert peak(BOMBS[name](tmp_path / name)) < MOST


def take_everything() -> int:
    return len(bytearray(1 << 40))


def test_a_helper_has_a_limit_and_the_next_one_is_there(tmp_path: Path) -> None:
    dismiss_helpers()
    use_helpers(1)
    try:
        with pytest.raises((MemoryError, WaxSealError)):
            run_apart("", take_everything)
        limit, _ = run_apart("", resource.getrlimit, resource.RLIMIT_AS)
        assert 0 < limit <= 16 << 30
    finally:
        dismiss_helpers()
