"""What has arrived: sequences with their files and what was found in them, sounds."""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, model_validator
from typing_extensions import override

from waxseal.core.errors import WrongUse
from waxseal.core.job.frame_states import FrameState
from waxseal.core.job.passes import Pass
from waxseal.core.job.paths import NamePart, PathText
from waxseal.core.job.reading_settings import Origin, Reading
from waxseal.core.job.render_names import Render, render_named
from waxseal.core.job.speeds import Speed
from waxseal.core.job.stack import Stack
from waxseal.core.job.values import FARTHEST, Count, FrameNumber, Value, change
from waxseal.core.timing.ranges import FrameRange, FrameRuns, gaps_between

__all__ = [
    "Files",
    "Finding",
    "FindingKind",
    "Found",
    "Health",
    "Part",
    "Sequence",
    "Size",
    "Sound",
    "Source",
    "shown_width",
    "sparse_sentence",
]

MOST_SAMPLES = 1 << 48  # of a sound: years of it


class Size(Value):
    """Width and height in pixels."""

    width: int = Field(ge=1, le=32_768)
    height: int = Field(ge=1, le=32_768)

    @override
    def __str__(self) -> str:
        return f"{self.width} × {self.height}"

    def seen_in(self, shape: Fraction) -> Size:
        """Of pixels of a shape (width to height), as square ones: the height stays."""
        return self if shape == 1 else change(self, width=shown_width(self.width, shape))

    def kept_in(self, shape: Fraction) -> Size:
        """The other way: how many pixels of a shape are seen so; an even width."""
        if shape == 1:
            return self
        return change(self, width=2 * max(1, round(self.width / shape / 2)))


def shown_width(width: int, shape: Fraction) -> int:
    """Pixels of this shape (width to height) as square ones."""
    return max(1, round(width * shape))


MOST_FRAMES = 10_000_000  # of one source
SPARSE_TIMES = 10  # as many numbers as files, or more: is the range meant?


def are_runs(runs: tuple[tuple[int, int], ...]) -> tuple[tuple[int, int], ...]:
    """Runs of numbers, both ends included: some, in order, apart, and not too many."""
    if not runs:
        raise ValueError("a source has at least one file.")
    before = -FARTHEST - 1
    for first, last in runs:
        if not before < first <= last <= FARTHEST:
            raise ValueError("the runs of a source's frames are in order, and apart.")
        before = last
    if sum(last - first + 1 for first, last in runs) > MOST_FRAMES:
        raise ValueError(f"a source has at most {MOST_FRAMES} frames.")
    return runs


class Files(Value):
    """The files of a sequence: where, how they are named, which numbers there are."""

    folder: PathText
    prefix: NamePart
    suffix: NamePart  # with the dot
    padding: int = Field(ge=0, le=32)  # 0: no number at all, one file
    sign_is_padding: bool = False  # whether -7 is -007 or -0007 at a padding of four
    runs: Annotated[tuple[tuple[FrameNumber, FrameNumber], ...], AfterValidator(are_runs)]
    strays: tuple[tuple[FrameNumber, NamePart], ...] = ()  # others of these numbers
    others: tuple[NamePart, ...] = ()  # of the same folder, that belong to no source

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
    def missing(self) -> FrameRuns:
        return gaps_between(self.runs)

    def has(self, frame: int) -> bool:
        return frame in FrameRuns(self.runs)


class Part(Value):
    """A picture among several in one file: a group of channels, a part, a page."""

    name: str  # as the file has it; empty for the one without a name
    place: Count = 0  # the file's part or page, from 0
    channels: tuple[str, ...]  # by their full names: red, green, blue, alpha, or whatever there is
    is_whole_numbers: bool = False  # as ids are

    @property
    def has_alpha(self) -> bool:
        last = self.channels[-1].rpartition(".")[2].casefold()
        return len(self.channels) in (2, 4) and last in ("a", "alpha")


class FindingKind(StrEnum):
    DAMAGED = "damaged"  # has to come again
    ARRIVING = "still arriving"  # not whole yet, and written a moment ago
    ANOTHER_SIZE = "another size"
    ANOTHER_KIND = "another kind"  # of channels or depth
    NOT_READ = "not read"  # whole, and of a kind that has to be converted
    # What deserves a second look: measured in the pixels.
    NOT_NUMBERS = "not numbers"
    BLACK = "black"
    REPEATS = "repeats"
    FLASH = "flash"
    JUMP = "jump"
    BRIGHT_PIXELS = "lone bright pixels"
    BORDER = "black border"
    # Of its files.
    ODD_SIZE = "odd size"  # of the file
    DATA = "data"  # no picture, by its pixels
    ODD_FILE = "odd file"  # something unusual in it that harms nothing
    STATED_COLOUR = "states another colour"
    STRAY = "stray"  # another file has the same number
    MOVED = "not where it was"  # its folder, or its one file, is gone
    # Of a movie.
    UNEVEN = "uneven"  # its frames do not come at one rate
    HELD = "last frame held"  # its stated length is longer than its frames
    FIELDS = "fields"  # two to a frame
    HIGH_RANGE = "high range"  # of a kind that is not read


