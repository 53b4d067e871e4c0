"""What a job holds. Everything is frozen; an edit makes a new job (see edits).

Whatever could be worked out from other values (lengths, positions, health,
missing frames) is a function or property here, never a stored field.
"""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction
from pathlib import Path
from typing import Annotated, Generic, Literal, Self, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator
from typing_extensions import override

from waxseal.core.errors import JobError, WrongUse
from waxseal.core.timing.ranges import FrameRange, gaps_between
from waxseal.core.timing.rates import Rate, in_bounds

__all__ = [
    "Alpha",
    "Bitrate",
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
]

T = TypeVar("T")
M = TypeVar("M", bound="Value")


class Value(BaseModel):
    """What all parts of a job have in common."""

    model_config = ConfigDict(frozen=True, extra="forbid")


def changed(value: M, **fields: object) -> M:
    """A copy with other fields, validated. Raises JobError with a sentence."""
    try:
        return type(value).model_validate({**dict(value), **fields})
    except ValidationError as error:
        raise JobError(sentence_of(error)) from error


def sentence_of(error: ValidationError) -> str:
    """The first complaint of a validation, with the place where it is."""
    first = error.errors(include_url=False, include_input=False)[0]
    place = ".".join(str(part) for part in first["loc"])
    what = first["msg"].removeprefix("Value error, ")
    return f"{place}: {what}" if place else what


# ---- how things are read -------------------------------------------------------------------


class Origin(StrEnum):
    """Where a value of a reading comes from."""

    WRITTEN = "written"  # in the file
    HABIT = "habit"  # this job's
    GUESS = "guess"  # to be confirmed
    SAID = "said"  # by the user


class Told(Value, Generic[T]):
    """A value, and where it comes from."""

    value: T
    origin: Origin


class Alpha(StrEnum):
    NONE = "none"
    STRAIGHT = "straight"
    PREMULTIPLIED = "premultiplied"


class Colour(StrEnum):
    """What the numbers in a file mean."""

    LINEAR = "scene-linear"
    SRGB = "sRGB"


class Order(StrEnum):
    FORWARD = "forward"
    REVERSED = "reversed"


class StandIn(StrEnum):
    """What is shown for a frame that is not there."""

    STOP = "stop"  # nothing: the delivery is refused
    HOLD = "hold"  # the one before
    NEAREST = "nearest"
    BLACK = "black"


class Framing(StrEnum):
    """How a picture sits in a frame of another size."""

    FIT = "fit"
    FILL = "fill"
    STRETCH = "stretch"
    ACTUAL = "actual"


Chromaticities = tuple[float, float, float, float, float, float, float, float]

# ITU-R BT.709: red, green, blue, white as x, y.
BT709: Chromaticities = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)


class Reading(Value):
    """How a sequence is read; every value says where it comes from."""

    rate: Told[Rate]  # frames a second
    order: Told[Order]
    alpha: Told[Alpha]
    colour: Told[Colour]
    chromaticities: Told[Chromaticities]  # only looked at where colour is scene-linear
    stand_in: Told[StandIn]

    @model_validator(mode="after")
    def rate_is_possible(self) -> Self:
        try:
            in_bounds(self.rate.value)
        except WrongUse as error:
            raise ValueError(str(error)) from None
        return self


# ---- sources -------------------------------------------------------------------------------


class Size(Value):
    """Width and height in pixels."""

    width: int = Field(ge=1, le=32_768)
    height: int = Field(ge=1, le=32_768)

    @override
    def __str__(self) -> str:
        return f"{self.width} × {self.height}"


class Files(Value):
    """The files of a sequence: where, how they are named, which numbers there are."""

    folder: str
    prefix: str
    suffix: str  # with the dot
    padding: int = Field(ge=0, le=32)  # 0: no number at all, a single file
    sign_is_padding: bool = False  # whether -7 is -007 or -0007 at a padding of four
    runs: tuple[tuple[int, int], ...]

    def name_of(self, frame: int) -> str:
        if self.padding == 0:
            return f"{self.prefix}{self.suffix}"
        sign = "-" if frame < 0 else ""
        width = self.padding - (1 if sign and self.sign_is_padding else 0)
        return f"{self.prefix}{sign}{abs(frame):0{width}}{self.suffix}"

    def path_of(self, frame: int) -> Path:
        return Path(self.folder) / self.name_of(frame)

    @property
    def pattern(self) -> str:
        """The name with `#` for each digit of its number."""
        return f"{self.prefix}{'#' * self.padding}{self.suffix}"

    @property
    def range(self) -> FrameRange:
        return FrameRange(self.runs[0][0], self.runs[-1][1])

    @property
    def count(self) -> int:
        return sum(last - first + 1 for first, last in self.runs)

    @property
    def missing(self) -> tuple[int, ...]:
        return gaps_between(self.runs)

    def has(self, frame: int) -> bool:
        return any(first <= frame <= last for first, last in self.runs)


class FindingKind(StrEnum):
    DAMAGED = "damaged"  # has to come again
    ANOTHER_SIZE = "another size"
    ANOTHER_KIND = "another kind"  # of channels or depth
    # What deserves a second look: measured in the pixels.
    NOT_NUMBERS = "not numbers"
    BLACK = "black"
    REPEATS = "repeats"
    FLASH = "flash"


class Finding(Value):
    """Something wrong with one frame, in a sentence."""

    kind: FindingKind
    frame: int
    file: str
    what: str
    seen: str = ""  # by a close look: the file's size and time of change when it was decoded


