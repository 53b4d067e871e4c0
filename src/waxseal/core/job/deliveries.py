"""The files that are to be made from the reel, and how the last try at each ended."""

from __future__ import annotations

import hashlib
from enum import StrEnum
from fractions import Fraction
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from waxseal.core.job.colour_settings import Space
from waxseal.core.job.mastering import MasteringText
from waxseal.core.job.paths import PathText
from waxseal.core.job.reading_settings import Alpha, PixelShape
from waxseal.core.job.reel import Framing
from waxseal.core.job.sources import Size
from waxseal.core.job.values import Count, FrameNumber, Value
from waxseal.core.timing.rates import Rate
from waxseal.core.timing.timecode import StartTimecode

__all__ = [
    "LEAST_BITS",
    "MOST_BITS",
    "Bitrate",
    "ConstantQuality",
    "Delivery",
    "DeliveryState",
    "Grade",
    "Graded",
    "Outcome",
    "Quality",
]


# Settings that came later: what was sealed before there were any has the same key still.
LATER = (
    *("container", "alpha", "size", "framing", "rate", "range"),
    *("key_seconds", "most_bytes"),
    *("sound_codec", "loudness", "true_peak", "timecode", "no_flashes"),
    *("mastering", "pixel_shape", "sound_bits", "sound_channels"),
)


class Grade(StrEnum):
    """A quality by name; each codec says what it is to it."""

    DRAFT = "draft"
    GOOD = "good"
    HIGH = "high"
    MASTER = "master"


class Graded(Value):
    """The same quality everywhere, by its grade."""

    kind: Literal["grade"] = "grade"
    grade: Grade = Grade.HIGH


class ConstantQuality(Value):
    """The same quality everywhere: the codec's own figure."""

    kind: Literal["quality"] = "quality"
    figure: float = Field(ge=-1000, le=1000)


LEAST_BITS, MOST_BITS = 10_000, 2_000_000_000  # a second


class Bitrate(Value):
    """The same bits for every second, on the average."""

    kind: Literal["bitrate"] = "bitrate"
    bits_per_second: int = Field(ge=LEAST_BITS, le=MOST_BITS)


Quality = Annotated[Graded | ConstantQuality | Bitrate, Field(discriminator="kind")]


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
    size_bytes: Count = 0
    segments_made: Count = 0  # encoded in this try
    segments_kept: Count = 0  # encoded before, and used again
    seconds: float = Field(default=0.0, ge=0.0)
    sha256: str = ""
    signed_by: str = ""  # the key that signed its seal
    made_from: str = ""  # the programme's key, to tell whether the reel changed since
    made_of: str = ""  # its contents' key, to tell whether a file changed since
    made_as: str = ""  # the delivery's key, to tell whether its settings changed since


class Delivery(Value):
    """One file, or one folder of frames, that is to be made from the reel.

    codec, container: by their names (see `deliver`); empty for the codec's usual container.
    alpha: how colour is related to it in the file; NONE where a ground is under everything.
    spec: of the spec book, by its name; empty for none.
    size, framing: of its frame, where it is another than the reel's, and how the reel's
    picture sits in it. pixel_shape: of its pixels, width to height; without a size of its own
    the frame is then narrower or wider than the reel's. rate: where it is another. range: reel
    frames, both ends included; None for the marked ones, or all.
    key_seconds: from one key frame to the next at the most; 0 for the codec's usual.
    most_bytes: more is refused; 0 for any.
    sound_codec: by its name; empty for the container's usual one.
    sound_bits: of its sound, a second, where its codec has a bitrate; 0 for the usual.
    sound_channels: 1, 2 or 6, that the mix is mixed to; 0 for as many as it has.
    loudness: of the whole sound, in LUFS; true_peak: the most, in dBTP; None to leave it.
    no_flashes: whether flashes that may harm are refused, and not only said.
    timecode: of the file's first frame, `01:00:00:00`; empty for none.
    mastering: the display that it was judged on, `P3 1000 0.005`; empty where nothing is said.
    lut: a LUT's file that the finished numbers go through at the very end.
    dither: whether what is rounded to codes is spread, hides steps in soft gradients.
    exact: whether a view is worked out for each pixel, rather than read from a table.
    """

    id: str
    name: str = Field(min_length=1, max_length=200)
    folder: PathText
    codec: str = Field(default="H.264", min_length=1, max_length=40)
    container: str = Field(default="", max_length=40)
    alpha: Alpha = Alpha.NONE
    spec: str = Field(default="", max_length=100)
    size: Size | None = None
    framing: Framing = Framing.FIT
    pixel_shape: PixelShape = Fraction(1)
    rate: Rate | None = None
    range: tuple[FrameNumber, FrameNumber] | None = None
    key_seconds: float = Field(default=0.0, ge=0, le=600)
    most_bytes: Count = 0
    sound_codec: str = Field(default="", max_length=40)
    sound_bits: int = Field(default=0, ge=0, le=640_000)
    sound_channels: Literal[0, 1, 2, 6] = 0
    loudness: float | None = Field(default=None, ge=-40, le=-5)
    true_peak: float | None = Field(default=None, ge=-20, le=0)
    timecode: StartTimecode = ""
    no_flashes: bool = False
    mastering: MasteringText = ""
    quality: Quality = Graded()
    space: Space = Space.SRGB
    lut: PathText = ""
    dither: bool = False
    exact: bool = False
    outcome: Outcome | None = None

    @model_validator(mode="after")
    def name_stays_in_the_folder(self) -> Self:
        if "/" in self.name or "\0" in self.name or self.name in (".", ".."):
            raise ValueError(f"“{self.name}” cannot be a file name: leave out slashes.")
        return self

    @property
    def key(self) -> str:
        """What its file depends on besides the reel, as a hash."""
        settings: tuple[object, ...] = (
            *(self.codec, self.quality, self.space, self.lut, self.dither, self.exact),
        )
        fields = type(self).model_fields
        settings += tuple(
            (name, getattr(self, name))
            for name in LATER
            if getattr(self, name) != fields[name].default
        )
        return hashlib.blake2b(
            repr(settings).encode("utf-8", "backslashreplace"), digest_size=16
        ).hexdigest()
