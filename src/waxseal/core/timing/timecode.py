"""Timecode and lengths as people read them."""

from __future__ import annotations

import re
from enum import StrEnum
from fractions import Fraction
from typing import Annotated

from pydantic import AfterValidator

from waxseal.core.errors import WrongUse

__all__ = [
    "Counting",
    "StartTimecode",
    "can_drop",
    "from_timecode",
    "length_words",
    "seconds_words",
    "to_timecode",
]


class Counting(StrEnum):
    """How timecode numbers frames at the 1001 rates."""

    NON_DROP = "non-drop"
    DROP = "drop"


def timecode_text(text: str) -> str:
    """A timecode as it is written into a file, or nothing. Raises ValueError."""
    text = text.strip()
    if text and not re.fullmatch(r"\d{2}:\d{2}:\d{2}[:;]\d{2,3}", text):
        raise ValueError(f"“{text}” is not a timecode: write it as 01:00:00:00.")
    return text


StartTimecode = Annotated[str, AfterValidator(timecode_text)]


def can_drop(rate: Fraction) -> bool:
    """Whether timecode may be counted by drop-frame: at 29.97 and its multiples."""
    return rate.denominator == 1001 and rate.numerator % 30_000 == 0


def to_timecode(frame: int, rate: Fraction, counting: Counting = Counting.NON_DROP) -> str:
    """Timecode HH:MM:SS:FF of a frame counted from 0; `;` before the frames when dropping.

    Drop-frame skips the first numbers of each minute but the tenth, so that
    the numbers keep up with the clock at 30000/1001 and 60000/1001.
    Source: SMPTE ST 12-1.
    """
    per_second = max(1, round(rate))
    if counting is Counting.DROP:
        dropped = per_second // 15  # 2 at 29.97, 4 at 59.94
        per_minute = per_second * 60 - dropped
        per_ten = per_minute * 10 + dropped
        tens, rest = divmod(frame, per_ten)
        frame += tens * 9 * dropped
        if rest >= per_second * 60:
            frame += ((rest - per_second * 60) // per_minute + 1) * dropped
    seconds, frames = divmod(frame, per_second)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    mark = ";" if counting is Counting.DROP else ":"
    return f"{hours:02}:{minutes:02}:{seconds:02}{mark}{frames:02}"


def from_timecode(
    parts: tuple[int, ...], rate: Fraction, counting: Counting = Counting.NON_DROP
) -> int:
    """The frame, from 0, that a timecode names; parts: up to hours, minutes, seconds, frames.

    Raises WrongUse for a number that is skipped by drop-frame, or at a rate that has none.
    """
    hours, minutes, seconds, frames = (*(0,) * (4 - len(parts)), *parts)
    per_second = max(1, round(rate))
    whole = ((hours * 60 + minutes) * 60 + seconds) * per_second + frames
    if counting is Counting.NON_DROP:
        return whole
    if not can_drop(rate):
        raise WrongUse("Drop-frame timecode is for 29.97 and 59.94: write it with : throughout.")
    dropped, minute = per_second // 15, hours * 60 + minutes
    if minute % 10 and seconds == 0 and frames < dropped:
        raise WrongUse(
            f"Drop-frame timecode has no {hours:02}:{minutes:02}:00;{frames:02}: "
            f"the minute begins with ;{dropped:02}."
        )
    return whole - dropped * (minute - minute // 10)


def length_words(frames: int, rate: Fraction) -> str:
    """A length in whole seconds and frames: `4 s 0 f`, `1 min 2 s 5 f`."""
    seconds, rest = divmod(frames, rate)
    minutes, seconds = divmod(int(seconds), 60)
    words = f"{seconds} s {int(rest)} f"
    return f"{minutes} min {words}" if minutes else words


def seconds_words(frames: int, rate: Fraction) -> str:
    """A length in seconds to the thousandth: `4.000 s`."""
    return f"{float(frames / rate):.3f} s"
