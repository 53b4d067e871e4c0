"""Segments that other machines encode: workers of Dask that see the frames under the same paths.

What comes back is a stranger's. Each segment is compared with this machine's own files and
pictures before it is used or kept. If the cluster goes away, the rest is encoded here.
"""

from __future__ import annotations

import io
import logging
import random
import time
from asyncio import CancelledError
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from importlib.metadata import version
from pathlib import Path
from threading import Event
from typing import TYPE_CHECKING, Any

import numpy as np

from waxseal import __version__
from waxseal.core.deliver.encode.encode_state import EncodeOptions, EncodeState
from waxseal.core.deliver.encode.prefetch import PictureOrder, Prefetch
from waxseal.core.deliver.encode.segments.encode_backends import LocalThreads, Ready
from waxseal.core.deliver.encode.segments.segment_cuts import Piece
from waxseal.core.deliver.encode.segments.segment_encoding import encode_piece
from waxseal.core.deliver.encode.segments.segment_file import Segment, SegmentWriter
from waxseal.core.deliver.encode.segments.still_segments import WRITERS
from waxseal.core.errors import DeliveryRefused, WaxSealError
from waxseal.core.plan.filestates import FileState
from waxseal.core.plan.recipe_keys import ARITHMETIC
from waxseal.core.plan.recipe_range import changed_files
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.measure.file_facts import checksum
from waxseal.core.text_format import names_words, plain

if TYPE_CHECKING:
    from waxseal.core.deliver.encode.segments.segment_store import SegmentStore

__all__ = ["Cluster", "WorkerReply", "encode_there", "version_here"]

PATIENCE = 8  # seconds for the scheduler to answer
LONGEST_ALONE = 20.0  # seconds without a scheduler, or without a worker
TICK = 0.2
FETCH_S = 5.0  # for a segment that a worker has made to come; then it is asked for again
RETRIES = 2
PICTURES_COMPARED, FILES_COMPARED = 3, 8  # of each segment
LARGEST_DIGESTED = 256_000_000  # bytes: larger files, movies, are known by their pictures

LOST = (
    "The cluster at {0} did not answer any more: what it had not encoded was encoded on this "
    "machine."
)
OTHER_FILES = (
    "A worker of the cluster sees other files than this machine under the same paths ({0}): give "
    "it the same, or deliver without it."
)
OTHER_PICTURES = (
    "A worker of the cluster made other pictures of {0} than this machine does: it sees other "
    "files, or is not to be trusted. Deliver without it."
)


@dataclass(frozen=True, slots=True)
class WorkerReply:
    """What a worker gives back.

    body: the segment as the bytes of its file. digests: of the files that it was made from, by
    their paths, as the worker read them.
    """

    body: bytes
    digests: dict[str, str]


class Cluster:
    """Workers of Dask. here: encodes a segment on this machine."""

    def __init__(
        self, work: EncodeState, store: SegmentStore, here: Callable[[Piece], Segment]
    ) -> None:
        """Raises DeliveryRefused where nobody answers."""
        self._work, self._store = work, store
        self._client = connect(work.who.cluster)
        self._local = LocalThreads(work.form, EncodeOptions(workers=work.who.workers), here)
        self._asked: list[Any] = []
        self._is_lost = False
        self.ahead = 2 * max(1, wait_for_workers(self._client, work))

    def submit(self, piece: Piece) -> Ready:
        self._work.check()
        found = self._store.find(piece.key)
        if found is not None:
            self._work.found(piece.place, found.marks)
            return lambda: found
        if self._is_lost:
            return self._local.submit(piece)
        asked = self._client.submit(
            *(encode_there, piece, version_here()), key=f"waxseal-{piece.key}", retries=RETRIES
        )
        self._asked.append(asked)
        return lambda: self._fetch(piece, asked)

    def _fetch(self, piece: Piece, asked: Any) -> Segment:
        sent = self._sent(asked)
        if sent is None:
            return self._local.submit(piece)()
        asked.release()
        segment = Segment.read(io.BytesIO(sent.body))
        if segment is None or len(segment.marks) != piece.span.count:
            raise DeliveryRefused("A segment came from another machine damaged: deliver again.")
        if not piece.is_replaced:  # else this machine's own files are others by now
            trust(piece, segment, sent, self._work)
            self._store.keep(piece.key, sent.body)
        self._work.came(piece.place, segment.marks)
        return segment

    def _sent(self, asked: Any) -> WorkerReply | None:
        """What a worker gave; None once the cluster is lost.

        A worker may go away with what it has made: then another makes it, if there is one.
        """
        patience = FETCH_S
        while self._wait_for(asked):
            try:
                return result_of(asked, patience)
            except TimeoutError:
                patience *= 2  # it may be large, and the network slow
            except CancelledError:
                return None
        return None

    def _wait_for(self, asked: Any) -> bool:
        """Whether it is done; not once the cluster is lost."""
        done = Event()
        asked.add_done_callback(lambda _: done.set())
        alone_since = None
        while not done.wait(TICK):
            self._work.check()
            if self._is_lost:
                return False
            if has_workers(self._client):
                alone_since = None
            elif alone_since is None:
                alone_since = time.monotonic()
            elif time.monotonic() > alone_since + LONGEST_ALONE:
                self._is_lost = True
                self._work.remark(LOST.format(plain(self._work.who.cluster)))
                return False
        return asked.status not in ("lost", "cancelled")

    def close(self) -> None:
        self._local.close()
        if not self._is_lost:
            self._client.cancel(self._asked, force=True)
        self._client.close(timeout=PATIENCE)


