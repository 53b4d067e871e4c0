"""Qualities and bitrates as people type them."""

from __future__ import annotations

import re

from waxseal.core.errors import WrongUse
from waxseal.core.job.deliveries import LEAST_BITS, MOST_BITS
from waxseal.core.job.model import Bitrate, ConstantQuality, Grade, Graded, Outcome, Quality

__all__ = [
    "bitrate_words",
    "last_bitrate_words",
    "parse_bitrate",
    "parse_bytes",
    "parse_level",
    "parse_quality",
]


def parse_quality(text: str) -> Graded | ConstantQuality:
    """A grade's name or a codec's own figure. Raises WrongUse."""
    try:
        return Graded(grade=Grade(text.strip().lower()))
    except ValueError:
        pass
    found = re.fullmatch(r"\s*(-?\d{1,3}(?:[.,]\d{1,3})?)\s*", text)
    if not found:
        raise WrongUse(
            f"“{text}” is not a quality: use draft, good, high, master, or the codec's own figure."
        )
    return ConstantQuality(figure=float(found[1].replace(",", ".")))


def parse_bitrate(text: str) -> Bitrate:
    """`5M`, `800k` or plain bits a second. Raises WrongUse."""
    found = re.fullmatch(r"\s*(\d{1,10}(?:[.,]\d{1,3})?)\s*([kKmM]?)(?:b|bps|b/s|bit/s)?\s*", text)
    if not found:
        raise WrongUse(f"“{text}” is not a bitrate: write it as 5M or 800k (bits a second).")
    unit = {"": 1, "k": 1000, "m": 1_000_000}[found[2].lower()]
    bits = int(float(found[1].replace(",", ".")) * unit)
    if not LEAST_BITS <= bits <= MOST_BITS:
        raise WrongUse(f"“{text}”: a bitrate is 10k to 2000M, in bits a second.")
    return Bitrate(bits_per_second=bits)


def parse_bytes(text: str) -> int:
    """`8 MB`, `500 kB`, `2 GiB`, or plain bytes. Raises WrongUse."""
    found = re.fullmatch(r"\s*(\d{1,12}(?:[.,]\d{1,3})?)\s*([kKMGT]?)(i?)B?\s*", text)
    if not found:
        raise WrongUse(f"“{text}” is not a size of a file: write it as 8 MB or 500 kB.")
    step = 1024 if found[3] else 1000
    power = " kMGT".find(found[2].replace("K", "k")) if found[2] else 0
    size = int(float(found[1].replace(",", ".")) * step**power)
    if size < 1:
        raise WrongUse(f"“{text}”: a file has at least one byte.")
    return size


def parse_level(text: str) -> float:
    """A loudness or a peak, below 0: `-14`, `−1.5 dBTP`, `-23 LUFS`. Raises WrongUse."""
    found = re.fullmatch(
        r"\s*([-\u2212]?)\s*(\d{1,2}(?:[.,]\d{1,2})?)\s*(?:LUFS|dBTP|dB)?\s*", text, re.IGNORECASE
    )
    if not found or (not found[1] and float(found[2].replace(",", ".")) != 0):
        raise WrongUse(f"“{text}” is not a level: write it as -14 (LUFS) or -1 (dBTP).")
    return -float(found[2].replace(",", ".")) or 0.0


def bitrate_words(quality: Quality) -> str:
    """A bitrate as it is typed; empty for a quality."""
    return bits_words(quality.bits_per_second) if isinstance(quality, Bitrate) else ""


def last_bitrate_words(outcome: Outcome | None) -> str:
    """What the finished file took, sound and all, as it would be typed; empty without one."""
    if outcome is None or not outcome.size_bytes or not outcome.seconds:
        return ""
    return bits_words(float(f"{outcome.size_bytes * 8 / outcome.seconds:.3g}"))


def bits_words(bits: float) -> str:
    return f"{bits / 1e6:g}M" if bits >= 1_000_000 else f"{bits / 1e3:g}k"
