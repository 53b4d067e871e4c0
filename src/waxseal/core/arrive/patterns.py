"""Sequences named by a pattern: `a.####.exr`, `a.@@@@.exr`, `a.%04d.exr`, `a.1001-1096#.exr`."""

from __future__ import annotations

import os
import re
from dataclasses import dataclass
from pathlib import Path

from waxseal.core.errors import UnreadableInput
from waxseal.core.text_format import plain
from waxseal.core.timing.ranges import FrameRange, write_frames

__all__ = ["Pattern", "files_meant", "parse_pattern"]

# Fileseq's marks for digits, those of printf, and a range in front of them.
WRITTEN = re.compile(
    r"(?P<before>.*?)(?P<range>-?\d{1,9}-(?:-?\d{1,9}))?(?P<digits>#+|@+|%(?:0?\d{1,2})?d)(?P<after>.*)"
)


@dataclass(frozen=True, slots=True)
class Pattern:
    """padding: digits of a number at least; None for any. wanted: the frames, where it says so."""

    prefix: str
    suffix: str
    padding: int | None
    wanted: FrameRange | None


def parse_pattern(name: str) -> Pattern | None:
    """A file name as a pattern; None for one that is none. Raises WrongUse for a range."""
    found = WRITTEN.fullmatch(name)
    if found is None:
        return None
    digits, span = found["digits"], found["range"]
    wanted = None
    if span is not None:
        first, last = re.fullmatch(r"(-?\d+)-(-?\d+)", span).groups()  # type: ignore[union-attr]
        wanted = FrameRange(int(first), int(last))
    padding: int | None = len(digits)
    if digits.startswith("%"):
        padding = int(digits.strip("%d") or 1)
    elif len(digits) == 1:
        padding = None  # one mark is four digits, one, or as many as there are: it depends
    return Pattern(found["before"], found["after"], padding, wanted)


def files_meant(path: Path) -> list[str] | None:
    """The files that a pattern means; None where it is none, or names a file that is there.

    Raises UnreadableInput where none fits, or its range is not there.
    """
    pattern = parse_pattern(path.name)
    if pattern is None or path.exists() or not path.parent.is_dir():
        return None
    form = re.compile(f"{re.escape(pattern.prefix)}(-?\\d+){re.escape(pattern.suffix)}")
    numbers: dict[int, str] = {}
    for name in os.listdir(path.parent):  # noqa: PTH208 - names are all that is wanted
        found = form.fullmatch(name)
        if found is None or (pattern.padding and len(found[1].lstrip("-")) < pattern.padding):
            continue
        number = int(found[1])
        if pattern.wanted is None or number in pattern.wanted:
            numbers[number] = name
    if not numbers:
        raise UnreadableInput(f"No file is called {plain(path)}.", path=path)
    if pattern.wanted is not None:
        ends = {pattern.wanted.first, pattern.wanted.last} - numbers.keys()
        if ends:
            raise UnreadableInput(
                f"{plain(path)}: {write_frames(ends)} {'is' if len(ends) == 1 else 'are'} not "
                "there. Render it, or ask for a shorter range.",
                path=path,
            )
    return list(numbers.values())
