"""Speeds: how many times as fast as they are read pictures or sound are shown, exactly."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated

from pydantic import AfterValidator, BeforeValidator, PlainSerializer

from waxseal.core.timing.exact_rates import read_exact

__all__ = ["Speed"]


def as_speed(speed: object) -> object:
    if isinstance(speed, str):
        try:
            return read_exact(speed)
        except ValueError:
            raise ValueError(f"“{speed}” is not a speed: 1 is as read, 1/2 is half.") from None
    return speed


def in_bounds(speed: Fraction) -> Fraction:
    if not Fraction(1, 1000) <= speed <= 1000:
        raise ValueError("a speed goes from 0.1 to 100 000 per cent.")
    return speed


Speed = Annotated[
    Fraction, BeforeValidator(as_speed), AfterValidator(in_bounds), PlainSerializer(str)
]
