"""Where the joins of a reel go, as far as there is room for them. Counts of frames only."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from collections.abc import Sequence as Ordered
from dataclasses import dataclass
from fractions import Fraction

from waxseal.core.job.joins import Join, JoinKind
from waxseal.core.text_format import counted

__all__ = ["JoinSpan", "joins_of", "joins_words"]


@dataclass(frozen=True, slots=True)
class JoinSpan:
    """Where a join that is no cut goes, as far as there is room for it.

    before, after: frames that it takes of the shot before it, and of the shot itself. Those of
    a dissolve are the same reel frames.
    """

    join: Join
    before: int
    after: int

    @property
    def is_dissolve(self) -> bool:
        return self.join.kind is JoinKind.DISSOLVE

    @property
    def length(self) -> int:
        """In reel frames."""
        return self.after if self.is_dissolve else self.before + self.after

    @property
    def words(self) -> str:
        """For example `dissolve 12`."""
        return f"{self.join.kind} {self.length}"

    def share(self, at: int) -> Fraction:
        """How far a dissolve has come at its frame `at`, from 0: every frame shows both shots."""
        return Fraction(at + 1, self.after + 1)

    def veiled(self, at: int) -> Fraction:
        """How much of a picture a dip covers, `at` frames from the cut; those before it are < 0.

        As fades do: the last frame before the cut and the first after it are all colour.
        """
        if at < 0:
            return Fraction(at + self.before + 1, self.before)
        return 1 - Fraction(at, self.after)


def joins_of(counts: Ordered[int], joins: Ordered[Join]) -> tuple[JoinSpan | None, ...]:
    """The join of each shot with the one before, as far as both have room; None for a cut.

    counts: the shots' reel frames. A shot keeps one for itself. Where the joins at its ends
    want more than the others, each gets its share; so a join depends on the two shots and
    their other joins, on nothing else.
    """
    if all(join.kind is JoinKind.CUT for join in joins):
        return (None,) * len(joins)
    wanted = [(0, 0), *(frames_wanted(join) for join in joins[1:]), (0, 0)]
    room = []
    for number, count in enumerate(counts):
        head, tail = wanted[number][1], wanted[number + 1][0]
        if head + tail > count - 1:
            head = (count - 1) * head // (head + tail)
            tail = min(tail, count - 1 - head)
        room.append((head, tail))
    spans: list[JoinSpan | None] = [None]
    for number, join in enumerate(joins[1:], 1):
        before, after = room[number - 1][1], room[number][0]
        least = min(before, after)  # both sides of a join are as long, but for an odd frame
        is_odd = join.kind is JoinKind.DIP and join.length % 2
        before, after = least, min(after, least + is_odd)
        spans.append(JoinSpan(join, before, after) if before or after else None)
    return tuple(spans)


def frames_wanted(join: Join) -> tuple[int, int]:
    """How many frames a join asks for: of the shot before, and of its own shot."""
    if join.kind is JoinKind.CUT:
        return 0, 0
    half = join.length // 2
    return (half, join.length - half) if join.kind is JoinKind.DIP else (join.length, join.length)


def joins_words(spans: Iterable[JoinSpan]) -> Iterator[str]:
    """How many dissolves and dips there are, and how many frames they take."""
    there = list(spans)
    for kind in (JoinKind.DISSOLVE, JoinKind.DIP):
        lengths = [span.length for span in there if span.join.kind is kind]
        if lengths:
            yield f"{counted(len(lengths), kind.value)} over {counted(sum(lengths), 'frame')}"
