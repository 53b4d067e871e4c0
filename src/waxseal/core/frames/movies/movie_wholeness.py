"""Whether a movie's file is whole: whether samples that it lists, or its own end, are missing.

A stated length is only a hint (a last frame may be held), so lengths are not asked here.
"""

from __future__ import annotations

from pathlib import Path

import av

from waxseal.core.safe_open import open_regular

__all__ = ["is_cut_off"]

LISTED = frozenset({"mov", "mp4", "avi"})  # formats whose header lists every sample
EBML_HEADER, SEGMENT = b"\x1a\x45\xdf\xa3", b"\x18\x53\x80\x67"
GIF_END = b"\x3b"
LONGEST_HEADER = 4096  # bytes in front of a segment


def is_cut_off(
    path: Path, container: av.container.InputContainer, packets: int, *, ends_torn: bool
) -> bool:
    """packets: how many there are. ends_torn: whether the last of them is not whole."""
    names = set(container.format.name.split(","))
    stream = container.streams.video[0]
    if ends_torn:
        return True
    if names & LISTED:
        return stream.frames > packets
    if "mxf" in names:  # counts in frames
        return (stream.duration or 0) > packets
    if "matroska" in names or "webm" in names:
        return ends_before_its_segment(path)
    if "gif" in names:
        return last_byte(path) != GIF_END
    return False


def ends_before_its_segment(path: Path) -> bool:
    """Whether an EBML file is shorter than its segment says; one of unknown size is not.

    Source: RFC 8794 (EBML), 4 and 5: an element is an id, a size of variable length, its data.
    """
    with open_regular(path) as file:
        head = file.read(LONGEST_HEADER)
        size = file.seek(0, 2)
    if not head.startswith(EBML_HEADER):
        return False
    at, length = sized(head, len(EBML_HEADER))
    at += length or 0
    if head[at : at + len(SEGMENT)] != SEGMENT:
        return False
    at, length = sized(head, at + len(SEGMENT))
    return length is not None and at + length > size


def sized(head: bytes, at: int) -> tuple[int, int | None]:
    """Where an element's data begins, and their length; None where it is unknown."""
    first = head[at] if at < len(head) else 0
    width = 9 - first.bit_length()
    if not first or at + width > len(head):
        return at, None
    value = int.from_bytes(head[at : at + width]) & ((1 << 7 * width) - 1)
    is_unknown = value == (1 << 7 * width) - 1
    return at + width, None if is_unknown else value


def last_byte(path: Path) -> bytes:
    with open_regular(path) as file:
        size = file.seek(0, 2)
        file.seek(max(0, size - 1))
        return file.read(1)
