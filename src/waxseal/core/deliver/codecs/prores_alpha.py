"""Alpha for frames of ProRes 4444 that an encoder made without it.

Of the libraries' encoders, the quick one writes an alpha whose opaque is 99.9 %, and the other
takes four to nine times as long. Alpha is kept without loss beside the colour of each slice, so it
is coded here and put in: 16 bits, each pixel of a slice as its difference from the one before
it, and how often it is repeated.

Source: SMPTE RDD 36, 5.1 to 5.3 (frame, picture, slices) and 7.1.2 (alpha), from memory; held to
the libraries' decoder and to the alpha that their slow encoder writes.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from waxseal.core.errors import WrongUse
from waxseal.core.picture.arrays import Plane

__all__ = ["with_alpha"]

FRAME_HEAD = 8  # bytes before a frame's header: its size, and its kind
ALPHA_KIND = 25  # the byte that says how alpha is coded
SIXTEEN_BITS = 2
SIDE = 16  # pixels of a block, across and down
OPAQUE = 0xFFFF  # what the first pixel of a slice differs from
SLICE_HEAD, CLEAR_HEAD = 6, 8  # bytes of a slice's header, without alpha and with it
SMALL = 64  # a difference up to this is said in eight bits
LONG = 16  # a run from this on takes more bits than a short one
EIGHT, WORD = np.uint64(8), np.uint64(64)

Bits = NDArray[np.uint64]


def with_alpha(frame: bytes, alpha: Plane) -> bytes:
    """Put alpha, 10 bits, (height, width), into a frame that was encoded without it.

    Raises WrongUse where frame and alpha differ in size.
    """
    head, width, height = struct.unpack_from(">H6xHH", frame, FRAME_HEAD)
    if alpha.shape != (height, width):
        raise WrongUse("A frame of ProRes and its alpha differ in size.")
    at = FRAME_HEAD + head
    count, shape = struct.unpack_from(">HB", frame, at + 5)
    table = at + (frame[at] >> 3)
    clear = code_slices(alpha, 1 << (shape >> 4))
    sizes = struct.unpack_from(f">{count}H", frame, table)
    place = table + 2 * count
    slices = []
    for size, added in zip(sizes, clear, strict=True):
        slices.append(put_into_slice(frame[place : place + size], added))
        place += size
    index = struct.pack(f">{count}H", *map(len, slices))
    picture = bytearray(frame[at:table] + index + b"".join(slices))
    struct.pack_into(">I", picture, 1, len(picture))
    start = bytearray(frame[:at])
    start[ALPHA_KIND] = SIXTEEN_BITS
    struct.pack_into(">I", start, 0, at + len(picture))
    return bytes(start + picture)


def put_into_slice(body: bytes, clear: bytes) -> bytes:
    """Append alpha to a slice. The header then has to say how long the last colour is."""
    _, scale, luma, cb = struct.unpack_from(">BBHH", body)
    cr = len(body) - SLICE_HEAD - luma - cb
    head = struct.pack(">BBHHH", CLEAR_HEAD << 3, scale, luma, cb, cr)
    return head + body[SLICE_HEAD:] + clear


def code_slices(alpha: Plane, blocks: int) -> list[bytes]:
    """The alpha of each slice, row by row; blocks: that a whole slice is wide."""
    height, width = alpha.shape
    rows, across = -(-height // SIDE), -(-width // SIDE)
    room = ((0, rows * SIDE - height), (0, across * SIDE - width))
    whole = np.pad(alpha.astype(np.uint16), room, mode="edge")
    whole <<= 6
    whole |= whole >> 10
    columns, at = [], 0
    for span in widths_of_slices(across, blocks):
        end = at + span * SIDE
        columns.append(code_each(whole[:, at:end].reshape(rows, -1)))
        at = end
    return [column[row] for row in range(rows) for column in columns]


def widths_of_slices(across: int, blocks: int) -> Iterator[int]:
    """Widths in blocks: full slices first, then powers of two for the rest."""
    while across:
        while blocks > across:
            blocks >>= 1
        yield blocks
        across -= blocks


def code_each(slices: NDArray[np.uint16]) -> list[bytes]:
    """Code slices by themselves; each row of the array holds the pixels of one."""
    before = np.empty_like(slices)
    before[:, 0], before[:, 1:] = OPAQUE, slices[:, :-1]
    is_said = slices != before
    is_said[:, 0] = True  # the first, whatever it is
    row, place = np.nonzero(is_said)
    is_last = np.append(row[1:] != row[:-1], True)
    end = np.where(is_last, slices.shape[1], np.append(place[1:], 0))
    codes, bits = differences(slices[is_said] - before[is_said])
    more, more_bits = repeats((end - place - 1).astype(np.uint64))
    codes, bits = (codes << more_bits) | more, bits + more_bits
    # A slice ends with a whole byte.
    last = np.flatnonzero(is_last)
    totals = np.add.reduceat(bits, np.append(0, last[:-1] + 1))
    left = (EIGHT - totals % EIGHT) % EIGHT
    codes[last] <<= left
    bits[last] += left
    body, ends = pack(codes, bits), np.cumsum((totals + left) // EIGHT).tolist()
    return [body[begin:end] for begin, end in pairwise([0, *ends])]


def differences(steps: NDArray[np.uint16]) -> tuple[Bits, Bits]:
    """The code of each difference (modulo 65 536), and its length in bits."""
    signed = steps.view(np.int16).astype(np.int64)
    far = np.abs(signed)
    is_small = (far > 0) & (far <= SMALL)
    small, large = ((far - 1) << 1) | (signed < 0), (1 << 16) | (signed & OPAQUE)
    codes = np.where(is_small, small, large).astype(np.uint64)
    return codes, np.where(is_small, 8, 17).astype(np.uint64)


def repeats(runs: Bits) -> tuple[Bits, Bits]:
    """The code of how often each value is repeated, and its length in bits."""
    is_none = runs == 0
    bits = np.where(is_none, 1, np.where(runs < LONG, 1 + 4, 1 + 4 + 11))
    return np.where(is_none, 1, runs).astype(np.uint64), bits.astype(np.uint64)


def pack(codes: Bits, bits: Bits) -> bytes:
    """Join codes of at most 64 bits to one string of bits, the highest bit of each first."""
    ends = np.cumsum(bits)
    first, last = (ends - bits) // WORD, (ends - 1) // WORD  # the words that each is in
    # In two words: what is left for the second. In one: the room behind it.
    over = np.where(last > first, ends % WORD, 0)
    room = np.where(last > first, 0, (WORD - ends % WORD) % WORD)
    words = np.zeros(int(last[-1]) + 1, np.uint64)
    # They do not overlap, so that the sum of a word's parts is the word.
    begins = np.flatnonzero(np.append(True, first[1:] != first[:-1]))
    words[first[begins]] = np.add.reduceat((codes >> over) << room, begins)
    across = over > 0
    words[last[across]] += codes[across] << (WORD - over[across])
    return words.astype(">u8").tobytes()
