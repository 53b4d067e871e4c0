"""The files that are to be made from the reel, and how the last try at each ended."""

from __future__ import annotations

import hashlib
from enum import StrEnum
from pathlib import Path
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from waxseal.core.job.colourway import Space
from waxseal.core.job.values import Value

__all__ = ["Bitrate", "Codec", "ConstantQuality", "Delivery", "DeliveryState", "Outcome", "Quality"]


MP4 = ".mp4"


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
    made_as: str = ""  # the delivery's key, to tell whether its settings changed since


class Codec(StrEnum):
    """How the pictures are kept."""

    H264 = "H.264"  # 8 bits, 4:2:0
    H265 = "H.265"  # 10 bits, 4:2:0
    EXR = "EXR"  # a file a frame, scene-linear halves


class Delivery(Value):
    """One file that is to be made from the reel.

    lut: a LUT's file that the finished numbers go through at the very end.
    dither: whether what is rounded to codes is spread, against steps in soft light.
    exact: whether a view is worked out for each pixel, rather than read from a cube.
    """

    id: str
    name: str = Field(min_length=1, max_length=200)
    folder: str
    codec: Codec = Codec.H264
    quality: Quality = ConstantQuality()
    space: Space = Space.SRGB
    lut: str = ""
    dither: bool = False
    exact: bool = False
    overwrite: bool = False
    outcome: Outcome | None = None

    @model_validator(mode="after")
    def name_stays_in_the_folder(self) -> Self:
        if "/" in self.name or "\0" in self.name or self.name in (".", ".."):
            raise ValueError(f"“{self.name}” is no file name: leave out slashes.")
        return self

    @property
    def key(self) -> str:
        """What its file depends on besides the reel, as a hash."""
        settings = (self.codec, self.quality, self.space, self.lut, self.dither, self.exact)
        return hashlib.blake2b(
            repr(settings).encode("utf-8", "backslashreplace"), digest_size=16
        ).hexdigest()

    @property
    def path(self) -> Path:
        """Its file; of frames their folder."""
        stem = self.name[: -len(MP4)] if self.name.lower().endswith(MP4) else self.name
        if self.codec is Codec.EXR:
            return Path(self.folder) / (stem or self.name)
        return Path(self.folder) / (self.name if stem != self.name else f"{self.name}{MP4}")

    @property
    def aside(self) -> Path:
        """Where goes what was made and is not good enough: never under the asked-for name."""
        if self.codec is Codec.EXR:
            return self.path.with_name(f"{self.path.name}.refused")
        return self.path.with_name(f"{self.path.stem}.refused{self.path.suffix}")

    def frame_name(self, frame: int) -> str:
        """The file of a frame, where it is delivered as frames."""
        return f"{self.path.name}.{frame:04d}.exr"

    def is_frame(self, name: str) -> bool:
        """Whether a file has the name of one of its frames."""
        number = name.removeprefix(f"{self.path.name}.").removesuffix(".exr")
        return number.isdecimal() and name == self.frame_name(int(number))
