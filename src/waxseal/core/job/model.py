"""What a job holds. Everything is frozen; an edit makes a new job (see edits).

Whatever could be worked out from other values (lengths, positions, health,
missing frames) is a function or property here, never a stored field. The
parts stand in files of their own and are named here for all who use them.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Self, TypeVar

from pydantic import model_validator

from waxseal.core.errors import JobError
from waxseal.core.job.deliveries import (
    Bitrate,
    ConstantQuality,
    Delivery,
    DeliveryState,
    Outcome,
    Quality,
)
from waxseal.core.job.reading import (
    BT709,
    Alpha,
    Chromaticities,
    Colour,
    Order,
    Origin,
    PixelShape,
    Reading,
    StandIn,
    Told,
    colour_choices,
    colour_words,
    parse_colour,
    parse_shape,
)
from waxseal.core.job.reel import Framing, LaidSound, Reel, Shot
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
from waxseal.core.job.values import Value, changed, sentence_of
from waxseal.core.timing.rates import Rate

__all__ = [
    "BT709",
    "Alpha",
    "Bitrate",
    "Chromaticities",
    "Colour",
    "ConstantQuality",
    "Delivery",
    "DeliveryState",
    "Files",
    "Finding",
    "FindingKind",
    "Found",
    "Framing",
    "Habits",
    "Health",
    "Job",
    "LaidSound",
    "Order",
    "Origin",
    "Outcome",
    "Part",
    "PixelShape",
    "Quality",
    "Reading",
    "Reel",
    "Sequence",
    "Shot",
    "Size",
    "Sound",
    "StandIn",
    "Told",
    "changed",
    "colour_choices",
    "colour_words",
    "parse_colour",
    "parse_shape",
    "sentence_of",
    "shown_width",
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
            ("deliveries", [delivery.id for delivery in self.deliveries]),
        ):
            if len(set(ids)) != len(ids):
                raise ValueError(f"two {kind} have the same id.")
        sequences = {source.id: source for source in self.sequences}
        for shot in self.reel.shots:
            if shot.source not in sequences:
                raise ValueError(f"shot {shot.id} uses a source that is not in the in-tray.")
            there = sequences[shot.source].range
            if shot.first not in there or shot.last not in there:
                raise ValueError(
                    f"{sequences[shot.source].name} has frames {there}; "
                    f"{shot.first} to {shot.last} is outside them."
                )
        sounds = {source.id for source in self.sounds}
        for laid in self.reel.sounds:
            if laid.source not in sounds:
                raise ValueError("a sound on the reel is not in the in-tray.")
        return self

    @property
    def sequences(self) -> tuple[Sequence, ...]:
        return tuple(source for source in self.sources if isinstance(source, Sequence))

    @property
    def sounds(self) -> tuple[Sound, ...]:
        return tuple(source for source in self.sources if isinstance(source, Sound))

    def source(self, source_id: str) -> Sequence | Sound:
        return one_of(self.sources, source_id, "source")

    def sequence(self, source_id: str) -> Sequence:
        return one_of(self.sequences, source_id, "sequence")

    def sound(self, source_id: str) -> Sound:
        return one_of(self.sounds, source_id, "sound")

    def shot(self, shot_id: str) -> Shot:
        return one_of(self.reel.shots, shot_id, "shot")

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
        """The reel's rate: said, or the first shot's. Raises JobError when empty."""
        if self.reel.rate is not None:
            return self.reel.rate
        return self.sequence(self._first_shot().source).reading.rate.value

    def _first_shot(self) -> Shot:
        if not self.reel.shots:
            raise JobError("The reel is empty: drop a folder of frames on the in-tray.")
        return self.reel.shots[0]


W = TypeVar("W", Sequence, Sound, Sequence | Sound, Shot, Delivery)


def one_of(values: tuple[W, ...], wanted: str, kind: str) -> W:
    for value in values:
        if value.id == wanted:
            return value
    raise JobError(f"There is no {kind} “{wanted}” in this job.")
