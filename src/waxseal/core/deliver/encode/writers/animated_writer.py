"""An animated PNG: PNG frames in one file, which browsers play as a picture, over and over.

Source: W3C, Portable Network Graphics (PNG) Specification, third edition, 2025: APNG.
"""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from waxseal.core.deliver.encode.encode_state import EncodeState
from waxseal.core.deliver.encode.segments.segment_builder import segments_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import WrongUse

__all__ = ["write_animated"]

SIGNATURE = b"\x89PNG\r\n\x1a\n"
FOR_EVER = 0


def write_animated(path: Path, work: EncodeState) -> str:
    """All frames in one file. Each is compared bit by bit, so there is no digest of them all."""
    form = work.form
    with path.open("wb") as file:
        writer = AnimatedWriter(file, form)
        for segment in segments_of(work):
            work.wait_for_room(path.parent, segment.size_bytes)
            for coded in segment.coded:
                writer.add(coded.data)
        writer.finish()
    return ""


class AnimatedWriter:
    def __init__(self, file: BinaryIO, form: ResolvedFormat) -> None:
        self._file, self._form = file, form
        self._head = b""  # IHDR, the same in all frames
        self._number = 0  # of the chunks that belong to the animation

    def add(self, picture: bytes) -> None:
        """The next frame, as the bytes of a PNG."""
        chunks = list(chunks_in(picture))
        head = next(body for name, body in chunks if name == b"IHDR")
        if not self._head:
            self._head = head
            self._file.write(SIGNATURE)
            self._write(b"IHDR", head)
            self._write(b"acTL", struct.pack(">II", self._form.frames.count, FOR_EVER))
        elif head != self._head:
            raise WrongUse("A frame is of another kind than the first.")
        is_first = self._number == 0
        width, height = struct.unpack_from(">II", head)
        step = 1 / self._form.rate
        delay = (step.numerator, step.denominator)
        # Whole, at the corner, over what was there, which it replaces.
        self._write_numbered(b"fcTL", struct.pack(">IIIIHHBB", width, height, 0, 0, *delay, 0, 0))
        for name, body in chunks:
            if name == b"IDAT" and is_first:
                self._write(b"IDAT", body)
            elif name == b"IDAT":
                self._write_numbered(b"fdAT", body)

    def finish(self) -> None:
        self._write(b"IEND", b"")

    def _write_numbered(self, name: bytes, body: bytes) -> None:
        self._write(name, struct.pack(">I", self._number) + body)
        self._number += 1

    def _write(self, name: bytes, body: bytes) -> None:
        check = zlib.crc32(body, zlib.crc32(name))
        self._file.write(struct.pack(">I", len(body)) + name + body + struct.pack(">I", check))


def chunks_in(picture: bytes) -> Iterator[tuple[bytes, bytes]]:
    """The chunks of a PNG, in order: name, content."""
    at = len(SIGNATURE)
    while at + 12 <= len(picture):
        length, name = struct.unpack_from(">I4s", picture, at)
        yield name, picture[at + 8 : at + 8 + length]
        at += 12 + length
