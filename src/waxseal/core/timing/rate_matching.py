"""Rate matching: which source frame shows at which frame of the reel.

Reading at another rate changes speed and length: the same frames, another
rate. Converting keeps both and repeats or drops frames. Only the second
needs arithmetic, and it is here, exact.
"""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache

__all__ = [
    "are_near",
    "conversion_words",
    "convert_rate",
    "index_at",
    "length_on_reel",
    "matched_rate",
    "share_at",
]

NEAR = Fraction(1, 20)  # 24 and 25, 23.976 and 24: nobody hears or sees the one as the other


def are_near(source: Fraction, reel: Fraction) -> bool:
    """Whether two rates are nearly the same, and are not."""
    return source != reel and abs(source / reel - 1) <= NEAR


@lru_cache(maxsize=1024)
def matched_rate(count: int, source: Fraction, reel: Fraction) -> Fraction:
    """The rate that frames are converted from: the reel's own where that is less than a frame off.

    So no frame is shown twice or dropped for a difference that is shorter than one.
    """
    is_less = abs(count * reel / source - count) < 1
    return reel if are_near(source, reel) and is_less else source


@lru_cache(maxsize=1024)  # exact, and so slow: thousands of shots have few different lengths
def length_on_reel(count: int, source: Fraction, reel: Fraction) -> int:
    """How many reel frames `count` frames at rate `source` fill on a reel of rate `reel`.

    The nearest whole number, halves up, at least one: a shot is never longer
    or shorter than its source by as much as one reel frame.
    """
    exact = Fraction(count) * reel / source
    return max(1, int(exact + Fraction(1, 2)))


def index_at(index: int, count: int, source: Fraction, reel: Fraction) -> int:
    """The source index, of `count`, that shows at reel index `index` of a shot, both from 0.

    The source frame that is on screen when the reel frame begins. Of near rates the one
    in the middle of it: a frame that is shown twice or dropped is then within the shot,
    and its first and its last are shown.
    """
    if source == reel:  # mostly; and thousands of shots are asked
        return min(index, count - 1)
    up, down = source.numerator * reel.denominator, source.denominator * reel.numerator
    if are_near(source, reel):
        return min((2 * index + 1) * up // (2 * down), count - 1)
    return min(index * up // down, count - 1)


def share_at(at: int, index: int, source: Fraction, reel: Fraction) -> Fraction:
    """How far reel frame `at` is on the way from source frame `index` to the next, 0..1.

    0 while it is not there yet.
    """
    return min(max(at * source / reel - index, Fraction(0)), Fraction(1))


def convert_rate(count: int, source: Fraction, reel: Fraction) -> list[int]:
    """A source index for each reel frame of `count` frames at rate `source`."""
    source = matched_rate(count, source, reel)
    length = length_on_reel(count, source, reel)
    return [index_at(index, count, source, reel) for index in range(length)]


@lru_cache(maxsize=1024)
def conversion_words(source: Fraction, reel: Fraction, count: int = 0) -> str:
    """What the conversion does to `count` frames, in words; empty where nothing."""
    if source == reel:
        return ""
    if count and matched_rate(count, source, reel) == reel:
        return "every frame once"
    times = reel / source
    if times.denominator == 1:
        words = {2: "twice", 3: "three times", 4: "four times"}
        return f"every frame {words.get(times.numerator, f'{times.numerator} times')}"
    if times.numerator == 1:
        return f"every {times.denominator}{ordinal(times.denominator)} frame"
    if times > 1:
        return "some frames repeated"
    return "some frames dropped"


def ordinal(number: int) -> str:
    if number % 100 in (11, 12, 13):
        return "th"
    return {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
