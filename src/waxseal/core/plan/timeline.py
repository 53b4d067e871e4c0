"""The timeline: what is on the reel from which frame to which. Intervals and exact rates only.

Reel frames count from 1 here as on the screen. Shots follow one another and
overlap where they dissolve; overlays go where they were laid.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator
from collections.abc import Sequence as Ordered
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property, lru_cache

from waxseal.core.errors import JobError
from waxseal.core.job.model import (
    Conversion,
    Job,
    Order,
    Overlay,
    Sequence,
    Shot,
    Size,
    Sound,
    used_by,
)
from waxseal.core.plan.join_spans import JoinSpan, joins_of
from waxseal.core.plan.join_styles import STYLES
from waxseal.core.timing.ranges import FrameRange
from waxseal.core.timing.rate_matching import (
    are_near,
    index_at,
    length_on_reel,
    matched_rate,
    share_at,
)
from waxseal.core.timing.timecode import Counting, can_drop

__all__ = [
    "FrameParts",
    "FrameRequest",
    "Part",
    "Timeline",
    "length_of",
    "order_of",
    "timeline_of",
]


@dataclass(frozen=True, slots=True)
class FrameRequest:
    """Which frame of its source a part asks for at one frame of the reel.

    at: reel frames from the part's head, from 0.
    following, share: the frame after it, and how far the reel is on the way there;
        None and 0 where frames are shown as they are.
    """

    frame: int
    at: int
    following: int | None = None
    share: Fraction = Fraction(0)


@dataclass(frozen=True, slots=True)
class Part:
    """A shot or an overlay in its place on the reel.

    first, last: reel frames, both included. frames: of its source, in the order they
    are shown. speed: source frames a second. rate: reel frames a second.
    """

    laid: Shot | Overlay
    sequence: Sequence
    first: int
    last: int
    frames: Ordered[int]
    speed: Fraction
    rate: Fraction

    @property
    def span(self) -> FrameRange:
        return FrameRange(self.first, self.last)

    @property
    def count(self) -> int:
        return self.last - self.first + 1

    @property
    def is_plain(self) -> bool:
        """Whether each frame is shown once, one after the other, at the rate that it is read at."""
        return (
            type(self.frames) is range
            and self.frames.step == 1
            and self.speed == self.rate == self.sequence.reading.rate.value
            and self.laid.timing.speed == 1
        )

    @property
    def is_backwards(self) -> bool:
        """Whether the source's last frame is shown first."""
        is_reversed = self.sequence.reading.order.value is Order.REVERSED
        return self.laid.timing.backwards != is_reversed

    def ask(self, reel_frame: int) -> FrameRequest:
        """What it asks for at a reel frame; beyond its source's end, the last frame of it."""
        at = reel_frame - self.first
        index = index_at(at, len(self.frames), self.speed, self.rate)
        if self.laid.timing.conversion is Conversion.NEAREST:
            return FrameRequest(self.frames[index], at)
        index = min(at * self.speed // self.rate, index)  # what is mixed begins at its frame
        frame = self.frames[index]
        if index + 1 >= len(self.frames):
            return FrameRequest(frame, at)
        share = share_at(at, index, self.speed, self.rate)
        return FrameRequest(frame, at, self.frames[index + 1] if share else None, share)

    def frames_asked(self, first: int, last: int) -> set[int]:
        """The frames of its source that reel frames first..last show, without what follows them."""
        first, last = max(first, self.first), min(last, self.last)
        if last < first:
            return set()
        if self.speed == self.rate:  # mostly, and reels have thousands of parts
            return set(self.frames[first - self.first : last - self.first + 1]) or {self.frames[-1]}
        low, high = (
            index_at(n - self.first, len(self.frames), self.speed, self.rate) for n in (first, last)
        )
        is_shown = self.laid.timing.conversion is Conversion.NEAREST
        if self.speed <= self.rate and (is_shown or not are_near(self.speed, self.rate)):
            return set(self.frames[low : high + 1])  # none is passed over
        return {self.ask(n).frame for n in range(first, last + 1)}

    def frames_following(self, first: int, last: int) -> set[int]:
        """The frames of its source that are mixed into others there."""
        if self.laid.timing.conversion is Conversion.NEAREST or self.speed == self.rate:
            return set()
        first, last = max(first, self.first), min(last, self.last)
        asked = (self.ask(n).following for n in range(first, last + 1))
        return {frame for frame in asked if frame is not None}

    def span_of(self, frames: FrameRange) -> FrameRange | None:
        """From the first to the last reel frame that shows one of a range of its source."""
        shown = [n for n in self.span if self.ask(n).frame in frames]
        return FrameRange(shown[0], shown[-1]) if shown else None

    def where(self, frame: int) -> int | None:
        """The first reel frame that shows a frame of its source; None where none does."""
        for index, number in enumerate(self.frames):
            if number == frame:
                at = -(-index * self.rate // self.speed)
                # Of near rates a frame may be on the screen one earlier than it begins.
                for near in (at - 1, at) if are_near(self.speed, self.rate) else (at,):
                    is_inside = 0 <= near < self.count
                    if is_inside and self.ask(self.first + near).frame == frame:
                        return self.first + near
        return None


@dataclass(frozen=True, slots=True)
class FrameParts:
    """The parts that make one frame: a shot, or two that dissolve, and overlays from the lowest.

    join: that the frame is in. share: how far the reel is from the first of two shots to the
    second, or how much of the one a dip covers.
    """

    shots: tuple[Part, ...]
    overlays: tuple[Part, ...] = ()
    share: Fraction = Fraction(0)
    join: JoinSpan | None = None


@dataclass(frozen=True)
class Timeline:
    """The reel in time. shots: in their order, each beginning after the one before begins.

    joins: of each shot with the one before; None for a cut.
    """

    job: Job
    size: Size
    rate: Fraction
    shots: tuple[Part, ...]
    joins: tuple[JoinSpan | None, ...]
    overlays: tuple[Part, ...]

    @cached_property
    def length(self) -> int:
        return max(part.last for part in self.shots)

    @property
    def counting(self) -> Counting:
        """How timecode counts: as the reel says, where its rate has drop-frame."""
        return self.job.reel.counting if can_drop(self.rate) else Counting.NON_DROP

    @cached_property
    def starts(self) -> tuple[int, ...]:
        """The first reel frame of each shot."""
        return tuple(part.first for part in self.shots)

    @cached_property
    def sources(self) -> dict[str, Sequence]:
        return {source.id: source for source in self.job.sequences}

    @cached_property
    def used(self) -> frozenset[str]:
        """The sources that pictures of the reel depend on."""
        laid = {part.laid.source for part in (*self.shots, *self.overlays)}
        return frozenset(laid | set(used_by(self.job)))

    @property
    def sounds(self) -> tuple[Sound, ...]:
        """The sounds on the reel, each once."""
        used = dict.fromkeys(laid.source for laid in self.job.reel.sounds)
        return tuple(self.job.sound(source) for source in used)

    @property
    def used_sequences(self) -> Iterator[Sequence]:
        """The same, in the order of the in-tray."""
        used = self.used
        return (source for source in self.job.sequences if source.id in used)

    @property
    def frames(self) -> FrameRange:
        """The marked range, or the whole reel."""
        if self.job.reel.marked is None:
            return FrameRange(1, self.length)
        first, last = self.job.reel.marked
        return FrameRange(min(first, self.length), min(last, self.length))

    def span(self, shot: int) -> FrameRange:
        """The reel frames of a shot, counted from 0 among the shots."""
        return self.shots[shot].span

    def alone(self, shot: int) -> FrameRange:
        """The reel frames of a shot that no join changes: at least one."""
        span, own = self.shots[shot].span, self.joins[shot]
        following = self.joins[shot + 1] if shot + 1 < len(self.joins) else None
        first = span.first + (own.after if own is not None else 0)
        return FrameRange(first, span.last - (following.before if following is not None else 0))

    def number_of(self, shot: str) -> int:
        """A shot's place among the shots, from 0."""
        return self._numbers[shot]

    @cached_property
    def _numbers(self) -> dict[str, int]:
        return {part.laid.id: number for number, part in enumerate(self.shots)}

    def join_length(self, shot: int) -> int:
        """The reel frames that a shot's join takes; 0 of a cut, and where there is no room."""
        span = self.joins[shot]
        return span.length if span is not None else 0

    def joins_in(self, frames: FrameRange) -> Iterator[JoinSpan]:
        """Those whose cut, or whose dissolve's first frame, is in a range."""
        for part, span in zip(self.shots, self.joins, strict=True):
            if span is not None and part.first in frames:
                yield span

    @cached_property
    def has_joins(self) -> bool:
        """Whether any shot meets the one before by more than a cut."""
        return any(span is not None for span in self.joins)

    @cached_property
    def short_joins(self) -> tuple[int, ...]:
        """The shots, from 0, whose join has room for fewer frames than were asked for."""
        return tuple(
            number
            for number, shot in enumerate(self.job.reel.shots)
            if number and self.join_length(number) < STYLES[shot.join.kind].asked(shot.join.length)
        )

    def part_of(self, laid: str) -> Part:
        """A shot or an overlay in its place."""
        number = self._numbers.get(laid)
        return self.shots[number] if number is not None else self.overlay_part(laid)

    def overlay_part(self, overlay: str) -> Part:
        """An overlay in its place, some of which may come after the reel's end."""
        return next(part for part in self.overlays if part.laid.id == overlay)

    def shot_at(self, reel_frame: int) -> Part:
        """The shot at a reel frame; of two the one that comes. Raises JobError outside the reel."""
        if not 1 <= reel_frame <= self.length:
            raise JobError(f"The reel has frames 1 to {self.length}: there is no {reel_frame}.")
        return self.shots[bisect_right(self.starts, reel_frame) - 1]

    def parts_at(self, reel_frame: int) -> FrameParts:
        """What makes a frame. Raises JobError outside the reel."""
        shot = self.shot_at(reel_frame)
        overlays = self._overlays_at(reel_frame)
        number = bisect_right(self.starts, reel_frame) - 1
        own, at = self.joins[number], reel_frame - shot.first
        if own is not None and at < own.after:
            shots = (self.shots[number - 1], shot) if own.overlaps else (shot,)
            return FrameParts(shots, overlays, own.share(at), own)
        following = self.joins[number + 1] if number + 1 < len(self.joins) else None
        to_cut = reel_frame - shot.last - 1
        if following is not None and -to_cut <= following.before:
            return FrameParts((shot,), overlays, following.share(to_cut), following)
        return FrameParts((shot,), overlays)

    @cached_property
    def _edges(self) -> tuple[int, ...]:
        """The reel frames at which an overlay begins or has ended, in order."""
        edges = {edge for part in self.overlays for edge in (part.first, part.last + 1)}
        return tuple(sorted(edges))

    @cached_property
    def _between_edges(self) -> dict[int, tuple[Part, ...]]:
        """The overlays between two edges, looked for once for each stretch that is asked for."""
        return {}

    def _overlays_at(self, reel_frame: int) -> tuple[Part, ...]:
        if not self.overlays:
            return ()
        stretch = bisect_right(self._edges, reel_frame)
        known = self._between_edges.get(stretch)
        if known is None:
            known = tuple(part for part in self.overlays if part.first <= reel_frame <= part.last)
            self._between_edges[stretch] = known
        return known

    def where(self, source: str, frame: int) -> int | None:
        """The first reel frame that shows a frame of a source; None where none does."""
        for part in self.shots:
            if part.laid.source == source:
                found = part.where(frame)
                if found is not None:
                    return found
        return None

    def parts_in(self, frames: FrameRange) -> Iterator[Part]:
        """The shots and overlays that some frame of a range is made from."""
        for part in (*self.shots, *self.overlays):
            if part.first <= frames.last and frames.first <= part.last:
                yield part


def order_of(laid: Shot | Overlay, sequence: Sequence) -> Ordered[int]:
    """The source's frames in the order they are shown."""
    return laid.order(backwards=sequence.reading.order.value is Order.REVERSED)


def length_of(laid: Shot | Overlay, sequence: Sequence, rate: Fraction) -> int:
    """Its reel frames on a reel of that rate."""
    count = len(order_of(laid, sequence))
    speed = speed_of(sequence.reading.rate.value, laid.timing.speed)
    return length_on_reel(count, matched_rate(count, speed, rate), rate)


def timeline_of(job: Job) -> Timeline:
    """Work out where each shot and overlay goes. Raises JobError for an empty reel."""
    size, rate = job.reel_size, job.reel_rate
    sources = {source.id: source for source in job.sequences}

    def part_of(laid: Shot | Overlay, first: int, length: int = 0) -> Part:
        sequence = sources[laid.source]
        speed = speed_of(sequence.reading.rate.value, laid.timing.speed)
        frames = order_of(laid, sequence)
        speed = matched_rate(len(frames), speed, rate)
        last = first + (length or length_on_reel(len(frames), speed, rate)) - 1
        return Part(laid, sequence, first, last, frames, speed, rate)

    shots, start = [], 1
    for shot in job.reel.shots:
        shots.append(part_of(shot, start))
        start = shots[-1].last + 1
    joins = joins_of([part.count for part in shots], [shot.join for shot in job.reel.shots])
    shots = overlapping(shots, joins)
    start = shots[-1].last + 1

    def stay_of(overlay: Overlay) -> int:
        """A still that nobody gave a length stays to the reel's end."""
        is_still = sources[overlay.source].kind == "still" and not overlay.timing.holds
        return overlay.length or (max(1, start - overlay.at) if is_still else 0)

    overlays = (part_of(one, one.at, stay_of(one)) for one in job.reel.overlays)
    return Timeline(job, size, rate, tuple(shots), tuple(joins), tuple(overlays))


def overlapping(parts: list[Part], joins: Ordered[JoinSpan | None]) -> list[Part]:
    """Parts that follow each other, each moved earlier by what overlaps before it."""
    moved, earlier = [], 0
    for part, join in zip(parts, joins, strict=True):
        earlier += join.after if join is not None and join.overlaps else 0
        moved.append(
            replace(part, first=part.first - earlier, last=part.last - earlier) if earlier else part
        )
    return moved


# Exact, and so slow: the shots of a reel have few different ones.
@lru_cache(maxsize=256)
def speed_of(rate: Fraction, times: Fraction) -> Fraction:
    """The frames of a source that go by in a second."""
    return rate * times
