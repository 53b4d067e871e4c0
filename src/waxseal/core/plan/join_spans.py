"""Where the joins of a reel go, as far as there is room for them. Counts of frames only."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from collections.abc import Sequence as Ordered
from dataclasses import dataclass
from fractions import Fraction

from waxseal.core.job.joins import Join
from waxseal.core.plan.join_styles import STYLES, JoinStyle
from waxseal.core.text_format import counted

__all__ = ["JoinSpan", "joins_of", "joins_words"]


@dataclass(frozen=True, slots=True)
class JoinSpan:
    """Where a join that is no cut goes, as far as there is room for it.

    before, after: frames that it takes of the shot before it, and of the shot itself; the same
    reel frames where it overlaps.
    """

    join: Join
    before: int
    after: int

    @property
    def style(self) -> JoinStyle:
        return STYLES[self.join.kind]

    @property
    def overlaps(self) -> bool:
        """Whether it shows both shots in the same frames of the reel."""
        return self.style.overlaps

    @property
    def length(self) -> int:
        """In reel frames."""
        return self.style.length(self.before, self.after)

    @property
    def words(self) -> str:
        """For example `dissolve 12`."""
        return f"{self.join.kind} {self.length}"

    def share(self, at: int) -> Fraction:
        """How far it has come, `at` frames from the cut; those before it are below 0."""
        return self.style.share(at, self.before, self.after)


def joins_of(counts: Ordered[int], joins: Ordered[Join]) -> tuple[JoinSpan | None, ...]:
    """The join of each shot with the one before, as far as both have room; None for a cut.

    counts: the shots' reel frames. A shot keeps one for itself. Where the joins at its ends
    want more than the others, each gets its share; so a join depends on the two shots and
    their other joins, on nothing else.
    """
    wanted = [(0, 0), *(STYLES[join.kind].frames(join.length) for join in joins[1:]), (0, 0)]
    if not any(before or after for before, after in wanted):
        return (None,) * len(joins)
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
        if before or after:
            before, after = STYLES[join.kind].within(before, after, join)
        spans.append(JoinSpan(join, before, after) if before or after else None)
    return tuple(spans)


def joins_words(spans: Iterable[JoinSpan]) -> Iterator[str]:
    """How many there are of each kind, and how many frames they take."""
    there = list(spans)
    for kind in STYLES:
        lengths = [span.length for span in there if span.join.kind is kind]
        if lengths:
            yield f"{counted(len(lengths), kind.value)} over {counted(sum(lengths), 'frame')}"
