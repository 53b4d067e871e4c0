"""The segments of a film, in their order: out of the store, or encoded, several at a time."""

from __future__ import annotations

import io
from collections import deque
from collections.abc import Iterator
from functools import partial
from itertools import islice
from typing import IO

from waxseal.core.deliver.encode.encode_state import EncodeState
from waxseal.core.deliver.encode.segments.cluster_backend import Cluster
from waxseal.core.deliver.encode.segments.encode_backends import EncodeBackend, LocalThreads, Ready
from waxseal.core.deliver.encode.segments.segment_cuts import Piece, pieces_of
from waxseal.core.deliver.encode.segments.segment_encoding import encode_piece
from waxseal.core.deliver.encode.segments.segment_file import Segment, SegmentWriter, StoreFull
from waxseal.core.deliver.encode.segments.segment_store import SegmentStore

__all__ = ["segments_of"]


def segments_of(work: EncodeState) -> Iterator[Segment]:
    """The segments of a film, in their order. Raises as `encode` does."""
    pieces = pieces_of(work.film, work.form, work.qualities)
    store = SegmentStore(is_fresh=work.who.is_fresh, keeps=work.who.keeps)
    backend = backend_for(work, store)
    making: deque[tuple[Piece, Ready]] = deque()
    try:
        for piece in islice(pieces, backend.ahead):
            making.append((piece, backend.submit(piece)))
        while making:
            piece, ready = making.popleft()
            segment = ready()
            work.sizes[piece.place] = segment.size_bytes
            work.keys.append(piece.key)
            for later in islice(pieces, 1):
                making.append((later, backend.submit(later)))
            yield segment
    finally:
        work.give_up()
        backend.close()


def backend_for(work: EncodeState, store: SegmentStore) -> EncodeBackend:
    here = partial(segment_for, work=work, store=store)
    if work.who.cluster:
        return Cluster(work, store, here)
    return LocalThreads(work.form, work.who, here)


def segment_for(piece: Piece, *, work: EncodeState, store: SegmentStore) -> Segment:
    """Out of the store, or encoded and put there."""
    work.check()
    key = piece.key
    found = store.find(key)
    if found is not None and len(found.marks) == piece.span.count:
        work.found(piece.place, found.marks)
        return found
    try:
        with store.writing(key) as file:
            segment = encoded_into(file, piece, work)
    except StoreFull:
        work.unmade(piece.place, piece.span.count)
        segment = encoded_into(io.BytesIO(), piece, work)
    if piece.is_replaced:
        store.drop(key)  # it may hold the new file's pixels under the old one's name
    return segment


def encoded_into(file: IO[bytes], piece: Piece, work: EncodeState) -> Segment:
    """Read again from where it was written: by its name somebody may have removed it already."""
    encode_piece(piece, work, SegmentWriter(file))
    file.flush()
    segment = Segment.read(file)
    if segment is None:
        raise OSError("a segment cannot be read that was only just written")
    return segment
