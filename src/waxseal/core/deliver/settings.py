"""What a delivery's settings mean: qualities, bitrates, sizes."""

from __future__ import annotations

import re
from enum import StrEnum
from fractions import Fraction

from waxseal.core.errors import WrongUse
from waxseal.core.job.model import Bitrate, Codec, ConstantQuality, Delivery, Size

__all__ = [
    "CONTAINER_OPTIONS",
    "THREADS",
    "Grade",
    "estimated_bytes",
    "parse_bitrate",
    "parse_quality",
    "sound_bits_per_second",
    "stored_size",
]


class Grade(StrEnum):
    """Qualities by name; each is a constant-quality figure of the encoder."""

    DRAFT = "draft"
    GOOD = "good"
    HIGH = "high"
    MASTER = "master"


FIGURES = {Grade.DRAFT: 28.0, Grade.GOOD: 20.0, Grade.HIGH: 16.0, Grade.MASTER: 10.0}

# The stream's bytes depend on the number of threads, so it is not the machine's.
THREADS = 4

BYTES_OF_LIGHT = 6  # three halves

CONTAINER_OPTIONS = {"fflags": "+bitexact", "movflags": "+faststart"}


def stored_size(size: Size) -> tuple[int, int]:
    """Even sides, as 4:2:0 needs them: an odd one grows by one, its last line repeated."""
    return size.width + size.width % 2, size.height + size.height % 2


def sound_bits_per_second(channels: int) -> int:
    return {1: 128_000, 2: 192_000}.get(channels, 384_000)


def estimated_bytes(delivery: Delivery, size: Size, frames: int, rate: Fraction) -> int:
    """About how large a delivery gets. For constant quality a grainy film's guess: rather more.

    Six steps of the figure halve the bits; at 18 a grainy frame takes a third
    of a bit a pixel. Frames of light compress little. Common practice, no source.
    """
    pixels, quality = size.width * size.height, delivery.quality
    if delivery.codec is Codec.EXR:
        return frames * (pixels * BYTES_OF_LIGHT + 4096)
    seconds = float(frames / rate)
    if isinstance(quality, Bitrate):
        bits = quality.bits_per_second * seconds
    else:
        bits = 0.33 * 2 ** ((18 - quality.figure) / 6) * pixels * frames
    return int(bits / 8 + seconds * 48_000 + 64_000)


def parse_quality(text: str) -> ConstantQuality:
    """A grade's name or the encoder's own figure. Raises WrongUse."""
    try:
        return ConstantQuality(figure=FIGURES[Grade(text.strip().lower())])
    except ValueError:
        pass
    try:
        figure = float(text.replace(",", "."))
    except ValueError:
        figure = -1.0
    if not 0 <= figure <= 51:
        raise WrongUse(
            f"“{text}” is no quality: use draft, good, high, master, or a figure from 0 to 51."
        )
    return ConstantQuality(figure=figure)


def parse_bitrate(text: str) -> Bitrate:
    """`5M`, `800k` or plain bits a second. Raises WrongUse."""
    found = re.fullmatch(r"\s*(\d{1,10}(?:[.,]\d{1,3})?)\s*([kKmM]?)(?:bit/s)?\s*", text)
    if found:
        unit = {"": 1, "k": 1000, "m": 1_000_000}[found[2].lower()]
        bits = int(float(found[1].replace(",", ".")) * unit)
        if 10_000 <= bits <= 2_000_000_000:
            return Bitrate(bits_per_second=bits)
    raise WrongUse(f"“{text}” is no bitrate: write it as 5M or 800k (bits a second).")
