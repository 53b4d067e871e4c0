"""Frame rates: exact fractions, read from what people type and written back."""

from __future__ import annotations

import re
from fractions import Fraction
from functools import lru_cache
from typing import Annotated

from pydantic import AfterValidator, BeforeValidator, PlainSerializer

from waxseal.core.errors import WrongUse

__all__ = ["Rate", "is_possible", "parse_rate", "rate_words", "refuse_float", "write_rate"]

SLOWEST = Fraction(1, 60)  # one frame a minute: the slowest that a programme is made at
FASTEST = Fraction(1000)

# SMPTE ST 12-1: what the trade writes short, and what is meant.
SHORT_FORMS = {
    "23.976": Fraction(24_000, 1001),
    "23.98": Fraction(24_000, 1001),
    "29.97": Fraction(30_000, 1001),
    "47.952": Fraction(48_000, 1001),
    "47.95": Fraction(48_000, 1001),
    "59.94": Fraction(60_000, 1001),
    "119.88": Fraction(120_000, 1001),
    "239.76": Fraction(240_000, 1001),
}


def parse_rate(text: str) -> Fraction:
    """Read a rate: `24`, `24000/1001`, `12.5`; `23.976` is taken as 24000/1001.

    Returns frames a second. Raises WrongUse.
    """
    written = text.strip().replace(",", ".")
    short = written.rstrip("0") if "." in written else written  # 29.970 is 29.97
    if short in SHORT_FORMS:
        return SHORT_FORMS[short]
    if not re.fullmatch(r"\d{1,9}(\.\d{1,6}|/\d{1,9})?", written) or written.endswith("/0"):
        raise WrongUse(f"“{text}” is not a frame rate: write it as 24, 12.5 or 24000/1001.")
    try:
        rate = Fraction(written)
    except ZeroDivisionError:
        raise WrongUse(f"“{text}” divides by zero: write the rate as 24 or 24000/1001.") from None
    return in_bounds(rate)


def in_bounds(rate: Fraction) -> Fraction:
    """The rate itself. Raises WrongUse for one that no programme is made at."""
    if not is_possible(rate):
        raise WrongUse(
            f"A rate of {write_rate(rate)} frames a second is outside "
            f"{write_rate(SLOWEST)} to {write_rate(FASTEST)}: write another."
        )
    return rate


def is_possible(rate: Fraction) -> bool:
    """Whether a programme can be made at a rate."""
    return SLOWEST <= rate <= FASTEST


def write_rate(rate: Fraction) -> str:
    """The exact text of a rate: `24` or `24000/1001`."""
    return str(rate)


@lru_cache(maxsize=256)  # exact, and so slow: thousands of shots have few different rates
def rate_words(rate: Fraction) -> str:
    """A rate as it is said: whole, with few decimals where exact, or the short form."""
    for text, exact in SHORT_FORMS.items():
        if rate == exact:
            return text
    if rate.denominator == 1:
        return str(rate)
    decimal = f"{float(rate):.6f}".rstrip("0")
    return decimal if Fraction(decimal) == rate else str(rate)


def refuse_float(rate: object) -> object:
    """For validators: a rounded rate is refused, text and exact numbers pass."""
    if isinstance(rate, float):
        raise ValueError(f"{rate} is rounded: write a fraction, as 24000/1001.")
    if isinstance(rate, str):
        try:
            return parse_rate(rate)
        except WrongUse as error:
            raise ValueError(str(error)) from None
    return rate


def possible(rate: Fraction) -> Fraction:
    """For validators: the rate itself, or ValueError."""
    try:
        return in_bounds(rate)
    except WrongUse as error:
        raise ValueError(str(error)) from None


Rate = Annotated[
    Fraction,
    BeforeValidator(refuse_float),
    AfterValidator(possible),
    PlainSerializer(write_rate),
]
