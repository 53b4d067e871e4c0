"""Whether all of a sound's file is there: what its header promises beside what follows it.

The libraries read what they find and say nothing of the rest, which would be silence.
"""

from __future__ import annotations

import struct
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

from waxseal.core.safe_open import open_regular

__all__ = ["damage_in"]

MOST_CHUNKS = 1000
UNKNOWN = (0, 0xFFFF_FFFF)  # lengths that a writer leaves who does not know them yet
PAGE = b"OggS"
PAGE_HEAD = struct.Struct("<4sBBqIIIB")  # RFC 3533, 6
LAST_PAGE = 4  # of the flags
LOOKED_AT = 1 << 16  # bytes of an MP3's beginning
LEEWAY = 64  # bytes by which the beginning of an MP3's first frame may be mistaken


def damage_in(path: Path, kind: str) -> str:
    """What is missing, as the rest of a sentence; empty where nothing is, or it cannot be told.

    kind: `WAV`, `W64`, `AIFF`, `Ogg`, `Opus` or `MP3`. Raises OSError.
    """
    look = LOOKS.get(kind)
    if look is None:
        return ""
    with open_regular(path) as file:
        size = file.seek(0, 2)
        file.seek(0)
        try:
            return look(file, size)
        except struct.error:
            return "it ends within its header"


def cut_words(there: int, promised: int) -> str:
    """Never that all of it is there."""
    share = min(99, round(max(0, there) * 100 / promised))
    return f"it is cut short: about {share}% of it is there"


def chunks_end(file: BinaryIO, size: int, wanted: bytes, order: str) -> str:
    """Of a file of chunks: whether the one with the samples is as long as it says."""
    at, long_size = 12, 0
    for _ in range(MOST_CHUNKS):
        file.seek(at)
        head = file.read(8)
        if len(head) < 8:
            return "its samples are missing"
        name, (length,) = head[:4], struct.unpack(f"{order}I", head[4:])
        if name == b"ds64":  # EBU Tech 3306: the true sizes of a file of more than 4 GB
            (long_size,) = struct.unpack("<Q", file.read(16)[8:])
        if name == wanted:
            if length in UNKNOWN and not long_size:
                return ""
            there, promised = size - at - 8, long_size or length
            return cut_words(there, promised) if there < promised else ""
        at += 8 + length + length % 2
    return ""


def wave(file: BinaryIO, size: int) -> str:
    """Source: IBM and Microsoft 1991, Multimedia Programming Interface, RIFF."""
    return chunks_end(file, size, b"data", "<") if file.read(4) in (b"RIFF", b"RF64") else ""


def wave64(file: BinaryIO, size: int) -> str:
    """Of chunks with names of 16 bytes and lengths of 8 that count both; each begins at a
    multiple of 8. Source: Sonic Foundry's Wave64, from memory.
    """
    at = 40  # behind the name, the length and the kind of the whole
    for _ in range(MOST_CHUNKS):
        file.seek(at)
        head = file.read(24)
        if len(head) < 24:
            return "its samples are missing"
        (length,) = struct.unpack("<Q", head[16:])
        if head[:4] == b"data":
            there, promised = size - at, length
            return cut_words(there, promised) if there < promised else ""
        at += max(24, length + -length % 8)
    return ""


def aiff(file: BinaryIO, size: int) -> str:
    """Source: Apple 1989, Audio Interchange File Format 1.3."""
    return chunks_end(file, size, b"SSND", ">") if file.read(4) == b"FORM" else ""


def ogg(file: BinaryIO, size: int) -> str:
    """Page by page: each begins where the one before ends, and the last says that it is."""
    at, last, numbers = 0, 0, dict[int, int]()
    while at < size:
        file.seek(at)
        head = file.read(PAGE_HEAD.size)
        if len(head) < PAGE_HEAD.size:
            return cut_words(at, size)
        mark, _, last, _, stream, number, _, segments = PAGE_HEAD.unpack(head)
        if mark != PAGE or numbers.get(stream, number - 1) != number - 1:
            return f"it is damaged at about {at / size:.0%} of its length"
        numbers[stream] = number
        at += PAGE_HEAD.size + segments + sum(file.read(segments))
    if at > size or not last & LAST_PAGE:
        return "it is cut short: its end is missing"
    return ""


def mp3(file: BinaryIO, size: int) -> str:
    """By the count of bytes that its first frame may hold; many have none.

    Common practice, no source: flags behind `Xing` or `Info`, frames if 1, bytes if 2.
    """
    head = file.read(LOOKED_AT)
    at = max(head.find(b"Xing"), head.find(b"Info"))
    if at < 0:
        return ""
    (flags,) = struct.unpack(">I", head[at + 4 : at + 8])
    if flags & 3 != 3:
        return ""
    (promised,) = struct.unpack(">I", head[at + 12 : at + 16])
    frame = head.rfind(b"\xff", 0, at - 3)  # the frame that it is in begins a few bytes before
    there = size - max(frame, 0)
    return cut_words(there, promised) if there < promised - LEEWAY else ""


LOOKS: dict[str, Callable[[BinaryIO, int], str]] = {
    "WAV": wave,
    "W64": wave64,
    "AIFF": aiff,
    "Ogg": ogg,
    "Opus": ogg,
    "MP3": mp3,
}
