"""Recognising sequences by their file names. Pure: nothing here opens a file.

The last number before the suffix counts. A minus sign belongs to the number
where nothing or a separator comes before it (`name.-7.exr`), and is a
separator itself after a letter or digit (`name-7.png`).
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from waxseal.core.job.model import Files
from waxseal.core.timing.ranges import runs_of

__all__ = ["NamedSequence", "natural_key", "recognise", "with_others"]

# A frame number has at most seven figures that count; dates and clock times are names.
LARGEST_NUMBER = 9_999_999
WIDEST = 12
SEPARATORS = "._- "
MOST_OTHERS = 50  # names of files beside a sequence that are kept
STRAY_TIMES = 8  # how many times more files the sequence has that they stray into


@dataclass(frozen=True, slots=True)
class NamedSequence:
    """Names that belong together. padding 0: one file whose name has no number."""

    prefix: str
    suffix: str
    padding: int
    numbers: tuple[int, ...]
    sign_is_padding: bool = False
    strays: tuple[tuple[int, str], ...] = ()  # a number of this sequence, and another file with it
    others: tuple[str, ...] = ()  # names beside it that belong to nothing

    def files_in(self, folder: Path) -> Files:
        """The sequence as the job holds it."""
        return Files(
            folder=str(folder),
            prefix=self.prefix,
            suffix=self.suffix,
            padding=self.padding,
            sign_is_padding=self.sign_is_padding,
            runs=runs_of(self.numbers),
            strays=self.strays,
            others=self.others,
        )


def natural_key(text: str) -> list[tuple[int, int, str]]:
    """Sorts `shot2` before `shot10`."""
    return [
        (0, int(part), "") if part.isdecimal() else (1, 0, part.casefold())
        for part in re.split(r"(\d+)", text)
        if part
    ]


def recognise(names: Iterable[str]) -> list[NamedSequence]:
    """The sequences among the names of one folder, in natural order.

    Two that differ only in padding are two, but for a few files whose numbers
    a much longer one has already: those are strays. A number without leading
    zeros joins the padded sequence that it can belong to, as 1000 belongs to 0001.
    """
    groups: dict[tuple[str, str], list[tuple[bool, str]]] = defaultdict(list)
    found = []
    for name in names:
        stem, dot, suffix = name.rpartition(".")
        prefix = stem.rstrip("0123456789")
        digits = stem[len(prefix) :]
        if not digits or len(digits) > WIDEST or int(digits) > LARGEST_NUMBER:
            found.append(NamedSequence(stem, dot + suffix, 0, (1,)))
            continue
        is_negative = prefix.endswith("-") and (len(prefix) == 1 or prefix[-2] in SEPARATORS)
        groups[prefix[:-1] if is_negative else prefix, dot + suffix].append((is_negative, digits))
    for (prefix, suffix), numbers in groups.items():
        found += split_by_padding(prefix, suffix, numbers)
    found = with_strays(found)
    found.sort(key=lambda one: (natural_key(one.prefix), one.suffix, -one.padding))
    return found


def with_strays(sequences: list[NamedSequence]) -> list[NamedSequence]:
    """Few files of the same name, with another padding or suffix, belong to the long sequence.

    Only where it has all their numbers, and many more: a rendered preview of
    every frame is a sequence of its own.
    """
    by_prefix: dict[str, list[NamedSequence]] = defaultdict(list)
    for one in sequences:
        if one.padding:
            by_prefix[one.prefix].append(one)
    strays: dict[int, list[tuple[int, str]]] = defaultdict(list)
    kept = {id(one): one for one in sequences}
    for alike in by_prefix.values():
        longest = max(alike, key=lambda one: len(one.numbers))
        numbers = set(longest.numbers)
        for other in alike:
            if len(other.numbers) * STRAY_TIMES <= len(numbers) and numbers.issuperset(
                other.numbers
            ):
                files = other.files_in(Path())
                strays[id(longest)] += [(number, files.name_of(number)) for number in other.numbers]
                del kept[id(other)]
    return [
        replace(one, strays=tuple(sorted(strays[id(one)]))) if id(one) in strays else one
        for one in kept.values()
    ]


def with_others(sequences: list[NamedSequence], names: Iterable[str]) -> list[NamedSequence]:
    """Names of the same folder that are no picture, movie or sound, each named with one sequence.

    That is the one whose name it begins with (`shot.1004.exr.part`), else the first.
    """
    beside: dict[int, list[str]] = defaultdict(list)
    for name in sorted(names, key=natural_key):
        alike = [
            at for at, one in enumerate(sequences) if one.prefix and name.startswith(one.prefix)
        ]
        beside[max(alike, key=lambda at: len(sequences[at].prefix), default=0)].append(name)
    return [
        replace(one, others=tuple(beside[at][:MOST_OTHERS])) if at in beside else one
        for at, one in enumerate(sequences)
    ]


def split_by_padding(
    prefix: str, suffix: str, numbers: list[tuple[bool, str]]
) -> Iterator[NamedSequence]:
    """One sequence for each padding among names that are otherwise alike."""
    zeroed = [(negative, len(d)) for negative, d in numbers if d[0] == "0" and len(d) > 1]
    padded = {width for negative, width in zeroed if not negative} or {w for _, w in zeroed}
    by_padding: dict[int, list[tuple[bool, str]]] = defaultdict(list)
    for negative, digits in numbers:
        by_padding[padding_of(negative, digits, padded)].append((negative, digits))
    for padding, members in by_padding.items():
        widths = {len(digits) for _, digits in members}
        yield NamedSequence(
            prefix,
            suffix,
            padding or (widths.pop() if len(widths) == 1 else 1),
            tuple(sorted({-int(d) if negative else int(d) for negative, d in members})),
            sign_is_padding=any(negative and len(d) == padding - 1 for negative, d in members),
        )


def padding_of(negative: bool, digits: str, padded: set[int]) -> int:  # noqa: FBT001 - a sign
    """The padding that a number belongs to, among those seen; 0 where it has none."""
    width = len(digits)
    if width in padded:
        return width
    if negative and width + 1 in padded:
        return width + 1  # the sign takes a place of the padding, as in -007
    if digits[0] == "0" and width > 1:
        return width
    return max((one for one in padded if one < width), default=0)
