"""One segment: its pictures made, and encoded by themselves."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import AbstractContextManager
from typing import Protocol

from waxseal.core.deliver.codecs import StreamEncoder
from waxseal.core.deliver.form import Form
from waxseal.core.deliver.segments.cutting import Piece
from waxseal.core.deliver.segments.file import Coded, Marks, Segment
from waxseal.core.deliver.segments.pictures import StreamOfPictures
from waxseal.core.deliver.segments.stills import FilesOfPictures
from waxseal.core.deliver.supply import Made, Supply
from waxseal.core.deliver.work import Work

__all__ = ["Held", "encode_piece"]


class Sink(Protocol):
    def add(self, coded: Coded) -> None: ...

    def finish(self, marks: Marks, head: bytes, whole: bytes) -> None: ...


class Coder(Protocol):
    """Codes pictures, one after the other.

    head, whole: see Segment; there once all are coded.
    """

    @property
    def head(self) -> bytes: ...

    @property
    def whole(self) -> bytes: ...

    def code(self, made: Made, place: int) -> Iterator[Coded]: ...

    def rest(self) -> Iterator[Coded]: ...


class Held:
    """A segment in memory, for a look at it."""

    def __init__(self) -> None:
        self._coded: list[Coded] = []
        self.segment = Segment((), (), b"")

    def add(self, coded: Coded) -> None:
        self._coded.append(coded)

    def finish(self, marks: Marks, head: bytes, _whole: bytes) -> None:
        self.segment = Segment(self._coded, marks, head)


def coder_for(form: Form) -> AbstractContextManager[Coder]:
    is_stream = isinstance(form.codec.coding, StreamEncoder)
    return StreamOfPictures(form) if is_stream else FilesOfPictures(form)


def encode_piece(piece: Piece, work: Work, sink: Sink) -> None:
    """Encode frames by themselves. Raises as `encode` does, and StoreFull."""
    supply = Supply(piece, piece.form.target, work.kernels, work.comparison.mark)
    try:
        with coder_for(piece.form) as coder:
            marks = []
            for place, reel_frame in enumerate(piece.span):
                work.check()
                made = supply.next_made(reel_frame)
                for coded in coder.code(made, place):
                    sink.add(coded)
                marks.append(made.mark)
                work.made(piece.place + place, made.mark)
            for coded in coder.rest():
                sink.add(coded)
            sink.finish(tuple(marks), coder.head, coder.whole)
    finally:
        supply.close()
