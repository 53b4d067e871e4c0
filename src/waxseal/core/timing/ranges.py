"""Frame ranges: both ends counted, and lists of frames in the trade's notation."""

from __future__ import annotations

import itertools
import re
from bisect import bisect_right
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import overload

from fileseq import framesToFrameRange
from typing_extensions import override

from waxseal.core.errors import WrongUse

__all__ = [
    "FrameRange",
    "FrameRuns",
    "gaps_between",
    "parse_pieces",
    "parse_range",
    "runs_of",
    "write_frames",
]

LONGEST = 10_000_000  # frames: four days at 25; more is a slip of the keyboard


@dataclass(frozen=True, slots=True, order=True)
class FrameRange:
    """Frames from first to last, both included: 0–200 is 201 frames."""

    first: int
    last: int

    def __post_init__(self) -> None:
        if self.last < self.first:
            raise WrongUse(f"The range {self.first} to {self.last} runs backwards: swap its ends.")
        if self.last - self.first >= LONGEST:
            raise WrongUse(
                f"The range {self.first} to {self.last} is too long: "
                "a reel has at most 10 000 000 frames."
            )

    @property
    def count(self) -> int:
        return self.last - self.first + 1

    def __iter__(self) -> Iterator[int]:
        return iter(range(self.first, self.last + 1))

    def __contains__(self, frame: int) -> bool:
        return self.first <= frame <= self.last

    @override
    def __str__(self) -> str:
        return str(self.first) if self.first == self.last else f"{self.first}-{self.last}"


def parse_range(text: str) -> FrameRange:
    """Read `A-B` or `A`; either may be negative. Raises WrongUse."""
    found = re.fullmatch(r"\s*(-?\d{1,9})(?:\s*-\s*(-?\d{1,9}))?\s*", text)
    if not found:
        raise WrongUse(f"“{text}” is not a frame range: write it as 1-48.")
    first = int(found[1])
    return FrameRange(first, int(found[2]) if found[2] is not None else first)


def parse_pieces(text: str) -> tuple[tuple[int, int], ...]:
    """Read `61-64,70` as first and last of each piece; empty text is no piece. Raises WrongUse."""
    ranges = [parse_range(piece) for piece in text.split(",") if piece.strip()]
    return tuple((one.first, one.last) for one in ranges)


class FrameRuns(Sequence[int]):
    """Frames in order, kept as unbroken runs: what it costs follows the runs, not the numbers."""

    __slots__ = ("_count", "_firsts", "runs")

    def __init__(self, runs: Iterable[tuple[int, int]] = ()) -> None:
        """runs: first and last of each, both included, in order and apart."""
        self.runs = tuple(runs)
        self._firsts = [first for first, _ in self.runs]
        self._count = sum(last - first + 1 for first, last in self.runs)

    @override
    def __len__(self) -> int:
        return self._count

    @override
    def __iter__(self) -> Iterator[int]:
        return (frame for first, last in self.runs for frame in range(first, last + 1))

    @override
    def __contains__(self, frame: object) -> bool:
        if not isinstance(frame, int):
            return False
        at = bisect_right(self._firsts, frame) - 1
        return at >= 0 and frame <= self.runs[at][1]

    @overload
    def __getitem__(self, place: int) -> int: ...
    @overload
    def __getitem__(self, place: slice) -> tuple[int, ...]: ...
    @override
    def __getitem__(self, place: int | slice) -> int | tuple[int, ...]:
        if isinstance(place, slice):
            return tuple(self[one] for one in range(*place.indices(self._count)))
        left = place if place >= 0 else self._count + place
        for first, last in self.runs:
            if 0 <= left <= last - first:
                return first + left
            left -= last - first + 1
        raise IndexError(place)

    @override
    def __eq__(self, other: object) -> bool:
        if isinstance(other, FrameRuns):
            return self.runs == other.runs
        return isinstance(other, tuple) and len(self) == len(other) and tuple(self) == other

    @override
    def __hash__(self) -> int:
        return hash(self.runs)

    @override
    def __repr__(self) -> str:
        return f"FrameRuns({self.runs})"

    def within(self, span: FrameRange) -> FrameRuns:
        """Those of a range."""
        cut = ((max(first, span.first), min(last, span.last)) for first, last in self.runs)
        return FrameRuns((first, last) for first, last in cut if first <= last)

    def outside_in(self, span: FrameRange) -> FrameRuns:
        """The frames of a range that are not among these."""
        gone, begin = [], span.first
        for first, last in self.within(span).runs:
            if first > begin:
                gone.append((begin, first - 1))
            begin = last + 1
        if begin <= span.last:
            gone.append((begin, span.last))
        return FrameRuns(gone)

    def joined(self, frames: Iterable[int]) -> FrameRuns:
        """These and others."""
        every = sorted((*self.runs, *((one, one) for one in frames)))
        merged: list[tuple[int, int]] = []
        for first, last in every:
            if merged and first <= merged[-1][1] + 1:
                merged[-1] = (merged[-1][0], max(merged[-1][1], last))
            else:
                merged.append((first, last))
        return FrameRuns(merged)


MOST_NUMBERS = 100_000  # that are looked through for a step from one to the next


def write_frames(frames: Iterable[int]) -> str:
    """A list of frames in Fileseq's notation, `1-48,60-120x2`; empty for none."""
    if isinstance(frames, FrameRuns) and len(frames) > MOST_NUMBERS:
        runs = frames.runs
        return ",".join(f"{one}" if one == last else f"{one}-{last}" for one, last in runs)
    numbers = sorted(set(frames))
    if not numbers:
        return ""
    first, last = numbers[0], numbers[-1]
    if last - first == len(numbers) - 1:
        return str(first) if first == last else f"{first}-{last}"
    return str(framesToFrameRange(numbers, sort=False, compress=True))


def runs_of(numbers: Iterable[int]) -> tuple[tuple[int, int], ...]:
    """Sorted numbers as unbroken runs (first, last), both included."""
    runs: list[tuple[int, int]] = []
    start = previous = None
    for number in numbers:
        if start is None or previous is None:
            start = number
        elif number != previous + 1:
            runs.append((start, previous))
            start = number
        previous = number
    if start is not None and previous is not None:
        runs.append((start, previous))
    return tuple(runs)


def gaps_between(runs: tuple[tuple[int, int], ...]) -> FrameRuns:
    """The numbers that lie between runs."""
    return FrameRuns((last + 1, first - 1) for (_, last), (first, _) in itertools.pairwise(runs))
