"""Puts what is known of a film's light into the index of a finished MP4 or MOV.

Sources: ISO/IEC 14496-12, 12.1.6 (`clli`, `mdcv`) and 8.7.5 (`stco`, `co64`).
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path

from waxseal.core.errors import WrongUse
from waxseal.core.seal.expected import LightLevels
from waxseal.core.seal.mastering_check import write_mastering

__all__ = ["state_light"]

HEAD = 8  # bytes of a box before its content
# Boxes on the way to where samples are.
PARENTS = frozenset({b"trak", b"mdia", b"minf", b"stbl"})
TABLE_HEAD, PICTURE_HEAD = 8, 78  # of `stsd`, and of its entries for pictures
BLOCK = 1 << 22


def state_light(path: Path, levels: LightLevels, mastering: str) -> None:
    """Write MaxCLL and MaxFALL beside what describes the pictures, and the mastering display.

    mastering: see Delivery. Raises OSError.
    """
    box = struct.pack(">I4sHH", HEAD + 4, b"clli", *levels)
    content = write_mastering(mastering)
    if content:
        box = struct.pack(">I4s", HEAD + len(content), b"mdcv") + content + box
    with path.open("r+b") as file:
        at, length = find_index(path)
        file.seek(at)
        index = bytearray(file.read(length))
        insert(index, box)
        is_before = at + length < path.stat().st_size
        if is_before:
            move_chunks(index, HEAD, len(index), at + length, len(box))
        # From the end on, so that nothing is written over that is still to be moved.
        end = path.stat().st_size
        while end > at + length:
            begin = max(at + length, end - BLOCK)
            file.seek(begin)
            part = file.read(end - begin)
            file.seek(begin + len(box))
            file.write(part)
            end = begin
        file.seek(at)
        file.write(index)


def find_index(path: Path) -> tuple[int, int]:
    """Where `moov` is, and its bytes."""
    size, at = path.stat().st_size, 0
    with path.open("rb") as file:
        while at + HEAD <= size:
            file.seek(at)
            length, name = struct.unpack(">I4s", file.read(HEAD))
            if length == 1:
                (length,) = struct.unpack(">Q", file.read(8))
            if name == b"moov":
                return at, length
            at += length or size
    raise WrongUse(f"{path.name} has no index.")


def insert(index: bytearray, box: bytes) -> None:
    """Put a box behind the others that describe the pictures; all around it grow."""
    for start, stop in boxes_in(index, HEAD, len(index), b"trak"):
        if b"vide" not in handlers(index, start + HEAD, stop):
            continue
        around = [0, start]
        for name in (b"mdia", b"minf", b"stbl", b"stsd"):
            start, stop = next(boxes_in(index, start + HEAD, stop, name))
            around.append(start)
        entry = start + HEAD + TABLE_HEAD
        around.append(entry)
        (length,) = struct.unpack_from(">I", index, entry)
        end = end_of_boxes(index, entry + HEAD + PICTURE_HEAD, entry + length)
        index[end:end] = box
        for at in around:
            (length,) = struct.unpack_from(">I", index, at)
            struct.pack_into(">I", index, at, length + len(box))
        return
    raise WrongUse("The index names no pictures.")


def end_of_boxes(index: bytearray, at: int, stop: int) -> int:
    """Where the last box ends: some entries close with four bytes of 0, and nothing follows those.

    Source: QuickTime File Format, sample description extensions.
    """
    while at + HEAD <= stop:
        (length,) = struct.unpack_from(">I", index, at)
        if length < HEAD or at + length > stop:
            break
        at += length
    return at


def boxes_in(
    index: bytearray, at: int, stop: int, wanted: bytes = b""
) -> Iterator[tuple[int, int]]:
    """Where each box begins and ends between two places; those of a name."""
    while at + HEAD <= stop:
        length, name = struct.unpack_from(">I4s", index, at)
        if length < HEAD:
            raise WrongUse("The index is damaged.")
        if not wanted or name == wanted:
            yield at, at + length
        at += length


def handlers(index: bytearray, at: int, stop: int) -> set[bytes]:
    """The kinds that a track says of itself."""
    found = set()
    for start, end in boxes_in(index, at, stop, b"mdia"):
        for one, _ in boxes_in(index, start + HEAD, end, b"hdlr"):
            found.add(bytes(index[one + HEAD + 8 : one + HEAD + 12]))
    return found


def move_chunks(index: bytearray, at: int, stop: int, since: int, by: int) -> None:
    """Say where samples are that begin at a place of the file or after it, and have moved."""
    for start, end in boxes_in(index, at, stop):
        name = bytes(index[start + 4 : start + HEAD])
        if name in PARENTS:
            move_chunks(index, start + HEAD, end, since, by)
        elif name in (b"stco", b"co64"):
            kind, step = (">I", 4) if name == b"stco" else (">Q", 8)
            (count,) = struct.unpack_from(">I", index, start + HEAD + 4)
            for number in range(count):
                place = start + HEAD + 8 + number * step
                (offset,) = struct.unpack_from(kind, index, place)
                if offset >= since:
                    struct.pack_into(kind, index, place, offset + by)
