"""The boxes of an MP4 file, read without a media library: what the container itself says.

Source: ISO/IEC 14496-12, ISO base media file format.
"""

from __future__ import annotations

import os
import struct
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from waxseal.core.safe_open import open_regular
from waxseal.core.seal.mastering_check import read_mastering

__all__ = ["Boxes", "Track", "read_boxes"]

PARENTS = frozenset({b"moov", b"trak", b"mdia", b"minf", b"stbl", b"edts"})
LARGEST_HEAD = 64 * 1024 * 1024  # bytes: ten hours of one MP4 take 12 MB
DEEPEST = 8  # boxes inside one another below a track
# The bytes before the boxes in `stsd`, and in its entries for pictures, whatever their codec.
TABLE_HEAD, PICTURE_HEAD = 8, 78


@dataclass(frozen=True, slots=True)
class Track:
    """One track.

    kind: vide or soun. durations: the distinct durations of its samples, in units of
    timescale. shown: how long the edit list shows it, in seconds; None without one.
    colour: primaries, transfer, matrix, full range of a `colr` box; QuickTime's has no
    word for the range: None. light: MaxCLL and MaxFALL of a `clli` box, in cd/m²; None without.
    mastering: what a `mdcv` box says, `P3 1000 0.005`; empty without.
    pixel_shape: width to height, of a `pasp` box; 1 without.
    """

    kind: str
    timescale: int
    samples: int
    durations: tuple[int, ...]
    shown: Fraction | None
    colour: tuple[int, int, int, bool | None] | None
    light: tuple[int, int] | None = None
    mastering: str = ""
    pixel_shape: Fraction = Fraction(1)


@dataclass(frozen=True, slots=True)
class Boxes:
    """is_quick_start: whether the index comes before the pictures."""

    is_quick_start: bool
    tracks: tuple[Track, ...]


def read_boxes(path: Path) -> Boxes | None:
    """The boxes of a file; None where it is no MP4 or they are damaged. Raises OSError."""
    try:
        with open_regular(path) as file:
            order, index = top_boxes(file)
        if not index:
            return None
        boxes = list(inside(index))
        timescale = timescale_of(dict(boxes)[b"mvhd"])
        tracks = tuple(track_in(body, timescale) for name, body in boxes if name == b"trak")
    except (struct.error, ValueError, IndexError, KeyError):
        return None
    quick = b"mdat" in order and order.index(b"moov") < order.index(b"mdat")
    return Boxes(quick, tracks)


def top_boxes(file: BinaryIO) -> tuple[list[bytes], bytes]:
    """The names at the top, in order, and the body of `moov`."""
    order, index = [], b""
    file.seek(0, os.SEEK_END)
    size_bytes, at = file.tell(), 0
    while at + 8 <= size_bytes:
        file.seek(at)
        length, name = struct.unpack(">I4s", file.read(8))
        head = 8
        if length == 1:
            (length,) = struct.unpack(">Q", file.read(8))
            head = 16
        elif length == 0:
            length = size_bytes - at
        if length < head or at + length > size_bytes:
            raise ValueError
        order.append(name)
        if name == b"moov" and length <= LARGEST_HEAD:
            index = file.read(length - head)
        at += length
    return order, index


def inside(body: bytes) -> list[tuple[bytes, bytes]]:
    found, at = [], 0
    while at + 8 <= len(body):
        length, name = struct.unpack_from(">I4s", body, at)
        if length < 8 or at + length > len(body):
            raise ValueError
        found.append((name, body[at + 8 : at + length]))
        at += length
    return found


def below(body: bytes, depth: int = 0) -> dict[bytes, bytes]:
    """All boxes below a track, whatever their depth; of one name the first.

    In QuickTime a handler of data comes below that of the track.
    """
    if depth > DEEPEST:
        raise ValueError
    found: dict[bytes, bytes] = {}
    for name, content in inside(body):
        found.setdefault(name, content)
        if name in PARENTS:
            found = below(content, depth + 1) | found
    return found


def describe(table: bytes) -> dict[bytes, bytes]:
    """The boxes that describe a track of pictures, out of its `stsd`."""
    found: dict[bytes, bytes] = {}
    for _, description in inside(table[TABLE_HEAD:]):
        found |= dict(inside(description[PICTURE_HEAD:]))
    return found


def word(body: bytes, at: int) -> int:
    return int(struct.unpack_from(">I", body, at)[0])


def timescale_of(head: bytes) -> int:
    """The units of a second, of `mvhd` or `mdhd`; after two times that version 1 has longer."""
    timescale = word(head, 20 if head[0] == 1 else 12)
    if timescale == 0:
        raise ValueError
    return timescale


def seconds_shown(edits: bytes, movie_timescale: int) -> Fraction:
    """How long an edit list shows a track; version 1 has longer times."""
    kind, step = (">Q", 20) if edits[0] == 1 else (">I", 12)
    count = word(edits, 4)
    if 8 + step * count > len(edits):
        raise ValueError
    units = sum(struct.unpack_from(kind, edits, 8 + step * n)[0] for n in range(count))
    return Fraction(units, movie_timescale)


def track_in(body: bytes, movie_timescale: int) -> Track:
    boxes = below(body)
    kind = boxes[b"hdlr"][8:12].decode("latin-1")
    times = boxes[b"stts"]
    # Two numbers an entry: how many samples, and how long each is.
    entries = np.frombuffer(times, ">u4", 2 * word(times, 4), offset=8).reshape(-1, 2)
    edits = boxes.get(b"elst")
    colour: tuple[int, int, int, bool | None] | None = None
    described = describe(boxes[b"stsd"]) if kind == "vide" else {}
    tags, levels = described.get(b"colr", b""), described.get(b"clli", b"")
    if tags[:4] == b"nclx":
        primaries, transfer, matrix, flags = struct.unpack_from(">HHHB", tags, 4)
        colour = (primaries, transfer, matrix, bool(flags & 0x80))
    elif tags[:4] == b"nclc":  # QuickTime File Format, colour parameters
        colour = (*struct.unpack_from(">HHH", tags, 4), None)
    return Track(
        kind=kind,
        timescale=timescale_of(boxes[b"mdhd"]),
        samples=int(entries[:, 0].sum(dtype=np.uint64)),
        durations=distinct(entries[:, 1]),
        shown=seconds_shown(edits, movie_timescale) if edits is not None else None,
        colour=colour,
        light=struct.unpack_from(">HH", levels) if len(levels) >= 4 else None,
        mastering=read_mastering(described.get(b"mdcv", b"")),
        pixel_shape=shape_in(described.get(b"pasp", b"")),
    )


def distinct(values: NDArray[np.uint32]) -> tuple[int, ...]:
    """In their order. NumPy's own way imports masked arrays first: a fifth of a second."""
    ordered = np.sort(values)
    is_first = np.append(True, ordered[1:] != ordered[:-1])[: ordered.size]
    return tuple(int(one) for one in ordered[is_first])


def shape_in(body: bytes) -> Fraction:
    """What a `pasp` box says; square pixels where it makes no sense."""
    if len(body) < 8:
        return Fraction(1)
    across, down = word(body, 0), word(body, 4)
    return Fraction(across, down) if across and down else Fraction(1)
