"""The segments of a film, in their order: out of the store, or encoded, several at a time."""

from __future__ import annotations

import io
import os
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from fractions import Fraction
from itertools import islice
from typing import Any, Protocol

import av

from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.form import Form
from waxseal.core.deliver.segments.cutting import Piece, pieces_of
from waxseal.core.deliver.segments.file import Coded, Segment, SegmentWriter, StoreFull
from waxseal.core.deliver.segments.pictures import add_pictures, encoder_of, video_frame
from waxseal.core.deliver.segments.store import SegmentStore
from waxseal.core.deliver.supply import Supply
from waxseal.core.deliver.work import Work
from waxseal.core.errors import WrongUse
from waxseal.core.frames.movies.planes import read_planes
from waxseal.core.seal.stream import planes_digest

__all__ = ["segments_of"]

MOST_BYTES = 1_000_000_000  # of pictures that all encoders hold together
HELD_LEANING, HELD_ALONE = 60, 12  # pictures that one holds: it looks ahead, or not
LEAST_WORKERS = 2  # while one empties itself, the next is filled


def segments_of(work: Work) -> Iterator[Segment]:
    """The segments of a film, in their order. Raises as `encode` does."""
    pieces, store = pieces_of(work.film, work.form, work.qualities), SegmentStore()
    workers = workers_for(work.form)
    pool = ThreadPoolExecutor(workers, "segment")
    making: deque[tuple[Piece, Future[Segment]]] = deque()
    try:
        for piece in islice(pieces, workers):
            making.append((piece, pool.submit(segment_for, piece, work, store)))
        while making:
            piece, made = making.popleft()
            segment = made.result()
            work.sizes[piece.place] = segment.size_bytes
            for later in islice(pieces, 1):
                making.append((later, pool.submit(segment_for, later, work, store)))
            yield segment
    finally:
        work.give_up()
        pool.shutdown(cancel_futures=True)


def workers_for(form: Form) -> int:
    """How many segments are encoded at a time: all cores are used, and not all the memory."""
    encoder, target = encoder_of(form), form.target
    held = HELD_LEANING if form.codec.has_key_frames else HELD_ALONE
    picture = target.width * target.height * (2 if target.layout.depth <= 8 else 4)
    wanted = max(LEAST_WORKERS, len(os.sched_getaffinity(0)) // encoder.threads + 1)
    return max(1, min(wanted, MOST_BYTES // (held * picture)))


def segment_for(piece: Piece, work: Work, store: SegmentStore) -> Segment:
    """Out of the store, or encoded and put there."""
    if not piece.is_kept:
        held = Held()
        encode_piece(piece, work, held)
        return held.segment
    key = piece.key
    found = store.find(key)
    if found is not None and len(found.marks) == piece.span.count:
        work.found(piece.place, found.marks)
        return found
    try:
        with store.writing(key) as file:
            encode_piece(piece, work, SegmentWriter(file))
        memory = file if isinstance(file, io.BytesIO) else None
    except StoreFull:
        work.unmade(piece.place, piece.span.count)
        memory = io.BytesIO()
        encode_piece(piece, work, SegmentWriter(memory))
    segment = Segment.read(memory) if memory is not None else store.find(key)
    if segment is None:
        raise OSError("a segment cannot be read that was only just written")
    return segment


class Sink(Protocol):
    def add(self, coded: Coded) -> None: ...

    def finish(self, marks: tuple[Any, ...], head: bytes) -> None: ...


class Held:
    """A segment that only this process has: more than bytes belong to its packets."""

    def __init__(self) -> None:
        self._coded: list[Coded] = []
        self.segment = Segment((), (), b"")

    def add(self, coded: Coded) -> None:
        self._coded.append(coded)

    def finish(self, marks: tuple[Any, ...], head: bytes) -> None:
        self.segment = Segment(self._coded, marks, head)


def encode_piece(piece: Piece, work: Work, sink: Sink) -> None:
    """Encode frames by themselves. Raises as `encode` does, and StoreFull."""
    form = piece.form
    supply = Supply(piece, form.target, work.kernels, work.comparison.mark)
    try:
        # Nothing is written through it: it opens an encoder as the film's own is.
        with av.open(io.BytesIO(), "w", format=CONTAINERS[form.container].format) as nowhere:
            stream = add_pictures(nowhere, form)

            def put(packets: list[av.Packet[Any]]) -> None:
                for packet in packets:
                    frame = round(Fraction(packet.pts or 0) * packet.time_base * form.rate)
                    whole = None if piece.is_kept else packet
                    sink.add(Coded(frame, packet.is_keyframe, bytes(packet), whole))

            marks = []
            for place, reel_frame in enumerate(piece.span):
                work.check()
                made = supply.next_made(reel_frame)
                frame = video_frame(made.picture, form)
                frame.pts, frame.time_base = place, 1 / form.rate
                put(stream.encode(frame))
                if planes_digest(read_planes(frame)) != made.digest:
                    raise WrongUse(f"Frame {reel_frame} is not what the encoder was given.")
                marks.append(made.mark)
                work.made(piece.place + place, made.mark)
            put(stream.encode(None))
            sink.finish(tuple(marks), bytes(stream.codec_context.extradata or b""))
    finally:
        supply.close()
