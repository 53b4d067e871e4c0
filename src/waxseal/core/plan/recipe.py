"""The recipe: a small immutable value that says what one frame of the reel is made from.

`recipe(job, n)` is the only way to one; `picture.make` turns it into pixels.
Where many frames of one job are wanted, `programme(job)` works the shots'
places out once. Reel frames count from 1 here as on the screen.
"""

from __future__ import annotations

import hashlib
import os
from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import astuple, dataclass, replace
from fractions import Fraction
from functools import cached_property
from pathlib import Path

from waxseal.core.errors import JobError
from waxseal.core.job.model import (
    Alpha,
    Chromaticities,
    Colour,
    Framing,
    Job,
    Order,
    Sequence,
    Shot,
    Size,
    StandIn,
)
from waxseal.core.timing.matching import index_at, length_on_reel
from waxseal.core.timing.ranges import FrameRange

__all__ = [
    "FileState",
    "Layer",
    "Place",
    "Programme",
    "Recipe",
    "programme",
    "recipe",
    "source_recipe",
]


@dataclass(frozen=True, slots=True)
class FileState:
    """A file as it was when the recipe was made: another size or time is another file."""

    path: str
    size_bytes: int  # -1: not there
    modified_ns: int


def state_of(path: Path) -> FileState:
    try:
        status = os.stat(path)  # noqa: PTH116 - Path.stat costs twice as much, once a frame
    except OSError:
        return FileState(str(path), -1, 0)
    return FileState(str(path), status.st_size, status.st_mtime_ns)


@dataclass(frozen=True, slots=True)
class Layer:
    """One frame of a source, how it is read, and how it sits in the reel's frame."""

    file: FileState
    frame: int
    alpha: Alpha
    colour: Colour
    chromaticities: Chromaticities
    framing: Framing
    part: str = ""
    matte: str = "#000000"  # what premultiplied colour was laid over, in the file's own encoding
    pixel_shape: Fraction = Fraction(1)


@dataclass(frozen=True)
class Recipe:
    """What one frame of the reel is made from: a layer (or none) over a ground."""

    width: int
    height: int
    ground: str  # #rrggbb, sRGB
    layer: Layer | None

    @cached_property
    def key(self) -> str:
        """Stable over runs and machines: same key, same pixels."""
        text = repr(astuple(self)).encode("utf-8", "backslashreplace")
        return hashlib.blake2b(text, digest_size=16).hexdigest()


@dataclass(frozen=True, slots=True)
class Place:
    """What is on the reel at one of its frames.

    frame: the source's own number that the shot asks for.
    shown: the number that is shown in its place; None for nothing (black, or a
        delivery that is refused).
    """

    reel_frame: int
    shot: Shot
    sequence: Sequence
    frame: int
    shown: int | None

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
    def there(self) -> dict[str, tuple[int, ...]]:
        """The frames of each sequence on the reel that are there and whole, in order."""
        used = {shot.source for shot in self.job.reel.shots}
        return {
            source.id: tuple(
                frame
                for first, last in source.files.runs
                for frame in range(first, last + 1)
                if frame not in damaged and (source.id, frame) not in self.gone
            )
            for source in self.job.sequences
            if source.id in used
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

    def at(self, reel_frame: int) -> Place:
        """Raises JobError outside the reel."""
        if not 1 <= reel_frame <= self.length:
            raise JobError(f"The reel has frames 1 to {self.length}: there is no {reel_frame}.")
        number = bisect_right(self.starts, reel_frame) - 1
        shot = self.job.reel.shots[number]
        sequence = self.sources[shot.source]
        reading = sequence.reading
        index = index_at(
            reel_frame - self.starts[number], shot.range.count, reading.rate.value, self.rate
        )
        is_reversed = reading.order.value is Order.REVERSED
        frame = shot.last - index if is_reversed else shot.first + index
        return Place(reel_frame, shot, sequence, frame, self._shown(sequence, frame))

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

    def refusals(self, frames: FrameRange) -> Iterator[Place]:
        """The places where a delivery of these frames would have nothing to show."""
        for reel_frame in range(frames.first, frames.last + 1):
            place = self.at(reel_frame)
            stops = place.sequence.reading.stand_in.value is not StandIn.BLACK
            if place.shown is None and stops:
                yield place

    def recipe(self, reel_frame: int) -> Recipe:
        place = self.at(reel_frame)
        layer = None
        if place.shown is not None:
            layer = layer_of(place.sequence, place.shown, place.shot.framing)
        return Recipe(self.size.width, self.size.height, self.job.reel.ground, layer)

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
            repr((source.files, sorted(source.unreadable), source.reading))
            for source in self.job.sequences
            if source.id in self.there
        ]
        sounds = [repr(self.job.sound(laid.source)) for laid in self.job.reel.sounds]
        text = "\n".join((str(self.size), str(self.rate), reel, *parts, *sounds))
        return hashlib.blake2b(text.encode("utf-8", "backslashreplace"), digest_size=16).hexdigest()


def layer_of(sequence: Sequence, frame: int, framing: Framing) -> Layer:
    reading = sequence.reading
    return Layer(
        file=state_of(sequence.files.path_of(frame)),
        frame=frame,
        alpha=reading.alpha.value,
        colour=reading.colour.value,
        chromaticities=reading.chromaticities.value,
        framing=framing,
        part=reading.part.value,
        matte=reading.matte.value,
        pixel_shape=reading.pixel_shape.value,
    )


def programme(job: Job) -> Programme:
    """Work out where each shot lies. Raises JobError for an empty reel."""
    size, rate = job.reel_size, job.reel_rate
    starts, start = [], 1
    sources = {source.id: source for source in job.sequences}
    for shot in job.reel.shots:
        starts.append(start)
        source = sources[shot.source]
        start += length_on_reel(shot.range.count, source.reading.rate.value, rate)
    return Programme(job, size, rate, tuple(starts), start - 1)


def recipe(job: Job, reel_frame: int) -> Recipe:
    """What frame `reel_frame` (from 1) of the reel is made from. Raises JobError."""
    return programme(job).recipe(reel_frame)


def source_recipe(sequence: Sequence, frame: int) -> Recipe:
    """One frame of a source by itself, at its own size over black: for cards and for looking."""
    layer = layer_of(sequence, frame, Framing.FIT)
    size = sequence.shown_size
    return Recipe(size.width, size.height, "#000000", layer)
