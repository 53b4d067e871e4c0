"""What a frame's file says of itself, and whether all of it is there.

Two small reads a file, so that thousands can be looked at while they arrive.
A frequent format has a module with `read_header(file, size_bytes) -> Header`,
the rest share `other_headers`; each raises Broken with the rest of a sentence when
the file is not whole. Blocks full of zeros are not found here: that takes a
decoder (see frames.reading).
"""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path
from typing import BinaryIO

from waxseal.core.errors import FrameError
from waxseal.core.frames.headers import (
    exr_header,
    jpeg_header,
    other_headers,
    png_header,
    tiff_header,
)
from waxseal.core.frames.headers.header import Broken, Format, Header, Incomplete, NotRead
from waxseal.core.safe_open import open_regular

__all__ = ["FORMATS", "Format", "Header", "look"]

READERS = (
    (b"\x76\x2f\x31\x01", exr_header.read_header),
    (b"\x89PNG\r\n\x1a\n", png_header.read_header),
    (b"\xff\xd8\xff", jpeg_header.read_header),
    (b"II*\0", tiff_header.read_header),
    (b"MM\0*", tiff_header.read_header),
    (b"II+\0", tiff_header.read_header),
    (b"MM\0+", tiff_header.read_header),
)

LARGEST_PIXELS = 16_384 * 16_384
LARGEST_SIDE = 32_768


FORMATS = ", ".join(kind for kind in Format if kind is not Format.MOVIE)


def look(path: Path, frame: int | None = None) -> Header:
    """Read a frame's header by its content, and see that its file is not cut short.

    Raises FrameError with a sentence: not there, not allowed, empty, not a
    picture, cut short, or of a size that no frame has.
    """

    def broken(what: str, *, incomplete: bool = False, unread: bool = False) -> FrameError:
        return FrameError(
            what, path=path, frame=frame, is_incomplete=incomplete, is_not_read=unread
        )

    try:
        with open_regular(path) as file:
            size_bytes = os.fstat(file.fileno()).st_size
            if size_bytes == 0:
                raise broken("empty: the file has no bytes", incomplete=True)
            header = replace(read_header(file, path, size_bytes), size_bytes=size_bytes)
    except NotRead as error:
        raise broken(f"not read: {error}", unread=True) from None
    except Broken as error:
        raise broken(str(error), incomplete=isinstance(error, Incomplete)) from None
    except FileNotFoundError:
        raise broken("not there") from None
    except OSError as error:
        raise broken(f"cannot be opened: {error.strerror}") from None
    if (
        header.width * header.height > LARGEST_PIXELS
        or max(header.width, header.height) > LARGEST_SIDE
    ):
        raise broken(
            f"claims {header.width} × {header.height} pixels: larger than any frame, not opened"
        )
    return header


def read_header(file: BinaryIO, path: Path, size_bytes: int) -> Header:
    """By the file's content; raises Broken."""
    magic = file.read(other_headers.LONGEST_MAGIC)
    for start, read in READERS:
        if magic.startswith(start):
            file.seek(0)
            return read(file, size_bytes)
    kind = other_headers.format_of(magic, path.suffix)
    if kind is None:
        raise Broken(f"no picture: its content is none of {FORMATS}")
    return other_headers.read_header(path, kind, magic, size_bytes)
