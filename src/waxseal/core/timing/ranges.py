"""Frame ranges: both ends counted, and lists of frames in the trade's notation."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from typing_extensions import override

from waxseal.core.errors import WrongUse

__all__ = ["FrameRange", "gaps_between", "parse_pieces", "parse_range", "runs_of", "write_frames"]

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


def write_frames(frames: Iterable[int]) -> str:
    """A list of frames in Fileseq's notation, `1-48,60-120x2`; empty for none."""
    numbers = sorted(set(frames))
    if not numbers:
        return ""
    first, last = numbers[0], numbers[-1]
    if last - first == len(numbers) - 1:
        return str(first) if first == last else f"{first}-{last}"
    from fileseq import framesToFrameRange  # rarely needed, and long to import

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


def gaps_between(runs: tuple[tuple[int, int], ...]) -> tuple[int, ...]:
    """The numbers that lie between runs."""
    return tuple(
        number
        for (_, last), (first, _) in itertools.pairwise(runs)
        for number in range(last + 1, first)
    )
