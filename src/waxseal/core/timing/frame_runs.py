"""The frames of a shot as runs: forwards, backwards, held."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

__all__ = ["Run", "runs_of"]


@dataclass(frozen=True, slots=True)
class Run:
    """Frames of a source that are shown one after the other.

    index: the place of the first of them in the shot's order. frame: its number. count: how many
    frames. step: from each number to the next: 1, -1, or 0 for a frame that is held. each: how
    many times each frame is shown.
    """

    index: int
    frame: int
    count: int
    step: int
    each: int = 1

    @property
    def length(self) -> int:
        """How many entries of the order it has."""
        return self.count * self.each

    def shows(self, frame: int) -> bool:
        return self.lowest <= frame < self.lowest + self.count

    @property
    def lowest(self) -> int:
        """The lowest number of its frames."""
        return self.frame if self.step >= 0 else self.frame - self.count + 1


def runs_of(frames: Sequence[int]) -> Iterator[Run]:
    """The runs of a shot's frames, in order. Frames that are all held as often are one run."""
    if isinstance(frames, range):
        yield Run(0, frames[0], len(frames), frames.step)
        return
    each = held_alike(frames)
    shown = frames[::each]
    at = 0
    while at < len(shown):
        step = shown[at + 1] - shown[at] if at + 1 < len(shown) else 1
        if step == 0:  # the first showing of a held frame is its own
            yield Run(at * each, shown[at], 1, 1, each)
            at += 1
            stop = at
            while stop < len(shown) and shown[stop] == shown[at - 1]:
                stop += 1
            yield Run(at * each, shown[at - 1], stop - at, 0, each)
            at = stop
            continue
        step = step if abs(step) == 1 else 1
        stop = at + 1
        while stop < len(shown) and shown[stop] - shown[stop - 1] == step:
            stop += 1
        # A frame that is held next, or where the order turns, is the end of this run.
        yield Run(at * each, shown[at], stop - at, step, each)
        at = stop
        if at < len(shown) and shown[at] == shown[at - 1]:
            stop = at
            while stop < len(shown) and shown[stop] == shown[at - 1]:
                stop += 1
            yield Run(at * each, shown[at - 1], stop - at, 0, each)
            at = stop


def held_alike(frames: Sequence[int]) -> int:
    """How many times each frame is shown, if that is the same for all of them; else 1."""
    if len(frames) < 2 or frames[0] != frames[1]:
        return 1
    each = next((n for n, one in enumerate(frames) if one != frames[0]), len(frames))
    if each == len(frames) or len(frames) % each:
        return 1
    blocks = range(0, len(frames), each)
    is_alike = all(len(set(frames[at : at + each])) == 1 for at in blocks)
    is_apart = all(frames[at] != frames[at - 1] for at in blocks if at)
    return each if is_alike and is_apart else 1
