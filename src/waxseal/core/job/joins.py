"""Joins: how a shot meets the one before."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from waxseal.core.job.corrections import Values
from waxseal.core.job.reading_settings import HexColour
from waxseal.core.job.values import Value

__all__ = ["CUT", "Join", "JoinKind"]


class JoinKind(StrEnum):
    CUT = "cut"
    DISSOLVE = "dissolve"  # both overlap: the reel gets that much shorter
    DIP = "dip"  # the one before goes into a colour, and the shot comes out of it


class Join(Value):
    """Of a shot with the one before; the first shot's waits until it is no longer the first.

    length: reel frames that it takes; fewer where the shots are too short, see `plan.timeline`.
    colour: that a dip goes through, sRGB. values: what the pictures are mixed in; display
        values are even to the eye.
    """

    kind: JoinKind = JoinKind.CUT
    length: int = Field(default=12, ge=1, le=100_000)
    colour: HexColour = "#000000"
    values: Values = Values.DISPLAY


CUT = Join()
