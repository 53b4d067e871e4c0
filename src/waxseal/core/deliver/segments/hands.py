"""Who encodes the segments: threads of this process, or processes of several machines."""

from __future__ import annotations

import io
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from importlib.metadata import version
from typing import TYPE_CHECKING, Any, Protocol

from waxseal import __version__
from waxseal.core.deliver.codecs import StreamEncoder
from waxseal.core.deliver.form import Form
from waxseal.core.deliver.segments.cutting import Piece
from waxseal.core.deliver.segments.encoding import encode_piece
from waxseal.core.deliver.segments.file import Segment, SegmentWriter
from waxseal.core.deliver.segments.stills import WRITERS
from waxseal.core.deliver.work import Who, Work
from waxseal.core.errors import DeliveryRefused
from waxseal.core.picture.kernels.choice import KernelChoice
from waxseal.core.picture.work import work_of_film
from waxseal.core.plan.keys import ARITHMETIC
from waxseal.core.progress import CancelToken, silent

if TYPE_CHECKING:
    from waxseal.core.deliver.segments.store import SegmentStore

__all__ = [
    "MOST_BYTES",
    "Cluster",
    "Hands",
    "Ready",
    "Threads",
    "encode_there",
    "held_bytes",
    "version_here",
    "workers_for",
]

MOST_BYTES = 1_000_000_000  # of pictures that all encoders hold together
HELD_LEANING, HELD_ALONE = 60, 12  # pictures that one holds: it looks ahead, or not
LEAST_WORKERS = 2  # while one empties itself, the next is filled
PATIENCE = 8  # seconds for the other machines to answer
TICK = 0.2
RETRIES = 2

Ready = Callable[[], Segment]  # waits for a segment


class Hands(Protocol):
    """ahead: segments that are asked for before the first is needed."""

    ahead: int

    def submit(self, piece: Piece) -> Ready: ...

    def close(self) -> None: ...


class Threads:
    """This process."""

    def __init__(self, form: Form, who: Who, make: Callable[[Piece], Segment]) -> None:
        self.ahead = workers_for(form, workers=who.workers)
        self._make = make
        self._pool = ThreadPoolExecutor(self.ahead, "segment")

    def submit(self, piece: Piece) -> Ready:
        return self._pool.submit(self._make, piece).result

    def close(self) -> None:
        self._pool.shutdown(cancel_futures=True)


def workers_for(*forms: Form, workers: int = 0) -> int:
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


def held_bytes(*forms: Form) -> int:
    """About as much as the pictures take that encoders hold."""
    return sum(picture_bytes(one) * held_pictures(one) for one in forms)


def held_pictures(form: Form) -> int:
    return HELD_LEANING if form.codec.has_key_frames else HELD_ALONE


def picture_bytes(form: Form) -> int:
    target = form.target
    wide = 1 if target.layout.is_ycbcr else 2  # every pixel has its own colour
    return target.width * target.height * (2 if target.layout.depth <= 8 else 4) * wide


# ---- several machines ------------------------------------------------------------------------


class Cluster:
    """Workers of Dask, on machines that see the frames under the same paths."""

    def __init__(self, who: Who, work: Work, store: SegmentStore) -> None:
        """Raises DeliveryRefused where nobody answers."""
        try:
            from distributed import Client
        except ImportError:
            raise DeliveryRefused(
                "Several machines need a library that is not there: install waxseal[cluster]."
            ) from None
        where = (
            {"scheduler_file": who.cluster}
            if who.cluster.endswith(".json")
            else {"address": who.cluster}
        )
        try:
            self._client = Client(timeout=PATIENCE, set_as_default=False, **where)
        except (OSError, ValueError, TimeoutError) as error:
            raise DeliveryRefused(
                f"No scheduler answers at {who.cluster}: start one, or check the address."
            ) from error
        self._work, self._store = work, store
        self._asked: list[Any] = []
        self.ahead = 2 * max(1, sum(self._client.nthreads().values()))

    def submit(self, piece: Piece) -> Ready:
        found = self._store.find(piece.key)
        if found is not None:
            self._work.found(piece.place, found.marks)
            return lambda: found
        asked = self._client.submit(
            *(encode_there, piece, version_here()), key=f"waxseal-{piece.key}", retries=RETRIES
        )
        self._asked.append(asked)
        return lambda: self._fetch(piece, asked)

    def _fetch(self, piece: Piece, asked: Any) -> Segment:
        while not asked.done():
            self._work.check()
            try:
                asked.result(timeout=TICK)
            except TimeoutError:
                continue
        body = asked.result()
        asked.release()
        if not piece.is_replaced:
            self._store.keep(piece.key, body)
        segment = Segment.read(io.BytesIO(body))
        if segment is None:
            raise DeliveryRefused("A segment came from another machine damaged: deliver again.")
        self._work.came(piece.place, segment.marks)
        return segment

    def close(self) -> None:
        self._client.cancel(self._asked, force=True)
        self._client.close()


def version_here() -> str:
    """What has to be the same on every machine, so that the bytes are."""
    libraries = ", ".join(f"{name} {version(name)}" for name in WRITERS)
    return f"Wax Seal {__version__}, pictures {ARITHMETIC}, {libraries}"


there = KernelChoice()  # of a worker: compiled once for all that it is given


def encode_there(piece: Piece, wanted: str) -> bytes:
    """A segment as the bytes of its file, on another machine. Raises as `encode` does."""
    if wanted != version_here():
        raise DeliveryRefused(
            f"A worker has {version_here()} and this machine {wanted}: install the same."
        )
    file = io.BytesIO()
    piece = replace(piece, place=0)
    there.warm_for(work_of_film(piece, piece.form.target))
    encode_piece(piece, Work(piece, piece.form, there, silent, CancelToken()), SegmentWriter(file))
    return file.getvalue()