def connect(address: str) -> Any:
    """A client of Dask. Raises DeliveryRefused where nobody answers."""
    try:
        from distributed import Client
    except ImportError:
        raise DeliveryRefused(
            "Several machines need a library that is not there: install waxseal[cluster]."
        ) from None
    for name in ("distributed", "tornado", "asyncio"):  # their tracebacks are said as sentences
        logging.getLogger(name).setLevel(logging.CRITICAL + 1)
    where = {"scheduler_file": address} if address.endswith(".json") else {"address": address}
    try:
        return Client(timeout=PATIENCE, set_as_default=False, **where)
    except Exception as error:
        raise DeliveryRefused(
            f"No scheduler answers at {plain(address)}: start one, or check the address."
        ) from error


def has_workers(client: Any) -> bool:
    return client.status == "running" and bool(threads_of(client))


def threads_of(client: Any) -> int:
    """Of all workers together; 0 where the scheduler does not say."""
    try:
        return sum(client.nthreads().values())
    except Exception:  # noqa: BLE001 - a connection that has just gone
        return 0


def wait_for_workers(client: Any, work: EncodeState) -> int:
    """How many threads all workers have. Raises DeliveryRefused where none comes, Cancelled."""
    until = time.monotonic() + LONGEST_ALONE
    while not (found := threads_of(client)):
        work.check()
        if time.monotonic() > until:
            client.close(timeout=PATIENCE)
            raise DeliveryRefused(
                f"The scheduler at {plain(work.who.cluster)} has no worker: start some, or "
                "deliver without --cluster."
            )
        time.sleep(TICK)
    return found


def result_of(asked: Any, patience: float) -> WorkerReply:
    """What a worker gave. Raises its own errors of the work, DeliveryRefused for any other.

    Raises TimeoutError where it does not come within so many seconds, CancelledError where
    nobody has it any more.
    """
    try:
        sent = asked.result(timeout=patience)
    except (WaxSealError, TimeoutError, CancelledError):
        raise
    except Exception as error:
        raise DeliveryRefused(
            f"A worker of the cluster could not do its part ({type(error).__name__}): install the "
            "same Wax Seal on it as here, or deliver without it."
        ) from error
    if not isinstance(sent, WorkerReply):
        raise DeliveryRefused("A worker of the cluster gave something that is no segment.")
    return sent


# ---- what came back --------------------------------------------------------------------------


def trust(piece: Piece, segment: Segment, sent: WorkerReply, work: EncodeState) -> None:
    """Compare a foreign segment with this machine's files and pictures.

    Which ones is drawn by chance, so that no worker knows. Raises DeliveryRefused.
    """
    chance = random.SystemRandom()
    files = [one.path for one in piece.files if 0 <= one.size_bytes <= LARGEST_DIGESTED]
    for path in chance.sample(files, min(FILES_COMPARED, len(files))):
        if sent.digests.get(path) != digest_of_file(path):
            raise DeliveryRefused(OTHER_FILES.format(plain(Path(path).name)))
    chosen = sorted(chance.sample(list(piece.span), min(PICTURES_COMPARED, piece.span.count)))
    for frame, mark in marks_made_here(piece, chosen, work):
        if not is_same(mark, segment.marks[frame - piece.span.first]):
            raise DeliveryRefused(OTHER_PICTURES.format(f"frame {frame}"))


def marks_made_here(
    piece: Piece, frames: list[int], work: EncodeState
) -> Iterator[tuple[int, Any]]:
    supply = Prefetch([PictureOrder(piece, piece.form.target, work.comparison.mark)])
    try:
        for frame in frames:
            work.check()
            yield frame, supply.next_made(frame)[0].mark
    finally:
        supply.close()


def is_same(one: Any, other: Any) -> bool:
    """Whether two marks are equal: digests, or sketches of several planes."""
    if isinstance(one, int) or isinstance(other, int):
        return bool(one == other)
    return len(one) == len(other) and all(map(np.array_equal, one, other))


def digest_of_file(path: str) -> str:
    """SHA-256 of a file; empty where it cannot be read."""
    try:
        return checksum(Path(path))
    except OSError:
        return ""


# ---- on the other machine --------------------------------------------------------------------


def version_here() -> str:
    """What has to be the same on every machine, so that the bytes are."""
    libraries = ", ".join(f"{name} {version(name)}" for name in WRITERS)
    return f"Wax Seal {__version__}, pictures {ARITHMETIC}, {libraries}"


def encode_there(piece: Piece, wanted: str) -> WorkerReply:
    """A segment, made by a worker. Raises as `encode` does."""
    if wanted != version_here():
        raise DeliveryRefused(
            f"A worker has {version_here()} and this machine {wanted}: install the same."
        )
    refuse_other(piece.files)
    file = io.BytesIO()
    moved = replace(piece, place=0)
    work = EncodeState(moved, moved.form, silent, CancelToken())
    encode_piece(moved, work, SegmentWriter(file))
    digests = {
        one.path: digest_of_file(one.path)
        for one in piece.files
        if 0 <= one.size_bytes <= LARGEST_DIGESTED
    }
    refuse_other(piece.files)
    return WorkerReply(file.getvalue(), digests)


def refuse_other(files: tuple[FileState, ...]) -> None:
    """Raises DeliveryRefused for files that are not as the order says."""
    others = changed_files(files)
    if others:
        names = names_words([Path(one.path).name for one in others])
        raise DeliveryRefused(OTHER_FILES.format(names))
