"""Which frame of a source is shown for the one that is asked for."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable
from functools import cached_property

from waxseal.core.job.model import Order, Sequence, StandIn

__all__ = ["Gone", "StandIns"]

Gone = frozenset[tuple[str, int]]  # ids of sources and numbers of their frames


class StandIns:
    """Stand-ins for frames that are not there or cannot be read.

    gone: frames that turned out unreadable on top of those known.
    """

    def __init__(self, sequences: Iterable[Sequence], gone: Gone = frozenset()) -> None:
        self.gone = gone
        self._sources = {one.id: Frames(one, gone) for one in sequences}

    def without(self, gone: Iterable[tuple[str, int]]) -> StandIns:
        """The same once more frames turned out unreadable."""
        sequences = [one.sequence for one in self._sources.values()]
        return StandIns(sequences, self.gone | frozenset(gone))

    def shown(self, sequence: Sequence, frame: int) -> int | None:
        """The number that is shown for a frame; None for nothing (black, or a refused delivery)."""
        frames = self._sources[sequence.id]
        return frame if frame in frames.readable else frames.stand_in(frame)

    def missing(self, sequence: Sequence, frames: set[int]) -> set[int]:
        """Those frames of a source for which something else has to stand in."""
        return frames - self._sources[sequence.id].readable

    def can_stand_in(self, sequence: Sequence) -> bool:
        """Whether a missing frame of a source may be delivered as something else."""
        chosen = sequence.reading.stand_in.value
        if chosen in (StandIn.STOP, StandIn.BLACK):
            return chosen is StandIn.BLACK
        return bool(self._sources[sequence.id].readable)


class Frames:
    """The frames of one source that are there and whole."""

    def __init__(self, sequence: Sequence, gone: Gone) -> None:
        self.sequence = sequence
        self._gone = frozenset(frame for source, frame in gone if source == sequence.id)

    @cached_property
    def readable(self) -> frozenset[int]:
        runs = self.sequence.files.runs
        every = frozenset(frame for first, last in runs for frame in range(first, last + 1))
        return every - self.sequence.unreadable - self._gone

    @cached_property
    def _in_order(self) -> tuple[int, ...]:
        return tuple(sorted(self.readable))

    def stand_in(self, frame: int) -> int | None:
        there, reading = self._in_order, self.sequence.reading
        chosen = reading.stand_in.value
        if chosen in (StandIn.STOP, StandIn.BLACK) or not there:
            return None
        at = bisect_right(there, frame)
        before = there[at - 1] if at else None
        after = there[at] if at < len(there) else None
        if before is None or after is None:
            return after if before is None else before
        if chosen is StandIn.HOLD:
            return after if reading.order.value is Order.REVERSED else before
        return after if after - frame < frame - before else before
