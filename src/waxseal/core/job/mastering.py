"""The display that a high-range film was judged on, as its file says it.

Source: SMPTE ST 2086, mastering display colour volume.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Annotated

from pydantic import AfterValidator

from waxseal.core.job.primaries import PRIMARIES, Chromaticities

__all__ = ["Mastering", "MasteringText", "mastering_of"]

SETS = ("P3", "BT.2020", "BT.709")  # with the white of D65
USUAL_BLACK = 0.005  # cd/m²
BRIGHTEST, DARKEST = 10_000, 5  # cd/m²: the most that a peak and a black may have


@dataclass(frozen=True, slots=True)
class Mastering:
    """primaries: what the set is called. peak, black: in cd/m²."""

    primaries: str
    peak: float
    black: float

    @property
    def chromaticities(self) -> Chromaticities:
        return PRIMARIES[self.primaries]


def mastering_of(text: str) -> Mastering | None:
    """Read `P3 1000` or `P3 1000 0.0001`; None for nothing. Raises ValueError."""
    if not text.strip():
        return None
    found = re.fullmatch(r"\s*(\S+)\s+(\d+(?:\.\d+)?)(?:\s+(\d*\.?\d+))?\s*", text)
    name = next((one for one in SETS if found and found[1].casefold() == one.casefold()), "")
    if found is None or not name:
        names = ", ".join(SETS)
        raise ValueError(
            f"“{text.strip()}” is not a mastering display: write {names}, its peak and its black "
            "in cd/m², as P3 1000 0.005."
        )
    peak, black = float(found[2]), float(found[3] or USUAL_BLACK)
    if not 1 <= peak <= BRIGHTEST or not black < min(peak, DARKEST):
        raise ValueError(
            f"“{text.strip()}”: a mastering display has a peak of 1 to {BRIGHTEST} cd/m², "
            f"and a black below {DARKEST}."
        )
    return Mastering(name, peak, black)


def mastering_text(text: str) -> str:
    """The same as it is kept: `P3 1000 0.005`; empty for nothing. Raises ValueError."""
    found = mastering_of(text)
    return f"{found.primaries} {found.peak:g} {found.black:g}" if found is not None else ""


MasteringText = Annotated[str, AfterValidator(mastering_text)]
