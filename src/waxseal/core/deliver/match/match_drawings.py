"""What the rows of the match table draw: the values of bars and rectangles, none of the drawing.

All places are shares of a side, 0..1, so that they fit any width.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice

from waxseal.core.deliver.format.delivery_settings import bytes_of
from waxseal.core.deliver.match.match_row import Matched
from waxseal.core.deliver.match.placed_sizes import Placed, sizes_of
from waxseal.core.job.frame_states import FrameState
from waxseal.core.plan.timeline import Part

__all__ = [
    "Blocks",
    "Drawings",
    "FrameBlock",
    "Level",
    "Tick",
    "drawings_of",
]

MOST_BLOCKS = 60  # shots that are drawn apart: more would be thinner than a pixel
MOST_TICKS = 100  # of a shot: the others would lie on these


@dataclass(frozen=True, slots=True)
class Tick:
    """Frames that follow each other and are not there themselves.

    state: why they cannot be used; None where something stands in for them.
    """

    first: float
    last: float
    state: FrameState | None


@dataclass(frozen=True, slots=True)
class FrameBlock:
    """The frames of one shot, or of all where they are many.

    repeats: whether frames come more than once.

    slant: the share of the block in which it comes out of the one before.
    """

    first: float
    last: float
    repeats: bool = False
    slant: float = 0.0
    ticks: tuple[Tick, ...] = ()


Blocks = tuple[FrameBlock, ...]


@dataclass(frozen=True, slots=True)
class Level:
    """How large a file gets against its limit, in bytes; most: 0 for no limit."""

    about: int
    most: int


@dataclass(frozen=True, slots=True)
class Drawings:
    """Of one delivery: frames of the sources, of the reel, of the file; the same of sizes."""

    frames: tuple[Blocks, Blocks, Blocks]
    sizes: tuple[Placed, Placed, Placed] | None
    level: Level


def drawings_of(m: Matched) -> Drawings:
    """Raises JobError for settings that make no file."""
    return Drawings(
        (source_blocks(m), reel_blocks(m), file_blocks(m)),
        sizes_of(m),
        Level(bytes_of(m.timeline, m.delivery), m.expected.most_bytes),
    )


def source_blocks(m: Matched) -> Blocks:
    """The frames that are used of each shot's source, side by side."""
    counts = [part.laid.range.count for part in m.parts]
    whole, at, blocks = sum(counts), 0, []
    for part, count in zip(m.parts, counts, strict=True):
        blocks.append(FrameBlock(at / whole, (at + count) / whole, ticks=lost(part, at, whole)))
        at += count
    return merged(blocks)


def lost(part: Part, at: int, whole: int) -> tuple[Tick, ...]:
    """Where frames cannot be used. at: of the shot's first frame, of so many frames."""
    sequence, used = part.sequence, part.laid.range
    runs = (
        (first, last, state)
        for state, frames in sequence.unusable.items()
        for first, last in frames.within(used).runs
    )
    return tuple(
        Tick((at + first - used.first) / whole, (at + last + 1 - used.first) / whole, state)
        for first, last, state in islice(runs, MOST_TICKS)
    )


def reel_blocks(m: Matched) -> Blocks:
    """What the delivery shows of the reel, shot by shot."""
    shown = m.stretch.reel
    stood_in = {one.sequence.id: one.frames for one in m.planned.missing(shown) if one.is_stood_in}

    def share(frame: int) -> float:
        return (frame - shown.first) / shown.count

    blocks = []
    for part, join in zip(m.timeline.shots, m.timeline.joins, strict=True):
        first, last = max(part.first, shown.first), min(part.last, shown.last)
        if last < first:
            continue
        slant = join.after / part.count if join is not None and join.overlaps else 0.0
        frames = sorted(stood_in.get(part.sequence.id, frozenset()))[:MOST_TICKS]
        places = (part.where(frame) for frame in frames)
        ticks = tuple(
            Tick(share(at), share(at + 1), None)
            for at in places
            if at is not None and first <= at <= last
        )
        blocks.append(FrameBlock(share(first), share(last + 1), repeats(part), slant, ticks))
    return merged(blocks)


def merged(blocks: Sequence[FrameBlock]) -> Blocks:
    """The blocks, or one for all where they are too many; what is not there stays marked."""
    if len(blocks) <= MOST_BLOCKS:
        return tuple(blocks)
    every = islice((tick for block in blocks for tick in block.ticks), MOST_TICKS)
    return (FrameBlock(0.0, 1.0, ticks=tuple(every)),)


def repeats(part: Part) -> bool:
    return len(part.frames) < part.count


def file_blocks(m: Matched) -> Blocks:
    return (FrameBlock(0.0, 1.0, repeats=m.expected.frames > m.stretch.reel.count),)
