"""What can be encoded of a delivery while frames still arrive: the segments that are whole."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from av.error import FFmpegError

from waxseal.core.deliver.codecs import StreamEncoder
from waxseal.core.deliver.encode.encode_state import EncodeState
from waxseal.core.deliver.encode.segments.segment_builder import segment_for
from waxseal.core.deliver.encode.segments.segment_cuts import Piece, lengths_for, pieces_of
from waxseal.core.deliver.encode.segments.segment_store import SegmentStore
from waxseal.core.deliver.format.delivery_settings import film_of, form_of, stretch_of
from waxseal.core.errors import Cancelled, WaxSealError
from waxseal.core.job.model import Delivery, DeliveryState, Job, Outcome, Sequence
from waxseal.core.plan.programme import Programme, programme
from waxseal.core.plan.recipe_range import Film
from waxseal.core.progress import CancelToken, Report
from waxseal.core.timing.ranges import FrameRange

__all__ = ["encode_ahead", "sources_awaited", "whole_pieces"]


def sources_awaited(job: Job, deliveries: Iterable[Delivery]) -> tuple[Sequence, ...]:
    """The sources that deliveries need and that are not whole yet, or are being written still.

    A frame that something would stand in for is waited for too. Raises JobError.
    """
    planned = programme(job)
    awaited: dict[str, Sequence] = {}
    for delivery in deliveries:
        for missing in planned.missing(stretch_of(planned.timeline, delivery).reel):
            awaited[missing.sequence.id] = missing.sequence
    for source in job.sequences:
        if source.id in planned.timeline.used and (source.is_arriving or source.missing):
            awaited[source.id] = source
    return tuple(awaited.values())


def encode_ahead(job: Job, delivery: Delivery, report: Report, token: CancelToken) -> Outcome:
    """Encode every segment whose frames are all there, into the store.

    Never raises for what can go wrong outside: what cannot be had now is had later.
    """
    try:
        planned = programme(job)
        form, film = form_of(planned.timeline, delivery), film_of(planned, delivery)
        if not isinstance(form.codec.coding, StreamEncoder):
            return Outcome(state=DeliveryState.WAITING)
        work, store = EncodeState(film, form, report, token), SegmentStore()
        made = 0
        for piece in whole_pieces(planned, film, delivery, pieces_of(film, form)):
            before = work.segments_kept
            segment_for(piece, work=work, store=store)
            made += work.segments_kept == before
    except Cancelled:
        return Outcome(state=DeliveryState.STOPPED)
    except (WaxSealError, FFmpegError, OSError) as error:
        return Outcome(state=DeliveryState.WAITING, reasons=(str(error),))
    kept = work.segments_kept
    return Outcome(state=DeliveryState.WAITING, segments_made=made, segments_kept=kept)


def whole_pieces(
    planned: Programme, film: Film, delivery: Delivery, pieces: Iterable[Piece]
) -> Iterator[Piece]:
    """Those that will be the same when everything is there.

    Where a piece ends before a frame that is missing, it may end so only because of that.
    """
    stretch = stretch_of(planned.timeline, delivery)
    last = film.frames.last
    for piece in pieces:
        is_full = piece.span.count >= lengths_for(piece.form)[0]
        end = piece.span.last if is_full else min(last, piece.span.last + 1)
        needed = FrameRange(
            stretch.reel_frame(piece.span.first), stretch.reel_frame(max(end, piece.span.last))
        )
        if not planned.missing(needed):
            yield piece
