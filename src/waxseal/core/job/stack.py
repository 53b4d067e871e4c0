"""A stack: a source put together from passes, each with its operation, gain and tint."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from waxseal.core.job.reading_settings import HexColour
from waxseal.core.job.values import Value

__all__ = ["Operation", "Stack", "StackPass"]


class Operation(StrEnum):
    """What a pass does to the passes above it in the list."""

    SUM = "sum"
    MULTIPLY = "multiply"
    OVER = "over"
    MATTE = "matte"  # its values cut out what is there
    ALPHA = "alpha"  # its alpha becomes that of what is there, which is premultiplied by it


class StackPass(Value):
    """One pass: frames of a source that have the same numbers as the stack's.

    part: of the source's files; empty for their picture. times: another of their parts that it is
    multiplied by, as light that was rendered without the colour of what it falls on.
    gain: in linear light. exposure: in stops, on top. tint: in sRGB, white is none.
    amount: how much of a factor is used, 1 is all of it.
    """

    source: str
    part: str = ""
    times: str = ""
    operation: Operation = Operation.SUM
    gain: float = Field(default=1.0, ge=0, le=1000)
    exposure: float = Field(default=0.0, ge=-20, le=20)
    tint: HexColour = "#ffffff"
    amount: float = Field(default=1.0, ge=0, le=1)
    inverted: bool = False
    soften: float = Field(default=0.0, ge=0, le=100)
    on: bool = True


class Stack(Value):
    """The passes of a source that is made of them, in the order they are put together.

    beauty: the source that their sum should equal, where there is one.
    """

    passes: tuple[StackPass, ...] = Field(min_length=1)
    beauty: str = ""
    on: bool = True
