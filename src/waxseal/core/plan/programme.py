"""The programme: where everything on the reel lies in time, and the recipe of each frame.

Where many frames of one job are wanted, `programme(job)` works the places out
once. Reel frames count from 1 here as on the screen.
"""

from __future__ import annotations

import hashlib
from bisect import bisect_right
from collections.abc import Iterator
from collections.abc import Sequence as Ordered
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from pathlib import Path

from waxseal.core.errors import JobError
from waxseal.core.job.finish import Finish, Haze, Inside
from waxseal.core.job.model import (
    Conversion,
    Files,
    Framing,
    Job,
    Order,
    Overlay,
    Sequence,
    Shot,
    Size,
    StandIn,
    changed,
    used_by,
)
from waxseal.core.plan.finishing import Moment, finished
from waxseal.core.plan.picks import passes_of, pick_of
from waxseal.core.plan.recipe import Layer, Masked, Pick, Recipe, Seen, Shown, state_of
from waxseal.core.timing.matching import index_at, length_on_reel, share_at
from waxseal.core.timing.ranges import FrameRange

__all__ = [
    "Place",
    "Programme",
    "length_of",
    "order_of",
    "programme",
    "recipe",
]


@dataclass(frozen=True, slots=True)
class Place:
    """A frame of a source that is asked for at one frame of the reel.

    frame: the source's own number that is asked for.
    shown: the number that is shown in its place; None for nothing (black, or a
        delivery that is refused).
    at: reel frames from the head of what it belongs to, from 0.
    following, share: the frame after it, and how far the reel is on the way there.
    """

    reel_frame: int
    laid: Shot | Overlay
    sequence: Sequence
    frame: int
    shown: int | None
    at: int = 0
    following: int | None = None
    share: Fraction = Fraction(0)

    @property
    def is_whole(self) -> bool:
        return self.frame == self.shown


Gone = frozenset[tuple[str, int]]


