"""The facts of a finished file, whatever it is."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from waxseal.core.picture.arrays import Planes
from waxseal.core.progress import CancelToken
from waxseal.core.safe_open import open_regular
from waxseal.core.seal.measure.mp4_boxes import Boxes
from waxseal.core.sound.loudness import Loudness

__all__ = ["Look", "Measured", "SoundFacts", "checksum"]

BLOCK_BYTES = 1 << 20
Look = Callable[[int, Planes], None]  # a frame's place, from 0, and its planes, valid in the call


@dataclass(frozen=True, slots=True)
class SoundFacts:
    """seconds: as the container shows it, without the encoder's delay and padding."""

    codec: str
    sample_rate: int
    channels: int
    seconds: Fraction


@dataclass(frozen=True, slots=True)
class Measured:
    """The facts of a video file.

    rate: frames a second, exact; None where the frames do not come at a constant rate,
        or have none: a file a frame need not say any.
    is_uneven: whether it is the first of the two.
    colour: primaries, transfer, matrix (ITU-T H.273), full range, of the stream.
    boxes: what the boxes of an MP4 say; None if it is not one, or they cannot be read.
    loudness: of its sound; None where there is none, or no weights for its channels.
    timecode: of its first frame; empty where it says none.
    level: what the file says that a decoder has to have, `4.1`; empty where it says none.
    key_gap: frames from one key frame to the next, or to the end, at the most.
    stream: the digest of its pictures as they lie in it, see seal.stream.
    pixel_shape: width to height; 1 where it says none.
    stated_seconds: the length of the pictures as the container states it; None where it states
        none, or where its boxes say it.
    strangers: names in a folder of frames that are no part of a delivery.
    """

    width: int
    height: int
    frames: int
    rate: Fraction | None
    seconds: float
    codec: str
    profile: str
    pixel_format: str
    colour: tuple[int, int, int, bool]
    sound: SoundFacts | None
    boxes: Boxes | None
    size_bytes: int
    sha256: str
    damaged_frames: int
    stream: str = ""
    is_uneven: bool = False
    key_gap: int = 1
    level: str = ""
    loudness: Loudness | None = None
    timecode: str = ""
    pixel_shape: Fraction = Fraction(1)
    stated_seconds: Fraction | None = None
    strangers: tuple[str, ...] = ()


def checksum(path: Path, token: CancelToken | None = None) -> str:
    """SHA-256 in hexadecimal. Raises OSError, Cancelled."""
    total = hashlib.sha256()
    with open_regular(path) as file:
        while block := file.read(BLOCK_BYTES):
            total.update(block)
            if token is not None:
                token.check()
    return total.hexdigest()