class Found(Value):
    """What was found in the files themselves, at the last look."""

    format: str  # EXR, PNG, TIFF, JPEG
    size: Size
    channels: tuple[str, ...]
    depth: str  # half, float, uint8, uint16
    findings: tuple[Finding, ...] = ()


class Health(StrEnum):
    WHOLE = "whole"
    GAPS = "gaps"
    DAMAGED = "damaged"
    MIXED = "mixed"


class Sequence(Value):
    """A source of numbered frames; a still is one of a single frame."""

    kind: Literal["sequence", "still"] = "sequence"
    id: str
    name: str
    files: Files
    found: Found
    reading: Reading
    expected: tuple[int, int] | None = None  # said by the user, both ends included

    @model_validator(mode="after")
    def expected_runs_forward(self) -> Self:
        if self.expected is not None:
            try:
                FrameRange(*self.expected)
            except WrongUse as error:
                raise ValueError(str(error)) from None
        return self

    @property
    def range(self) -> FrameRange:
        """From the first to the last frame that is there or was expected."""
        found = self.files.range
        if self.expected is None:
            return found
        return FrameRange(min(found.first, self.expected[0]), max(found.last, self.expected[1]))

    @property
    def missing(self) -> tuple[int, ...]:
        """The numbers of the range that have no file."""
        whole, found = self.range, self.files.range
        return (
            *range(whole.first, found.first),
            *self.files.missing,
            *range(found.last + 1, whole.last + 1),
        )

    @property
    def damaged(self) -> tuple[int, ...]:
        return tuple(
            finding.frame for finding in self.found.findings if finding.kind is FindingKind.DAMAGED
        )

    @property
    def to_come_again(self) -> tuple[int, ...]:
        """The frames of the re-render list, in order."""
        return tuple(sorted({*self.missing, *self.damaged}))

    @property
    def health(self) -> Health:
        if self.damaged:
            return Health.DAMAGED
        if self.missing:
            return Health.GAPS
        mixed = (FindingKind.ANOTHER_SIZE, FindingKind.ANOTHER_KIND)
        is_mixed = any(finding.kind in mixed for finding in self.found.findings)
        return Health.MIXED if is_mixed else Health.WHOLE


class Sound(Value):
    """A source of sound. Its samples are counted a channel."""

    kind: Literal["sound"] = "sound"
    id: str
    name: str
    path: str
    format: str
    sample_rate: int = Field(ge=1, le=1_000_000)
    channels: int = Field(ge=1, le=64)
    samples: int = Field(ge=0)


Source = Annotated[Sequence | Sound, Field(discriminator="kind")]


# ---- the reel ------------------------------------------------------------------------------


class Shot(Value):
    """A part of a sequence on the reel; first and last are the files' own numbers."""

    id: str
    source: str
    first: int
    last: int
    framing: Framing = Framing.FIT

    @model_validator(mode="after")
    def runs_forward(self) -> Self:
        if self.last < self.first:
            raise ValueError(f"the shot would run from {self.first} to {self.last}: swap its ends.")
        return self

    @property
    def range(self) -> FrameRange:
        return FrameRange(self.first, self.last)


class LaidSound(Value):
    """A sound on the reel, from the reel's start."""

    source: str


Ground = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]


class Reel(Value):
    """The programme. A size or rate that is not said is the first shot's."""

    size: Size | None = None
    rate: Rate | None = None
    ground: Ground = "#000000"  # sRGB
    shots: tuple[Shot, ...] = ()
    sounds: tuple[LaidSound, ...] = ()
    marked: tuple[int, int] | None = None  # reel frames from 1, both ends included


# ---- deliveries ----------------------------------------------------------------------------


class ConstantQuality(Value):
    """The same quality everywhere: the encoder's own figure, smaller is better."""

    kind: Literal["quality"] = "quality"
    figure: float = Field(default=18.0, ge=0, le=51)


class Bitrate(Value):
    """The same bits for every second, on the average."""

    kind: Literal["bitrate"] = "bitrate"
    bits_per_second: int = Field(ge=10_000, le=2_000_000_000)


Quality = Annotated[ConstantQuality | Bitrate, Field(discriminator="kind")]


class DeliveryState(StrEnum):
    DRAFT = "draft"
    WAITING = "waiting"
    ENCODING = "encoding"
    CHECKING = "checking"
    SEALED = "sealed"
    REFUSED = "refused"
    STOPPED = "stopped"
    SEAL_BROKEN = "seal broken"
    UNSEALED = "unsealed"  # a file without a seal beside it


class Outcome(Value):
    """How the last try at a delivery ended, and what it was made from."""

    state: DeliveryState
    reasons: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    file: str = ""
    size_bytes: int = 0
    sha256: str = ""
    made_from: str = ""  # the programme's key, to tell whether the reel changed since
    made_of: str = ""  # its contents' key, to tell whether a file changed since


class Delivery(Value):
    """One file that is to be made from the reel."""

    id: str
    name: str = Field(min_length=1, max_length=200)
    folder: str
    quality: Quality = ConstantQuality()
    overwrite: bool = False
    outcome: Outcome | None = None

    @model_validator(mode="after")
    def name_stays_in_the_folder(self) -> Self:
        if "/" in self.name or "\0" in self.name or self.name in (".", ".."):
            raise ValueError(f"“{self.name}” is no file name: leave out slashes.")
        return self

    @property
    def path(self) -> Path:
        name = self.name if self.name.lower().endswith(".mp4") else f"{self.name}.mp4"
        return Path(self.folder) / name


# ---- the job -------------------------------------------------------------------------------


class Habits(Value):
    """What this job takes for granted where a file says nothing."""

    rate: Rate | None = None


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
        return self.sequence(self._first_shot().source).found.size

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
