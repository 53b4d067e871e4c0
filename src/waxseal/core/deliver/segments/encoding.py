"""One segment: its pictures made, and encoded by themselves."""

from __future__ import annotations

import io
from fractions import Fraction
from typing import Any, Protocol

import av

from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.segments.cutting import Piece
from waxseal.core.deliver.segments.file import Coded, Segment
from waxseal.core.deliver.segments.pictures import add_pictures, video_frame
from waxseal.core.deliver.supply import Supply
from waxseal.core.deliver.work import Work
from waxseal.core.errors import WrongUse
from waxseal.core.frames.movies.planes import read_planes
from waxseal.core.seal.stream import planes_digest

__all__ = ["Held", "encode_piece"]


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
