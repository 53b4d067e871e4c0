"""A segment as a file: its packets, the marks of its frames, and a digest over all of it."""

from __future__ import annotations

import io
import json
import mmap
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import prod
from typing import IO, Any, Self

import av
import numpy as np
import xxhash

__all__ = ["EncodedPicture", "Marks", "Segment", "SegmentWriter", "StoreFull"]

Marks = tuple[Any, ...]  # one of each frame: see seal.likeness

MAGIC = b"waxseal segment 3\n"
DIGEST_BYTES, LENGTH_BYTES = 16, 8
HEAD = len(MAGIC) + DIGEST_BYTES
BLOCK = 1 << 20
ORDER = {True: "<u8", False: "<u2"}  # of marks that are digests, and of sketches


class StoreFull(Exception):
    """The segment could not be written down. (The film can be encoded all the same.)"""


@dataclass(frozen=True, slots=True)
class EncodedPicture:
    """A coded picture, in the order in which they are decoded.

    frame: its place in the segment, from 0. packet: where its bytes alone are not all of it.
    """

    frame: int
    is_key: bool
    data: bytes
    packet: av.Packet[Any] | None = None

    def as_packet(self) -> av.Packet[Any]:
        if self.packet is not None:
            return self.packet
        packet: av.Packet[Any] = av.Packet(self.data)
        packet.is_keyframe = self.is_key
        return packet


class Segment:
    """A segment that can be read.

    marks: of its frames. head: the encoder's configuration. size_bytes: of its pictures alone.
    Where packets have more to them than their bytes, its file holds a `whole` movie of them.
    """

    def __init__(
        self, coded: Sequence[EncodedPicture] | StoredPackets, marks: Marks, head: bytes
    ) -> None:
        self.coded, self.marks, self.head = coded, marks, head

    @property
    def size_bytes(self) -> int:
        if isinstance(self.coded, StoredPackets):
            return self.coded.size_bytes
        return sum(len(one.data) for one in self.coded)

    @classmethod
    def read(cls, file: IO[bytes]) -> Self | None:
        """A segment of a file that is whole, bit by bit; None of any other."""
        body = memory_of(file)
        if len(body) < HEAD + LENGTH_BYTES or body[: len(MAGIC)] != MAGIC:
            return None
        if digest_of(body) != body[len(MAGIC) : HEAD]:
            return None
        length = int.from_bytes(body[-LENGTH_BYTES:])
        index = json.loads(bytes(body[-LENGTH_BYTES - length : -LENGTH_BYTES]))
        marks = read_marks(body, index["marks"], is_whole=index["is_whole"])
        packets = StoredPackets(body, index["packets"], index["whole"])
        return cls(packets, marks, bytes.fromhex(index["head"]))


class StoredPackets:
    """The coded pictures of a file, read when they are asked for."""

    def __init__(self, body: memoryview, index: list[list[int]], whole: tuple[int, int]) -> None:
        """whole: where the movie of the packets begins, and its bytes; 0 where there is none."""
        self._body, self._index, self._whole = body, index, whole

    @property
    def size_bytes(self) -> int:
        return sum(size for _, _, _, size in self._index)

    def __len__(self) -> int:
        return len(self._index)

    def __iter__(self) -> Iterator[EncodedPicture]:
        packets = self._packets()
        for frame, is_key, at, size in self._index:
            data, packet = bytes(self._body[at : at + size]), next(packets, None)
            if packet is not None and bytes(packet) != data:
                raise ValueError("a packet is not the one that was kept")
            yield EncodedPicture(frame, bool(is_key), data, packet)

    def _packets(self) -> Iterator[av.Packet[Any]]:
        at, size = self._whole
        if not size:
            return
        with av.open(io.BytesIO(self._body[at : at + size]), "r") as movie:
            yield from (packet for packet in movie.demux(video=0) if packet.size)


class SegmentWriter:
    """Writes a segment into a file, packet by packet."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file = file
        self._index: list[tuple[int, int, int, int]] = []
        self._total = xxhash.xxh3_128()
        self._at = HEAD
        file.write(MAGIC + bytes(DIGEST_BYTES))

    def add(self, coded: EncodedPicture) -> None:
        self._index.append((coded.frame, int(coded.is_key), self._at, len(coded.data)))
        self._write(coded.data)

    def finish(self, marks: Marks, head: bytes, whole: bytes = b"") -> None:
        """marks: of all frames, in their order. whole: see Segment."""
        is_whole = isinstance(marks[0], int)
        places = []
        for plane in planes_of(marks):
            places.append((self._at, plane.shape))
            self._write(plane.astype(ORDER[is_whole]).tobytes())
        beside = (self._at, len(whole))
        self._write(whole)
        index = {
            "packets": self._index,
            "marks": places,
            "is_whole": is_whole,
            "head": head.hex(),
            "whole": beside,
        }
        text = json.dumps(index, separators=(",", ":")).encode()
        self._write(text)
        self._write(len(text).to_bytes(LENGTH_BYTES))
        try:
            self._file.seek(len(MAGIC))
            self._file.write(self._total.digest())
            self._file.flush()
        except OSError as error:
            raise StoreFull from error

    def _write(self, part: bytes) -> None:
        try:
            self._file.write(part)
        except OSError as error:
            raise StoreFull from error
        self._total.update(part)
        self._at += len(part)


def planes_of(marks: Sequence[Any]) -> Iterator[np.ndarray]:
    """The marks of all frames as few arrays: digests as one, sketches as one a plane."""
    if isinstance(marks[0], int):
        yield np.array(marks, np.uint64)
        return
    for plane in range(len(marks[0])):
        yield np.stack([mark[plane] for mark in marks])


def read_marks(
    body: memoryview, places: list[tuple[int, list[int]]], *, is_whole: bool
) -> tuple[Any, ...]:
    # (Not by np.load: it parses a head as Python, which 3.11 does not do in several threads.)
    kind = np.dtype(ORDER[is_whole])
    planes = [
        np.frombuffer(body, kind, count=prod(shape), offset=at).reshape(shape).copy()
        for at, shape in places
    ]
    if is_whole:
        return tuple(int(one) for one in planes[0])
    return tuple(tuple(plane[frame] for plane in planes) for frame in range(len(planes[0])))


def memory_of(file: IO[bytes]) -> memoryview:
    if isinstance(file, io.BytesIO):
        return file.getbuffer()
    file.seek(0, io.SEEK_END)
    if not file.tell():
        return memoryview(b"")
    return memoryview(mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ))


def digest_of(body: memoryview) -> bytes:
    total = xxhash.xxh3_128()
    for at in range(HEAD, len(body), BLOCK):
        total.update(body[at : at + BLOCK])
    return total.digest()
