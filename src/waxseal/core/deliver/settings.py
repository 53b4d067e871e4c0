"""What a delivery's settings mean to the encoder. One codec in this slice: H.264 in MP4."""

from __future__ import annotations

import re
from enum import StrEnum
from fractions import Fraction

from waxseal.core.errors import WrongUse
from waxseal.core.job.model import Bitrate, ConstantQuality, Size, Space

__all__ = [
    "COLOURS",
    "CONTAINER_OPTIONS",
    "LARGEST_MACROBLOCKS",
    "THREADS",
    "Grade",
    "encoder_options",
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

# ITU-T H.273: primaries, transfer, matrix; limited range. What is sRGB is tagged as BT.709,
# as players take it for: the codes are shown as they are. Only spaces that 8 bits carry.
COLOURS = {
    Space.SRGB: (1, 1, 1, False),
    Space.BT709: (1, 1, 1, False),
    Space.P3: (12, 13, 1, False),
}

# ITU-T H.264, Table A-1, from memory: the largest frame of level 6.2.
LARGEST_MACROBLOCKS = 139_264

CONTAINER_OPTIONS = {"fflags": "+bitexact", "movflags": "+faststart"}


def encoder_options(quality: ConstantQuality | Bitrate) -> dict[str, str]:
    """Options of libx264. cpu-independent: without it the bytes depend on the processor."""
    options = {
        "preset": "medium",
        "profile": "high",
        "x264-params": "open-gop=0:cpu-independent=1",
    }
    if isinstance(quality, ConstantQuality):
        options["crf"] = f"{quality.figure:g}"
    return options


def stored_size(size: Size) -> tuple[int, int]:
    """Even sides, as 4:2:0 needs them: an odd one grows by one, its last line repeated."""
    return size.width + size.width % 2, size.height + size.height % 2


def sound_bits_per_second(channels: int) -> int:
    return {1: 128_000, 2: 192_000}.get(channels, 384_000)


def estimated_bytes(
    quality: ConstantQuality | Bitrate, size: Size, frames: int, rate: Fraction
) -> int:
    """About how large the file gets. For constant quality a grainy film's guess: rather more.

    Six steps of the figure halve the bits; at 18 a grainy frame takes a third
    of a bit a pixel. Common practice, no source.
    """
    seconds = float(frames / rate)
    if isinstance(quality, Bitrate):
        bits = quality.bits_per_second * seconds
    else:
        bits = 0.33 * 2 ** ((18 - quality.figure) / 6) * size.width * size.height * frames
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