class Finding(Value):
    """Something wrong with one frame, in a sentence."""

    kind: FindingKind
    frame: FrameNumber
    file: str
    what: str
    seen: str = ""  # by a close look: the file's size and time of change when it was decoded


class Found(Value):
    """What was found in the files themselves, at the last look."""

    format: str  # EXR, PNG, TIFF, JPEG, DPX, …; a movie's container
    size: Size
    channels: tuple[str, ...]
    depth: str  # half, float, uint8, uint16
    parts: tuple[Part, ...] = ()  # where a file holds more than one picture
    codec: str = ""  # of a movie
    findings: tuple[Finding, ...] = ()
    # Alpha is there and 1 everywhere, as a close look of this process found; in no job file.
    is_opaque: bool = Field(default=False, exclude=True)


class Health(StrEnum):
    WHOLE = "whole"
    MOVED = "not where it was"
    ARRIVING = "still arriving"
    GAPS = "gaps"
    DAMAGED = "damaged"
    NOT_READ = "not read"
    MIXED = "mixed"


class Sequence(Value):
    """A source of numbered frames; a still has a single one, a movie has them in one file."""

    kind: Literal["sequence", "still", "movie"] = "sequence"
    id: str
    name: str
    files: Files
    found: Found
    reading: Reading
    expected: tuple[FrameNumber, FrameNumber] | None = None  # said by the user, both ends included
    belongs: Pass | None = None  # with others that are passes of the same shot
    stack: Stack | None = None  # the passes that it is put together from

    @model_validator(mode="after")
    def expected_runs_forward(self) -> Self:
        if self.expected is not None:
            try:
                FrameRange(*self.expected)
            except WrongUse as error:
                raise ValueError(str(error)) from None
        return self

    # What is asked for again and again; the underscore keeps it out of the fields.
    @cached_property
    def _render(self) -> Render:
        files = self.files
        return render_named(self.kind, files.folder, files.prefix, files.suffix)

    @cached_property
    def _unusable(self) -> dict[FrameState, FrameRuns]:
        if self.is_moved:
            return {FrameState.LOST: FrameRuns(self.files.runs).within(self.range)}
        damaged = frozenset(self.damaged)
        not_read = self.not_read - damaged
        found = {
            FrameState.MISSING: self.missing,
            FrameState.DAMAGED: FrameRuns().joined(damaged),
            FrameState.NOT_READ: FrameRuns().joined(not_read),
            FrameState.ARRIVING: FrameRuns().joined(self.unreadable - damaged - not_read),
        }
        return {state: runs for state, runs in found.items() if runs}

    @cached_property
    def _range(self) -> FrameRange:
        if self.reading.range is not None:
            return FrameRange(*self.reading.range.value)
        return self.whole_range

    @cached_property
    def _to_rerender(self) -> FrameRuns:
        return self.missing.joined(self.damaged)

    @property
    def full_name(self) -> str:
        """The name, and which pass of its shot it is where that is not in it."""
        kind = str(self.belongs.kind) if self.belongs is not None else ""
        split = self.belongs.split if self.belongs is not None else ""
        words = " ".join(word for word in (split, kind) if word)
        return self.name if not words or kind in self.name.casefold() else f"{self.name} ({words})"

    @property
    def range(self) -> FrameRange:
        """The frames that are wanted: those of the reading, else all there are or should be."""
        return self._range

    @property
    def whole_range(self) -> FrameRange:
        """From the first to the last frame that is there or was expected, wanted or not."""
        found = self.files.range
        if self.expected is None:
            return found
        return FrameRange(min(found.first, self.expected[0]), max(found.last, self.expected[1]))

    @property
    def unexpected(self) -> tuple[int, ...]:
        """The numbers of files that are there and should not be, by what was said."""
        if self.expected is None:
            return ()
        before, after = self.expected
        numbers = (n for first, last in self.files.runs for n in range(first, last + 1))
        return tuple(n for n in numbers if not before <= n <= after)

    @property
    def shown_size(self) -> Size:
        """The size in square pixels: the height stays, the width follows from the pixel shape."""
        return self.found.size.seen_in(self.reading.pixel_shape.value)

    @property
    def missing(self) -> FrameRuns:
        """The numbers of the range that have no file."""
        return self._missing

    @cached_property
    def _missing(self) -> FrameRuns:
        return FrameRuns(self.files.runs).outside_in(self.range)

    @property
    def is_sparse(self) -> bool:
        """Whether so few of its frames are there that a number may be mistyped: it is asked about.

        Not once somebody has said which frames there should be.
        """
        has_range = self.expected is not None or self.reading.range is not None
        return not has_range and self.files.range.count > SPARSE_TIMES * self.files.count

    @property
    def count(self) -> int:
        """How many of the wanted frames have a file."""
        return self.range.count - len(self.missing)

    @property
    def findings(self) -> tuple[Finding, ...]:
        """What is wrong with the frames that are wanted."""
        if self.reading.range is None:
            return self.found.findings
        wanted = self.range
        return tuple(finding for finding in self.found.findings if finding.frame in wanted)

    @property
    def damaged(self) -> tuple[int, ...]:
        return tuple(
            finding.frame for finding in self.findings if finding.kind is FindingKind.DAMAGED
        )

    @property
    def not_read(self) -> frozenset[int]:
        """The frames whose files are of a kind that is not read."""
        kind = FindingKind.NOT_READ
        return frozenset(finding.frame for finding in self.findings if finding.kind is kind)

    @property
    def unreadable(self) -> frozenset[int]:
        """The frames whose files cannot be used now: damaged, not read, or still being written."""
        if self.is_moved:
            return frozenset(n for first, last in self.files.runs for n in range(first, last + 1))
        kinds = (FindingKind.DAMAGED, FindingKind.NOT_READ, FindingKind.ARRIVING)
        return frozenset(finding.frame for finding in self.findings if finding.kind in kinds)

    @property
    def render(self) -> Render:
        """Which render it is, and which version of it, by its name."""
        return self._render

    @property
    def unusable(self) -> dict[FrameState, FrameRuns]:
        """The frames of its range that cannot be used, by why. None is under two states."""
        return self._unusable

    @property
    def is_moved(self) -> bool:
        """Whether its folder or its one file is not where it was."""
        return any(finding.kind is FindingKind.MOVED for finding in self.found.findings)

    @property
    def is_part_guessed(self) -> bool:
        """Whether the part that is shown is a guess; not where all are put together."""
        is_whole = self.stack is not None and self.stack.on
        return self.reading.part.origin is Origin.GUESS and not is_whole

    @property
    def is_of_unread_range(self) -> bool:
        """Whether its colour is of a high range that is not read, and nobody has said another."""
        is_said = self.reading.colour.origin is Origin.SAID
        kinds = {finding.kind for finding in self.found.findings}
        return not is_said and FindingKind.HIGH_RANGE in kinds

    @property
    def is_arriving(self) -> bool:
        if not self.found.findings:  # of most: this is asked of thousands at each change
            return False
        return any(finding.kind is FindingKind.ARRIVING for finding in self.findings)

    @property
    def to_rerender(self) -> FrameRuns:
        """The frames of the re-render list, in order."""
        return self._to_rerender

    @property
    def health(self) -> Health:
        return self._health

    @cached_property
    def _health(self) -> Health:
        if self.is_moved:
            return Health.MOVED
        kinds = {finding.kind for finding in self.findings}
        if FindingKind.DAMAGED in kinds:
            return Health.DAMAGED
        if FindingKind.NOT_READ in kinds:
            return Health.NOT_READ
        if FindingKind.ARRIVING in kinds:
            return Health.ARRIVING
        if self.missing:
            return Health.GAPS
        is_mixed = bool(kinds & {FindingKind.ANOTHER_SIZE, FindingKind.ANOTHER_KIND})
        return Health.MIXED if is_mixed else Health.WHOLE


