"""Segments: their pictures made, and encoded by themselves."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import AbstractContextManager, ExitStack, nullcontext
from dataclasses import dataclass
from typing import Any, Protocol, Self

from waxseal.core.deliver.codecs import StreamEncoder
from waxseal.core.deliver.encode.encode_state import EncodeState
from waxseal.core.deliver.encode.prefetch import MadePicture, PictureOrder, Prefetch
from waxseal.core.deliver.encode.segments.segment_cuts import Piece
from waxseal.core.deliver.encode.segments.segment_file import EncodedPicture, Marks, Segment
from waxseal.core.deliver.encode.segments.segment_pictures import StreamOfPictures
from waxseal.core.deliver.encode.segments.still_segments import FilesOfPictures
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.timing.ranges import FrameRange

__all__ = ["PieceTask", "SegmentInMemory", "Sink", "encode_piece", "encode_side_by_side"]


class Sink(Protocol):
    def add(self, coded: EncodedPicture) -> None: ...

    def finish(self, marks: Marks, head: bytes, whole: bytes) -> None: ...


class Coder(Protocol):
    """Codes pictures, one after the other.

    head, whole: see Segment; there once all are coded.
    """

    @property
    def head(self) -> bytes: ...

    @property
    def whole(self) -> bytes: ...

    def code(self, made: MadePicture, place: int) -> Iterator[EncodedPicture]: ...

    def rest(self) -> Iterator[EncodedPicture]: ...


class SegmentInMemory:
    """A segment in memory, for a look at it."""

    def __init__(self) -> None:
        self._coded: list[EncodedPicture] = []
        self.segment = Segment((), (), b"")

    def add(self, coded: EncodedPicture) -> None:
        self._coded.append(coded)

    def finish(self, marks: Marks, head: bytes, _whole: bytes) -> None:
        self.segment = Segment(self._coded, marks, head)


def coder_for(form: ResolvedFormat) -> AbstractContextManager[Coder]:
    is_stream = isinstance(form.codec.coding, StreamEncoder)
    return StreamOfPictures(form) if is_stream else FilesOfPictures(form)


@dataclass(frozen=True, slots=True)
class PieceTask:
    """A piece to be encoded. work: that it is of. sink: entered with its first frame."""

    piece: Piece
    work: EncodeState
    sink: AbstractContextManager[Sink]

    @property
    def wanted(self) -> PictureOrder:
        return PictureOrder(self.piece, self.piece.form.target, self.work.comparison.mark)


def encode_piece(piece: Piece, work: EncodeState, sink: Sink) -> None:
    """Encode frames by themselves. Raises as `encode` does, and StoreFull."""
    encode_side_by_side([PieceTask(piece, work, nullcontext(sink))], piece.span)


def encode_side_by_side(tasks: Sequence[PieceTask], frames: FrameRange) -> None:
    """Encode pieces of several films over some frames: no file is decoded twice.

    Raises as `encode_piece` does. Pieces that are whole by then are kept.
    """
    supply = Prefetch([one.wanted for one in tasks])
    try:
        with ExitStack() as stack:
            coding: dict[int, PieceEncoder] = {}
            for frame in frames:
                for place, made in supply.next_made(frame).items():
                    task = tasks[place]
                    if frame == task.piece.span.first:
                        coding[place] = stack.enter_context(PieceEncoder(task))
                    coding[place].add(made)
                    if frame == task.piece.span.last:
                        coding.pop(place).finish()
    finally:
        supply.close()


class PieceEncoder:
    """One piece while it is encoded."""

    def __init__(self, task: PieceTask) -> None:
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

    def add(self, made: MadePicture) -> None:
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

    def _keep(self, coded: Iterator[EncodedPicture]) -> None:
        work = self._task.work
        work.check()
        for one in coded:
            self._sink.add(one)
            work.coded(self._task.piece.place)
            work.check()