@dataclass(frozen=True)
class Programme:
    """The reel's shots in their places.

    starts: the first reel frame of each shot, from 1.
    gone: (source, frame) pairs that turned out unreadable on top of those known.
    """

    job: Job
    size: Size
    rate: Fraction
    starts: tuple[int, ...]
    length: int
    gone: Gone = frozenset()

    @cached_property
    def used(self) -> frozenset[str]:
        """The sources that pictures of the reel depend on."""
        reel = self.job.reel
        return frozenset(
            {one.source for one in (*reel.shots, *reel.overlays)} | set(used_by(self.job))
        )

    @cached_property
    def there(self) -> dict[str, tuple[int, ...]]:
        """The frames of each sequence on the reel that are there and whole, in order."""
        return {
            source.id: tuple(
                frame
                for first, last in source.files.runs
                for frame in range(first, last + 1)
                if frame not in damaged and (source.id, frame) not in self.gone
            )
            for source in self.job.sequences
            if source.id in self.used
            for damaged in [source.unreadable]
        }

    @cached_property
    def sources(self) -> dict[str, Sequence]:
        return {source.id: source for source in self.job.sequences}

    @cached_property
    def _sets(self) -> dict[str, frozenset[int]]:
        return {source: frozenset(frames) for source, frames in self.there.items()}

    @property
    def frames(self) -> FrameRange:
        """The marked range, or the whole reel."""
        if self.job.reel.marked is None:
            return FrameRange(1, self.length)
        first, last = self.job.reel.marked
        return FrameRange(min(first, self.length), min(last, self.length))

    def without(self, source: str, frame: int) -> Programme:
        """The same programme once a frame turned out unreadable."""
        return replace(self, gone=self.gone | {(source, frame)})

    def span(self, shot: int) -> FrameRange:
        """The reel frames of a shot, counted from 0 among the shots."""
        stops = (*self.starts[1:], self.length + 1)
        return FrameRange(self.starts[shot], stops[shot] - 1)

    def overlay_span(self, overlay: Overlay) -> FrameRange:
        """The reel frames of an overlay, some of which may lie beyond the reel's end."""
        length = overlay.length or length_of(overlay, self.sources[overlay.source], self.rate)
        return FrameRange(overlay.at, overlay.at + length - 1)

    # ---- places ----------------------------------------------------------------------------

    def at(self, reel_frame: int) -> Place:
        """The shot's place. Raises JobError outside the reel."""
        if not 1 <= reel_frame <= self.length:
            raise JobError(f"The reel has frames 1 to {self.length}: there is no {reel_frame}.")
        number = bisect_right(self.starts, reel_frame) - 1
        return self._place(self.job.reel.shots[number], self.starts[number], reel_frame)

    def overlays_at(self, reel_frame: int) -> Iterator[Place]:
        """The places of the overlays that lie over a frame, the lowest first."""
        for overlay in self.job.reel.overlays:
            if reel_frame in self.overlay_span(overlay):
                yield self._place(overlay, overlay.at, reel_frame)

    def _place(self, laid: Shot | Overlay, start: int, reel_frame: int) -> Place:
        sequence = self.sources[laid.source]
        frames = order_of(laid, sequence)
        rate = sequence.reading.rate.value * laid.timing.speed
        at = reel_frame - start
        index = index_at(at, len(frames), rate, self.rate)
        frame = frames[index]
        following, share = None, Fraction(0)
        if laid.timing.conversion is not Conversion.NEAREST and index + 1 < len(frames):
            share = share_at(at, index, rate, self.rate)
            following = frames[index + 1] if share else None
        shown = self._shown(sequence, frame)
        return Place(reel_frame, laid, sequence, frame, shown, at, following, share)

    def where(self, source: str, frame: int) -> int | None:
        """The first reel frame that asks for a frame of a source; None where none does."""
        for number, shot in enumerate(self.job.reel.shots):
            if shot.source == source and frame in shot.range:
                span = self.span(number)
                for reel_frame in range(span.first, span.last + 1):
                    if self.at(reel_frame).frame == frame:
                        return reel_frame
        return None

    def _shown(self, sequence: Sequence, frame: int) -> int | None:
        if frame in self._sets[sequence.id]:
            return frame
        there = self.there[sequence.id]
        stand_in = sequence.reading.stand_in.value
        if stand_in in (StandIn.STOP, StandIn.BLACK) or not there:
            return None
        at = bisect_right(there, frame)
        before = there[at - 1] if at else None
        after = there[at] if at < len(there) else None
        if before is None or after is None:
            return after if before is None else before
        if stand_in is StandIn.HOLD:
            return after if sequence.reading.order.value is Order.REVERSED else before
        return after if after - frame < frame - before else before

    def needs(self, reel_frame: int) -> Iterator[Place]:
        """Every frame of every source that the picture of a reel frame is made from."""
        main = self.at(reel_frame)
        for place in (main, *self.overlays_at(reel_frame)):
            yield from self._needs_of(place)
        yield from self._helpers(main, self.job.reel.finish, reel_frame)
        if self.job.reel.behind:
            behind = self.sources[self.job.reel.behind]
            frame = self._frame_behind(behind, reel_frame)
            yield replace(main, sequence=behind, frame=frame, shown=self._shown(behind, frame))

    def _needs_of(self, place: Place) -> Iterator[Place]:
        stack = place.sequence.stack
        for number in (place.frame, place.following):
            if number is None:
                continue
            asked = replace(place, frame=number, shown=self._shown(place.sequence, number))
            if stack is None or not stack.on:
                yield asked
            else:
                for one in stack.passes:
                    if one.on:
                        yield self._pass_place(asked, one.source)
        yield from self._helpers(place, place.laid.finish, place.frame)

    def _pass_place(self, place: Place, source: str) -> Place:
        sequence = self.sources[source]
        return replace(place, sequence=sequence, shown=self._shown(sequence, place.frame))

    def _helpers(self, place: Place, finish: Finish, frame: int) -> Iterator[Place]:
        for helper, _ in helpers_of(finish):
            sequence = self.sources[helper]
            number = held(sequence, frame)
            yield replace(
                place, sequence=sequence, frame=number, shown=self._shown(sequence, number)
            )

    def refusals(self, frames: FrameRange) -> Iterator[Place]:
        """The places where a delivery of these frames would have nothing to show."""
        for reel_frame in range(frames.first, frames.last + 1):
            for place in self.needs(reel_frame):
                stops = place.sequence.reading.stand_in.value is not StandIn.BLACK
                if place.shown is None and stops:
                    yield place

    def owner_of(self, path: Path, reel_frame: int) -> Place | None:
        """Whose frame a file is that the picture of a reel frame needs."""
        for place in self.needs(reel_frame):
            if place.shown is not None and place.sequence.files.path_of(place.shown) == path:
                return place
        return None

    def again(self, place: Place) -> Place:
        """The same place, once more is known of what cannot be read."""
        return replace(place, shown=self._shown(place.sequence, place.frame))

    # ---- recipes ---------------------------------------------------------------------------

    def seen_recipe(self, reel_frame: int, seen: Seen) -> Recipe:
        """The recipe of what is looked at, where that is not the picture itself."""
        recipe = self.recipe(reel_frame)
        if seen is Seen.PICTURE:
            return recipe
        beauty = self._beauty(self.at(reel_frame)) if seen is Seen.DIFFERENCE else None
        return replace(recipe, seen=seen, beauty=beauty)

    def _beauty(self, place: Place) -> Pick | None:
        stack = place.sequence.stack
        if place.shown is None or stack is None or not stack.on or not stack.beauty:
            return None
        beauty = self.sources[stack.beauty]
        frame = self._shown(beauty, place.shown)
        return pick_of(beauty, frame) if frame is not None else None

    def recipe(self, reel_frame: int) -> Recipe:
        reel = self.job.reel
        main = self.at(reel_frame)
        layers = [self._layer(main, self._length(main))]
        for place in self.overlays_at(reel_frame):
            laid = place.laid
            span = self.overlay_span(laid) if isinstance(laid, Overlay) else self.frames
            layers.append(self._layer(place, span.count))
        moment = Moment(
            reel_frame - 1,
            self.length,
            reel_frame,
            self.rate,
            reel_frame,
            self.length,
            self.job.name,
        )
        done = finished(reel.finish, moment)
        return Recipe(
            self.size.width,
            self.size.height,
            reel.ground,
            tuple(layer for layer in layers if layer is not None),
            self._layer_behind(reel_frame) if reel.behind else None,
            reel.colour,
            done.corrections,
            self._inside(reel.finish.inside, reel_frame, done.corrections),
            self._depth(done.corrections, reel_frame),
            done.opacity,
            done.veil,
            done.veiled,
            done.files,
        )

    def _length(self, place: Place) -> int:
        number = bisect_right(self.starts, place.reel_frame) - 1
        return self.span(number).count

    def _layer(self, place: Place, length: int) -> Layer | None:
        laid, sequence = place.laid, place.sequence
        shown = self._picture(sequence, place.shown)
        if shown is None:
            return None
        following = None
        if place.following is not None:
            following = self._picture(sequence, self._shown(sequence, place.following))
        moment = Moment(
            place.at,
            length,
            place.reel_frame,
            self.rate,
            place.frame,
            sequence.range.count,
            sequence.name,
        )
        done = finished(laid.finish, moment)
        if done.opacity == 0:
            return None
        layer = Layer(
            shown,
            laid.framing,
            laid.placing,
            sequence.reading.pixel_shape.value,
            following,
            place.share if following is not None else Fraction(0),
            following is not None and laid.timing.conversion is Conversion.MOTION,
            done.corrections,
            self._inside(laid.finish.inside, place.frame, done.corrections),
            self._depth(done.corrections, place.frame),
            done.opacity,
            done.veil,
            done.veiled,
            files=done.files,
        )
        if isinstance(laid, Overlay):
            return replace(layer, blend=laid.blend, values=laid.values)
        return layer

    def _picture(self, sequence: Sequence, frame: int | None) -> Shown | None:
        """A frame of a source, or the passes it is put together from; None for nothing."""
        if frame is None:
            return None
        if sequence.stack is None or not sequence.stack.on:
            return pick_of(sequence, frame)
        return passes_of(sequence.stack, frame, self.sources, self._shown) or None

    def _inside(
        self, inside: Inside | None, frame: int, corrections: Ordered[object]
    ) -> Masked | None:
        if inside is None or not corrections:
            return None
        sequence = self.sources[inside.source]
        shown = self._shown(sequence, held(sequence, frame))
        if shown is None:
            return None
        return Masked(pick_of(sequence, shown, part=inside.part), inside.inverted, inside.soften)

    def _depth(self, corrections: Ordered[object], frame: int) -> Pick | None:
        for one in corrections:
            if isinstance(one, Haze):
                sequence = self.sources[one.depth]
                shown = self._shown(sequence, held(sequence, frame))
                return pick_of(sequence, shown, part=one.part) if shown is not None else None
        return None

    def _frame_behind(self, behind: Sequence, reel_frame: int) -> int:
        """The picture behind runs at its own rate, again and again."""
        index = int((reel_frame - 1) * behind.reading.rate.value / self.rate)
        return behind.range.first + index % behind.range.count

    def _layer_behind(self, reel_frame: int) -> Layer | None:
        behind = self.sources[self.job.reel.behind]
        shown = self._picture(behind, self._shown(behind, self._frame_behind(behind, reel_frame)))
        if shown is None:
            return None
        return Layer(shown, Framing.FILL, pixel_shape=behind.reading.pixel_shape.value)

    # ---- keys ------------------------------------------------------------------------------

    def contents_key(self) -> str:
        """All recipes of the frames that are delivered, and the sound's file, as one hash.

        Another one as soon as a single file was written again. Looks at every
        file once: not for each redraw.
        """
        total = hashlib.blake2b(digest_size=16)
        for reel_frame in range(self.frames.first, self.frames.last + 1):
            total.update(self.recipe(reel_frame).key.encode())
        for laid in self.job.reel.sounds:
            state = state_of(Path(self.job.sound(laid.source).path))
            total.update(repr(state).encode("utf-8", "backslashreplace"))
        return total.hexdigest()

    @cached_property
    def key(self) -> str:
        """What the reel's pictures and sound depend on, as one hash: files' names, not contents."""
        reel = self.job.reel.model_dump_json()
        parts = [
            repr((own_files(source), sorted(source.unreadable), source.reading, source.stack))
            for source in self.job.sequences
            if source.id in self.there
        ]
        sounds = [repr(self.job.sound(laid.source)) for laid in self.job.reel.sounds]
        text = "\n".join((str(self.size), str(self.rate), reel, *parts, *sounds))
        return hashlib.blake2b(text.encode("utf-8", "backslashreplace"), digest_size=16).hexdigest()


