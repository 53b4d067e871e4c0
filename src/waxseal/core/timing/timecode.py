"""Timecode and lengths as people read them."""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction

__all__ = ["Counting", "length_words", "seconds_words", "to_timecode"]


class Counting(StrEnum):
    """How timecode numbers frames at the 1001 rates."""

    NON_DROP = "non-drop"
    DROP = "drop"


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


def length_words(frames: int, rate: Fraction) -> str:
    """A length in whole seconds and frames: `4 s 0 f`, `1 min 2 s 5 f`."""
    seconds, rest = divmod(frames, rate)
    minutes, seconds = divmod(int(seconds), 60)
    words = f"{seconds} s {int(rest)} f"
    return f"{minutes} min {words}" if minutes else words


def seconds_words(frames: int, rate: Fraction) -> str:
    """A length in seconds to the thousandth: `4.000 s`."""
    return f"{float(frames / rate):.3f} s"
