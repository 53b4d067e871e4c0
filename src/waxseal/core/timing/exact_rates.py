"""Exact numbers from text: of a length that somebody writes, and no other."""

from __future__ import annotations

import re
from fractions import Fraction

__all__ = ["read_exact"]

# No exponents: ten characters could ask for a number of a hundred million digits.
WRITTEN = re.compile(r"\s*(\d{1,12})(?:[.,](\d{1,12})|[/:](\d{1,12}))?\s*")


def read_exact(text: str) -> Fraction:
    """`24`, `0.5`, `0,5`, `16/15`, `16:15`. Raises ValueError for anything else."""
    found = WRITTEN.fullmatch(text)
    if not found:
        raise ValueError(text)
    whole, decimals, below = found.groups()
    if below is not None:
        if int(below) == 0:
            raise ValueError(text)
        return Fraction(int(whole), int(below))
    return Fraction(f"{whole}.{decimals or 0}")