def own_files(source: Sequence) -> Files:
    """A source's files without what only lies beside them."""
    return changed(source.files, others=(), strays=())


def helpers_of(finish: Finish) -> Iterator[tuple[str, str]]:
    """The sources, and their parts, whose values steer what a finish does."""
    if finish.inside is not None and finish.working:
        yield finish.inside.source, finish.inside.part
    yield from ((one.depth, one.part) for one in finish.working if isinstance(one, Haze))


def held(sequence: Sequence, frame: int) -> int:
    """The frame of that number, or the nearest end: a single matte serves a whole shot."""
    span = sequence.range
    return min(max(frame, span.first), span.last)


def order_of(laid: Shot | Overlay, sequence: Sequence) -> Ordered[int]:
    """The source's frames in the order they are shown."""
    return laid.order(backwards=sequence.reading.order.value is Order.REVERSED)


def length_of(laid: Shot | Overlay, sequence: Sequence, rate: Fraction) -> int:
    """Its reel frames on a reel of that rate."""
    count = len(order_of(laid, sequence))
    return length_on_reel(count, sequence.reading.rate.value * laid.timing.speed, rate)


def programme(job: Job) -> Programme:
    """Work out where each shot lies. Raises JobError for an empty reel."""
    size, rate = job.reel_size, job.reel_rate
    starts, start = [], 1
    sources = {source.id: source for source in job.sequences}
    for shot in job.reel.shots:
        starts.append(start)
        start += length_of(shot, sources[shot.source], rate)
    return Programme(job, size, rate, tuple(starts), start - 1)


def recipe(job: Job, reel_frame: int) -> Recipe:
    """What frame `reel_frame` (from 1) of the reel is made from. Raises JobError."""
    return programme(job).recipe(reel_frame)
