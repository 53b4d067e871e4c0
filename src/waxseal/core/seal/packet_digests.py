"""The pictures of a movie as they were encoded, bit by bit: one digest for all of them.

What the encoder gave and what lies in the finished file have to be the very same. So
nothing between the two can exchange, repeat, leave out or change a frame, however coarse
the quality is and however soft the picture.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import xxhash

from waxseal.core.picture.arrays import Plane

__all__ = ["StreamDigest", "planes_digest"]

# Units that a container keeps elsewhere or leaves out: parameter sets and access unit
# delimiters. ITU-T H.264, Table 7-1; ITU-T H.265, Table 7-1.
BESIDE = {"h264": frozenset({7, 8, 9}), "hevc": frozenset({32, 33, 34, 35})}


class StreamDigest:
    """The digest of packets in the order they are decoded.

    codec: the library's name. is_in_container: whether units have their lengths in front,
    as in MP4, and not start codes, as encoders write them.
    """

    def __init__(self, codec: str, *, is_in_container: bool) -> None:
        self._codec, self._is_in_container = codec, is_in_container
        self._total = xxhash.xxh3_128()

    def add(self, packet: bytes) -> None:
        if self._codec == "av1":
            for unit in av1_units(packet):
                self._total.update(unit)
            return
        if self._codec not in BESIDE:
            self._total.update(packet)
            return
        split = by_length if self._is_in_container else by_start_code
        for unit in split(packet):
            if unit and unit_type(unit, self._codec) not in BESIDE[self._codec]:
                self._total.update(unit)

    @property
    def value(self) -> str:
        return self._total.hexdigest()


# AV1 specification, 6.2.2: delimiters, redundant headers, lists of tiles, padding.
AV1_BESIDE = frozenset({2, 7, 8, 15})


def av1_units(packet: bytes) -> Iterator[bytes]:
    """The units of a packet but for those that containers leave out. AV1 specification, 5.3."""
    at = 0
    while at < len(packet):
        head, begin = packet[at], at
        at += 2 if head & 0x04 else 1  # an extension follows
        length, shift = len(packet) - at, 0
        if head & 0x02:  # it says its size, seven bits a byte
            length = 0
            while at < len(packet):
                byte = packet[at]
                length |= (byte & 0x7F) << shift
                at, shift = at + 1, shift + 7
                if not byte & 0x80:
                    break
        at += length
        if head >> 3 & 0x0F not in AV1_BESIDE:
            yield packet[begin:at]


def unit_type(unit: bytes, codec: str) -> int:
    return unit[0] & 0x1F if codec == "h264" else unit[0] >> 1 & 0x3F


def by_start_code(packet: bytes) -> Iterator[bytes]:
    """Annex B of both standards: three bytes that no unit can hold; zeros before them fill."""
    for unit in packet.split(b"\0\0\1"):
        yield unit.rstrip(b"\0")


def by_length(packet: bytes) -> Iterator[bytes]:
    """ISO/IEC 14496-15: four bytes of length, then the unit."""
    at = 0
    while at + 4 <= len(packet):
        length = int.from_bytes(packet[at : at + 4])
        yield packet[at + 4 : at + 4 + length].rstrip(b"\0")
        at += 4 + length


def planes_digest(planes: Sequence[Plane]) -> int:
    """One number for the bits of all planes, however their lines lie in memory."""
    total = xxhash.xxh3_64()
    for plane in planes:
        total.update(np.ascontiguousarray(plane).data)
    return total.intdigest()
