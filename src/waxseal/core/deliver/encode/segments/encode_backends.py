"""What encodes segments: the protocol, and threads here. Others: see `cluster_backend`."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TYPE_CHECKING, Protocol

from waxseal.core.deliver.codecs import StreamEncoder
from waxseal.core.deliver.encode.encode_state import EncodeOptions
from waxseal.core.deliver.encode.segments.segment_cuts import Piece
from waxseal.core.deliver.encode.segments.segment_file import Segment
from waxseal.core.deliver.format.resolved_format import ResolvedFormat

if TYPE_CHECKING:
    pass

__all__ = [
    "MOST_BYTES",
    "EncodeBackend",
    "LocalThreads",
    "Ready",
    "held_bytes",
    "workers_for",
]

MOST_BYTES = 1_000_000_000  # of pictures that all encoders hold together
HELD_LEANING, HELD_ALONE = 60, 12  # pictures that one holds: it looks ahead, or not
LEAST_WORKERS = 2  # while one empties itself, the next is filled

Ready = Callable[[], Segment]  # waits for a segment


class EncodeBackend(Protocol):
    """ahead: segments that are asked for before the first is needed."""

    ahead: int

    def submit(self, piece: Piece) -> Ready: ...

    def close(self) -> None: ...


class LocalThreads:
    """Threads of this process."""

    def __init__(
        self, form: ResolvedFormat, who: EncodeOptions, make: Callable[[Piece], Segment]
    ) -> None:
        self.ahead = workers_for(form, workers=who.workers)
        self._make = make
        self._pool = ThreadPoolExecutor(self.ahead, "segment")

    def submit(self, piece: Piece) -> Ready:
        return self._pool.submit(self._make, piece).result

    def close(self) -> None:
        self._pool.shutdown(cancel_futures=True)


def workers_for(*forms: ResolvedFormat, workers: int = 0) -> int:
    """How many segments are encoded at a time: all cores are used, and not all the memory.

    forms: of films that are encoded side by side: so many segments of each of them, which are
    together no more than one film alone would have, because a crash costs them all.
    workers: for one film, where somebody chose.
    """
    threads = max(
        one.codec.coding.threads if isinstance(one.codec.coding, StreamEncoder) else 1
        for one in forms
    )
    wanted = max(LEAST_WORKERS, len(os.sched_getaffinity(0)) // threads + 1)
    most = workers or min(wanted, len(forms) * MOST_BYTES // held_bytes(*forms))
    return max(1, most // len(forms))


def held_bytes(*forms: ResolvedFormat) -> int:
    """About as much as the pictures take that encoders hold."""
    return sum(picture_bytes(one) * held_pictures(one) for one in forms)


def held_pictures(form: ResolvedFormat) -> int:
    return HELD_LEANING if form.codec.has_key_frames else HELD_ALONE


def picture_bytes(form: ResolvedFormat) -> int:
    target = form.target
    wide = 1 if target.layout.is_ycbcr else 2  # every pixel has its own colour
    return target.width * target.height * (2 if target.layout.depth <= 8 else 4) * wide
