"""What people type where a number of frames is wanted: frames, timecode, seconds, sums."""

from __future__ import annotations

import re
from fractions import Fraction

from waxseal.core.errors import WrongUse
from waxseal.core.timing.timecode import Counting, from_timecode

__all__ = [
    "parse_exact",
    "parse_frames",
    "parse_number",
    "parse_place",
    "parse_place_from",
    "parse_seconds",
]

TIMECODE, SECONDS = r"\d{1,9}(?:[:;]\d{1,2}){1,3}", r"\d{1,9}(?:[.,]\d{1,6})?\s*s"
TERM = re.compile(rf"\s*([+-]?)\s*({TIMECODE}|{SECONDS}|\d{{1,9}})\s*")


def parse_frames(
    text: str, rate: Fraction | None = None, counting: Counting = Counting.NON_DROP
) -> int:
    """A number of frames: `96`, `00:00:04:00`, `00:00:04;00`, `4s`, and sums such as `96+12`.

    rate: needed for timecode and seconds. counting: how timecode is meant that is
    written with `:` throughout; with a `;` it is drop-frame. Raises WrongUse.
    """
    at, total, first = 0, 0, True
    while at < len(text):
        found = TERM.match(text, at)
        if not found or (not first and not found[1]):
            raise wrong(text)
        frames = term(found[2].strip(), rate, text, counting)
        total += -frames if found[1] == "-" else frames
        at, first = found.end(), False
    if first:
        raise wrong(text)
    return total


def term(written: str, rate: Fraction | None, text: str, counting: Counting) -> int:
    if written.isdecimal():
        return int(written)
    if rate is None:
        raise WrongUse(f"“{text}” needs a rate: write a number of frames.")
    if written.endswith("s"):
        return round(Fraction(written[:-1].strip().replace(",", ".")) * rate)
    parts = tuple(int(part) for part in re.split("[:;]", written))
    return from_timecode(parts, rate, Counting.DROP if ";" in written else counting)


def parse_place(text: str, rate: Fraction | None, counting: Counting = Counting.NON_DROP) -> int:
    """A frame counted from 1: `104`, or the frame at a timecode. Raises WrongUse."""
    frames = parse_frames(text, rate, counting)
    return frames + 1 if set(text) & set(":;s") else frames


def parse_place_from(
    text: str, now: int, rate: Fraction | None, counting: Counting = Counting.NON_DROP
) -> int:
    """The same; `+10` and `-10` are that many frames from the frame `now`. Raises WrongUse."""
    sign, rest = text.strip()[:1], text.strip()[1:]
    if sign not in ("+", "-", "−") or not rest:
        return parse_place(text, rate, counting)
    away = parse_frames(rest, rate, counting)
    return max(1, now + (away if sign == "+" else -away))


SIGNED = re.compile(r"\s*([+-]?\d{1,9}(?:[.,]\d{1,9})?)\s*")
NUMBER = re.compile(r"\s*([+-]?)\s*(\d{1,9}(?:[.,]\d{0,9})?|[.,]\d{1,9})\s*")


def parse_number(text: str) -> float:
    """A plain number, or a sum: `0.5`, `0,5`, `-1+0.25`. Raises WrongUse."""
    at, total = 0, 0.0
    while at < len(text):
        found = NUMBER.match(text, at)
        if not found or (at and not found[1]):
            raise WrongUse(f"“{text}” is not a number: write 0.5 or 1+0.25.")
        value = float(found[2].replace(",", "."))
        total += -value if found[1] == "-" else value
        at = found.end()
    if not at:
        raise WrongUse(f"“{text}” is not a number: write 0.5 or 1+0.25.")
    return total


def parse_exact(text: str) -> Fraction:
    """A number, exactly as it is written: `25`, `25.1`, `-3`. Raises WrongUse."""
    found = SIGNED.fullmatch(text)
    if not found:
        raise WrongUse(f"“{text}” is not a number: write 25, 25.1 or -3.")
    return Fraction(found[1].replace(",", "."))


def parse_seconds(text: str) -> Fraction:
    """A length in seconds: `1.5`, `0,25`, `2 s`. Raises WrongUse."""
    seconds = parse_exact(text.strip().removesuffix("s"))
    if seconds < 0:
        raise WrongUse(f"“{text}” is less than nothing: write a number of seconds.")
    return seconds


def wrong(text: str) -> WrongUse:
    return WrongUse(f"“{text}” is not a number of frames: write 96, 00:00:04:00, 4s or 96+12.")