class Sound(Value):
    """A source of sound. Its samples are counted a channel.

    start: where it begins in the day, in samples, as a recorder wrote it.
    of_movie: whether the file is a movie.
    damage: what of its file is missing or cannot be read, as the rest of a sentence.
    accepted: whether somebody has said that it is used though it is not whole.
    speed: how many times as fast as it was recorded it is heard, higher with it: as the
        frames that it belongs to, where those are read at another rate.
    """

    kind: Literal["sound"] = "sound"
    id: str
    name: str
    path: PathText
    format: str
    sample_rate: int = Field(ge=1, le=1_000_000)
    channels: int = Field(ge=1, le=64)
    samples: int = Field(ge=0, le=MOST_SAMPLES)
    start: int | None = Field(default=None, ge=-MOST_SAMPLES, le=MOST_SAMPLES)
    of_movie: bool = False
    damage: str = ""
    accepted: bool = False
    speed: Speed = Fraction(1)

    @property
    def heard_rate(self) -> Fraction:
        """Its samples that are heard in a second."""
        return self.sample_rate * self.speed

    @property
    def seconds(self) -> Fraction:
        return self.samples / self.heard_rate


Source = Annotated[Sequence | Sound, Field(discriminator="kind")]


def sparse_sentence(source: Sequence) -> str:
    """What to say of a source of which less than a tenth is there."""
    files = source.files
    return (
        f"Only {files.count} of the {files.range.count} frames {files.range} of {source.name} are "
        "there. If a number is mistyped, rename its file; else say which frames there should be."
    )
