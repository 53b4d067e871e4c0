"""Rate matching: which source frame shows at which frame of the reel.

Reading at another rate changes speed and length: the same frames, another
rate. Converting keeps both and repeats or drops frames. Only the second
needs arithmetic, and it is here, exact.
"""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache

__all__ = ["conversion_words", "convert_rate", "index_at", "length_on_reel", "share_at"]


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

    The source frame that is on screen when the reel frame begins.
    """
    return min(
        index * source.numerator * reel.denominator // (source.denominator * reel.numerator),
        count - 1,
    )


def share_at(at: int, index: int, source: Fraction, reel: Fraction) -> Fraction:
    """How far reel frame `at` is on the way from source frame `index` to the next, 0..1."""
    return min(max(at * source / reel - index, Fraction(0)), Fraction(1))


def convert_rate(count: int, source: Fraction, reel: Fraction) -> list[int]:
    """A source index for each reel frame of `count` frames at rate `source`."""
    length = length_on_reel(count, source, reel)
    return [index_at(index, count, source, reel) for index in range(length)]


def conversion_words(source: Fraction, reel: Fraction) -> str:
    """What the conversion does to the frames, said in words; empty where nothing."""
    if source == reel:
        return ""
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
