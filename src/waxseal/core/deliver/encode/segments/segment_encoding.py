"""Segments: their pictures made, and encoded by themselves."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import AbstractContextManager, ExitStack, nullcontext
from dataclasses import dataclass
from typing import Any, Protocol, Self

from waxseal.core.deliver.codecs import StreamEncoder
from waxseal.core.deliver.encode.encode_state import Work
from waxseal.core.deliver.encode.prefetch import Made, Supply, Wanted
from waxseal.core.deliver.encode.segments.segment_cuts import Piece
from waxseal.core.deliver.encode.segments.segment_file import Coded, Marks, Segment
from waxseal.core.deliver.encode.segments.segment_pictures import StreamOfPictures
from waxseal.core.deliver.encode.segments.still_segments import FilesOfPictures
from waxseal.core.deliver.format.resolved_format import Form
from waxseal.core.timing.ranges import FrameRange

__all__ = ["Held", "Sink", "Task", "encode_piece", "encode_side_by_side"]


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


@dataclass(frozen=True, slots=True)
class Task:
    """A piece to be encoded. work: that it is of. sink: entered with its first frame."""

    piece: Piece
    work: Work
    sink: AbstractContextManager[Sink]

    @property
    def wanted(self) -> Wanted:
        return Wanted(self.piece, self.piece.form.target, self.work.comparison.mark)


def encode_piece(piece: Piece, work: Work, sink: Sink) -> None:
    """Encode frames by themselves. Raises as `encode` does, and StoreFull."""
    encode_side_by_side([Task(piece, work, nullcontext(sink))], piece.span)


def encode_side_by_side(tasks: Sequence[Task], frames: FrameRange) -> None:
    """Encode pieces of several films over some frames: no file is decoded twice.

    Raises as `encode_piece` does. Pieces that are whole by then are kept.
    """
    supply = Supply([one.wanted for one in tasks])
    try:
        with ExitStack() as stack:
            coding: dict[int, Coding] = {}
            for frame in frames:
                for place, made in supply.next_made(frame).items():
                    task = tasks[place]
                    if frame == task.piece.span.first:
                        coding[place] = stack.enter_context(Coding(task))
                    coding[place].add(made)
                    if frame == task.piece.span.last:
                        coding.pop(place).finish()
    finally:
        supply.close()


class Coding:
    """One piece while it is encoded."""

    def __init__(self, task: Task) -> None:
        self._task = task
        self._marks: list[Any] = []
        self._open = ExitStack()

    def __enter__(self) -> Self:
        try:
            self._sink = self._open.enter_context(self._task.sink)
            self._coder = self._open.enter_context(coder_for(self._task.piece.form))
        except BaseException:
            self._open.close()
            raise
        return self

    def __exit__(self, *error: object) -> None:
        self._open.__exit__(*error)  # type: ignore[arg-type]

    def add(self, made: Made) -> None:
        """The next picture."""
        place, work = len(self._marks), self._task.work
        self._keep(self._coder.code(made, place))
        self._marks.append(made.mark)
        work.made(self._task.piece.place + place, made.mark)

    def finish(self) -> None:
        """After the last."""
        self._keep(self._coder.rest())
        self._sink.finish(tuple(self._marks), self._coder.head, self._coder.whole)
        self._open.close()

    def _keep(self, coded: Iterator[Coded]) -> None:
        work = self._task.work
        work.check()
        for one in coded:
            self._sink.add(one)
            work.coded(self._task.piece.place)
            work.check()
