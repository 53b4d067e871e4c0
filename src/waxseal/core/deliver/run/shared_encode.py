"""Deliveries of one reel that are made one after the other: their pictures are made together.

While the first is encoded, the segments of those behind it go into the store, and each file
is decoded once for all. Each delivery is then made by itself, and finds what is there: so its
bytes are the same, and what goes wrong here costs time alone.
"""

from __future__ import annotations

import io
from collections import deque
from collections.abc import Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from functools import partial
from itertools import islice

from av.error import FFmpegError

from waxseal.core.deliver.encode.encode_state import HERE, EncodeOptions, EncodeState
from waxseal.core.deliver.encode.segments.encode_backends import MOST_BYTES, held_bytes, workers_for
from waxseal.core.deliver.encode.segments.segment_cuts import Piece, pieces_of
from waxseal.core.deliver.encode.segments.segment_encoding import (
    PieceTask,
    Sink,
    encode_side_by_side,
)
from waxseal.core.deliver.encode.segments.segment_file import SegmentWriter, StoreFull
from waxseal.core.deliver.encode.segments.segment_store import SegmentStore
from waxseal.core.deliver.format.delivery_settings import bytes_of, film_of, form_of, stretch_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.deliver.run.preflight import preflight
from waxseal.core.errors import Cancelled, WaxSealError
from waxseal.core.job.model import Delivery, Job
from waxseal.core.plan.programme import Programme
from waxseal.core.progress import CancelToken, Report, silent
from waxseal.core.timing.ranges import FrameRange

__all__ = ["encode_together"]

MOST_HELD = MOST_BYTES * 3 // 2  # by all encoders that work at once
MOST_STORED = 8_000_000_000  # bytes of all that is made together: the store keeps more


def encode_together(
    job: Job,
    programme: Programme,
    delivery: Delivery,
    beside: Sequence[Delivery],
    report: Report,
    token: CancelToken,
    *,
    who: EncodeOptions = HERE,
) -> int:
    """Encode what a delivery and others of the job lack, into the store, as far as that goes.

    beside: what is made after it. report: told of the delivery's own frames.
    who: see EncodeOptions.
    Returns how many segments of its own were encoded. Raises Cancelled.
    """
    with_it = list(companions(job, programme, delivery, beside))
    if not with_it:
        return 0
    works = [
        EncodeState(film_of(programme, one), form, silent if one is not delivery else report, token)
        for one, form in ((delivery, form_of(programme.timeline, delivery)), *with_it)
    ]
    store, own = SegmentStore(is_fresh=who.is_fresh), 0
    count = workers_for(*(one.form for one in works), workers=who.workers)
    pool = ThreadPoolExecutor(count, "together")
    encode = partial(encode_stretch, works=works, store=store)
    try:
        stretches, making = stretches_of(works), deque[Future[int]]()
        making.extend(pool.submit(encode, one) for one in islice(stretches, count))
        while making:
            own += making.popleft().result()
            making.extend(pool.submit(encode, one) for one in islice(stretches, 1))
    except (WaxSealError, FFmpegError, OSError, StoreFull) as error:
        if isinstance(error, Cancelled):
            raise  # (all else is met again, and said, when the delivery itself is made)
    finally:
        for work in works:
            work.give_up()
        pool.shutdown(cancel_futures=True)
    return own


def companions(
    job: Job, programme: Programme, delivery: Delivery, beside: Sequence[Delivery]
) -> Iterator[tuple[Delivery, ResolvedFormat]]:
    """Those that show the same frames and can be made now, as many as there is room for."""
    timeline = programme.timeline
    forms, stored = [form_of(timeline, delivery)], bytes_of(timeline, delivery)
    if delivery.most_bytes:
        return  # its quality is still to be found
    for one in beside:
        try:
            if one.most_bytes or stretch_of(timeline, one) != stretch_of(timeline, delivery):
                continue
            preflight(job, one, may_replace=True)
            form = form_of(timeline, one)
        except WaxSealError:
            continue  # said when its turn comes
        stored += bytes_of(timeline, one)
        if held_bytes(*forms, form) > MOST_HELD or stored > MOST_STORED:
            return
        forms.append(form)
        yield one, form


def stretches_of(works: Sequence[EncodeState]) -> Iterator[list[list[Piece]]]:
    """The pieces of all films, stretch by stretch: every film is cut where a stretch ends."""
    films = [pieces_of(one.film, one.form) for one in works]
    for firsts in zip(*films, strict=True):
        stretch = [[piece] for piece in firsts]
        while len({pieces[-1].span.last for pieces in stretch}) > 1:
            place = min(range(len(stretch)), key=lambda one: stretch[one][-1].span.last)
            stretch[place].append(next(films[place]))
        yield stretch


def encode_stretch(
    films: list[list[Piece]], works: Sequence[EncodeState], store: SegmentStore
) -> int:
    """Encode the pieces that the store lacks, where more than one film lacks some.

    Returns how many of the first film's. Raises as `encode_piece` does.
    """
    tasks: dict[str, PieceTask] = {}
    for pieces, work in zip(films, works, strict=True):
        for piece in pieces:
            work.check()
            key = piece.key
            found = store.find(key)
            if found is not None:
                work.found(piece.place, found.marks)
            elif key not in tasks:
                tasks[key] = PieceTask(piece, work, kept(store, piece))
    lacking = {id(one.work) for one in tasks.values()}
    if len(lacking) < 2:
        return 0
    frames = FrameRange(films[0][0].span.first, films[0][-1].span.last)
    encode_side_by_side(list(tasks.values()), frames)
    return sum(one.work is works[0] for one in tasks.values())


@contextmanager
def kept(store: SegmentStore, piece: Piece) -> Iterator[Sink]:
    """Where a segment is written to be kept. Raises StoreFull."""
    with store.writing(piece.key) as file:
        if isinstance(file, io.BytesIO):
            raise StoreFull
        yield SegmentWriter(file)
    if piece.is_replaced:
        store.drop(piece.key)
