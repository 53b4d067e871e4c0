"""What a job holds. Everything is frozen; an edit makes a new job (see edits).

Whatever could be worked out from other values (lengths, positions, health,
missing frames) is a function or property here, never a stored field. The
parts stand in files of their own and are named here for all who use them.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from functools import cached_property
from typing import Self, TypeVar

from pydantic import model_validator

from waxseal.core.errors import JobError
from waxseal.core.job.colour_settings import GRAPHICS_WHITES, Colourway, Space, View, Working
from waxseal.core.job.deliveries import (
    Bitrate,
    ConstantQuality,
    Delivery,
    DeliveryState,
    Grade,
    Graded,
    Outcome,
    Quality,
)
from waxseal.core.job.finish_settings import Finish
from waxseal.core.job.joins import Join, JoinKind
from waxseal.core.job.reading_settings import (
    BT709,
    DISPLAY_ENCODED,
    HIGH_RANGE,
    Alpha,
    Chromaticities,
    Colour,
    ColourReference,
    Order,
    Origin,
    PixelShape,
    Reading,
    StandIn,
    WithOrigin,
    colour_choices,
    colour_words,
    parse_colour,
    parse_pixel_shape,
    shape_words,
    usual_primaries,
)
from waxseal.core.job.reel import (
    Blend,
    Conversion,
    Framing,
    Overlay,
    Placing,
    Reel,
    Scaling,
    Shot,
    Subject,
    Timing,
    Turn,
)
from waxseal.core.job.sounds import LaidSound, Retimed, SoundCurve, SoundFade
from waxseal.core.job.sources import (
    Files,
    Finding,
    FindingKind,
    Found,
    Health,
    Part,
    Sequence,
    Size,
    Sound,
    Source,
    shown_width,
)
from waxseal.core.job.stack import Operation, Stack, StackPass
from waxseal.core.job.values import Value, change, make, sentence_of
from waxseal.core.timing.rates import Rate

__all__ = [
    "BT709",
    "DISPLAY_ENCODED",
    "GRAPHICS_WHITES",
    "HIGH_RANGE",
    "Alpha",
    "Bitrate",
    "Blend",
    "Chromaticities",
    "Colour",
    "ColourReference",
    "Colourway",
    "ConstantQuality",
    "Conversion",
    "Delivery",
    "DeliveryState",
    "Files",
    "Finding",
    "FindingKind",
    "Finish",
    "Found",
    "Framing",
    "Grade",
    "Graded",
    "Habits",
    "Health",
    "Job",
    "Join",
    "JoinKind",
    "LaidSound",
    "Operation",
    "Order",
    "Origin",
    "Outcome",
    "Overlay",
    "Part",
    "PixelShape",
    "Placing",
    "Quality",
    "Reading",
    "Reel",
    "Retimed",
    "Scaling",
    "Sequence",
    "Shot",
    "Size",
    "Sound",
    "SoundCurve",
    "SoundFade",
    "Space",
    "Stack",
    "StackPass",
    "StandIn",
    "Subject",
    "Timing",
    "Turn",
    "View",
    "WithOrigin",
    "Working",
    "change",
    "colour_choices",
    "colour_words",
    "make",
    "parse_colour",
    "parse_pixel_shape",
    "sentence_of",
    "shape_words",
    "shown_width",
    "usual_primaries",
]


class Habits(Value):
    """What this job takes for granted where a file says nothing."""

    rate: Rate | None = None
    alpha: Alpha | None = None  # of pictures that have one, where no standard says how
    primaries: Chromaticities | None = None  # of scene-linear pictures
    stand_in: StandIn = StandIn.STOP


class Job(Value):
    """What the user opens and saves."""

    name: str = "Untitled"
    habits: Habits = Habits()
    sources: tuple[Source, ...] = ()
    reel: Reel = Reel()
    deliveries: tuple[Delivery, ...] = ()

    @model_validator(mode="after")
    def parts_belong_together(self) -> Self:
        for kind, ids in (
            ("sources", [source.id for source in self.sources]),
            ("shots", [shot.id for shot in self.reel.shots]),
            ("overlays", [overlay.id for overlay in self.reel.overlays]),
            ("sounds on the reel", [laid.id for laid in self.reel.sounds]),
            ("deliveries", [delivery.id for delivery in self.deliveries]),
        ):
            if len(set(ids)) != len(ids):
                raise ValueError(f"two {kind} have the same id.")
        sequences = {source.id: source for source in self.sequences}
        for one in (*self.reel.shots, *self.reel.overlays):
            if one.source not in sequences:
                raise ValueError(f"{one.id} uses a source that is not in the in-tray.")
            there = sequences[one.source].range
            if one.first not in there or one.last not in there:
                raise ValueError(
                    f"{sequences[one.source].name} has frames {there}; "
                    f"{one.first} to {one.last} is outside them."
                )
        for source in used_by(self):
            if source not in sequences:
                raise ValueError("a source that is used is not in the in-tray.")
        sounds = {source.id for source in self.sounds}
        on_reel = {one.id for one in (*self.reel.shots, *self.reel.overlays)}
        for laid in self.reel.sounds:
            if laid.source not in sounds:
                raise ValueError("a sound on the reel is not in the in-tray.")
            if laid.shot and laid.shot not in on_reel:
                raise ValueError("a sound goes with a shot that is not on the reel.")
        return self

    # A leading underscore keeps what is remembered out of the fields, and so out of every copy.
    @cached_property
    def _sources_by_id(self) -> dict[str, Sequence | Sound]:
        return {source.id: source for source in self.sources}

    @cached_property
    def _sequences(self) -> tuple[Sequence, ...]:
        return tuple(source for source in self.sources if isinstance(source, Sequence))

    @property
    def sequences(self) -> tuple[Sequence, ...]:
        return self._sequences

    @property
    def sounds(self) -> tuple[Sound, ...]:
        return tuple(source for source in self.sources if isinstance(source, Sound))

    def source(self, source_id: str) -> Sequence | Sound:
        found = self._sources_by_id.get(source_id)
        if found is None:
            raise unknown("source", source_id)
        return found

    def sequence(self, source_id: str) -> Sequence:
        found = self._sources_by_id.get(source_id)
        if not isinstance(found, Sequence):
            raise unknown("sequence", source_id)
        return found

    def sound(self, source_id: str) -> Sound:
        found = self._sources_by_id.get(source_id)
        if not isinstance(found, Sound):
            raise unknown("sound", source_id)
        return found

    def shot(self, shot_id: str) -> Shot:
        return one_of(self.reel.shots, shot_id, "shot")

    def overlay(self, overlay_id: str) -> Overlay:
        return one_of(self.reel.overlays, overlay_id, "overlay")

    def laid(self, laid_id: str) -> Shot | Overlay:
        """A shot or an overlay."""
        every: tuple[Shot | Overlay, ...] = (*self.reel.shots, *self.reel.overlays)
        return one_of(every, laid_id, "shot or overlay")

    def laid_sound(self, laid_id: str) -> LaidSound:
        return one_of(self.reel.sounds, laid_id, "sound on the reel")

    def delivery(self, delivery_id: str) -> Delivery:
        return one_of(self.deliveries, delivery_id, "delivery")

    @property
    def reel_size(self) -> Size:
        """The reel's frame size: said, or the first shot's. Raises JobError when empty."""
        if self.reel.size is not None:
            return self.reel.size
        return self.sequence(self._first_shot().source).shown_size

    @property
    def reel_rate(self) -> Fraction:
        """The reel's rate: said, or its shots'. Raises JobError when empty."""
        return self.reel.rate or self._leading.reading.rate.value

    @property
    def guessed_from(self) -> Sequence | None:
        """The source whose rate the reel runs at though nobody has said it; mostly None."""
        if self.reel.rate is not None or not self.reel.shots:
            return None
        leading = self._leading
        is_guess = leading.reading.rate.origin is Origin.GUESS and leading.kind != "still"
        return leading if is_guess else None

    @cached_property
    def _leading(self) -> Sequence:
        """What sets the reel's rate: the first shot that moves at a rate that is no guess."""
        first = self.sequence(self._first_shot().source)
        moving = [
            source
            for source in (self.sequence(shot.source) for shot in self.reel.shots)
            if source.kind != "still"
        ]
        known = (one for one in moving if one.reading.rate.origin is not Origin.GUESS)
        return next(known, moving[0] if moving else first)

    def _first_shot(self) -> Shot:
        if not self.reel.shots:
            raise JobError("The reel is empty: drop a folder of frames on the in-tray.")
        return self.reel.shots[0]


W = TypeVar("W", Shot, Overlay, Shot | Overlay, LaidSound, Delivery)


def one_of(values: tuple[W, ...], wanted: str, kind: str) -> W:
    for value in values:
        if value.id == wanted:
            return value
    raise unknown(kind, wanted)


def unknown(kind: str, wanted: str) -> JobError:
    return JobError(f"There is no {kind} “{wanted}” in this job.")


def used_by(job: Job) -> Iterator[str]:
    """The sources that something depends on without being a part of them: passes, mattes, depth."""
    if job.reel.behind:
        yield job.reel.behind
    for sequence in job.sequences:
        if sequence.stack is not None:
            yield from (one.source for one in sequence.stack.passes)
            if sequence.stack.beauty:
                yield sequence.stack.beauty
    for finish in (job.reel.finish, *(one.finish for one in job.reel.shots + job.reel.overlays)):
        yield from (one.source for one in finish.helpers)
