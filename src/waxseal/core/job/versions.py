"""What may take the place of a source: its files in another place, or a newer version of them."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import PurePath

from waxseal.core.job.model import Job, Sequence
from waxseal.core.job.passes import words_of
from waxseal.core.timing.ranges import FrameRange, FrameRuns

__all__ = ["Family", "Successor", "family_of", "older_versions", "successors"]

# `v003`, `ver3`, `take 2`: a word for a version and its number, apart from other letters.
VERSION = re.compile(r"(?<![a-z])(?:version|ver|v|take|rev)[ _.-]?(\d{1,5})(?![a-z0-9])", re.I)


@dataclass(frozen=True, slots=True)
class Family:
    """What versions of the same render have in common, and which of them this one is.

    number: 0 for one that has none in its name. place: the deepest folder that all of its
        versions are below. label: the version as it is written; empty where it has none.
    """

    key: tuple[str, ...]
    number: int
    place: str
    label: str


@dataclass(frozen=True, slots=True)
class Successor:
    """by may take the place of a source. label: of its version; empty where it only moved."""

    source: Sequence
    by: Sequence
    label: str = ""


def family_of(source: Sequence) -> Family:
    return family_named(source.kind, source.files.folder, source.files.prefix, source.files.suffix)


@lru_cache(maxsize=20_000)
def family_named(kind: str, folder: str, prefix: str, suffix: str) -> Family:
    """The version is what the file's name says, else its deepest folder that says one."""
    parts = PurePath(folder).parts
    tokens = [VERSION.search(one) for one in (*parts, prefix)]
    said = next((token for token in reversed(tokens) if token is not None), None)
    bare = tuple("_".join(words_of(VERSION.sub("_", one))) for one in (*parts, prefix))
    depths = [depth for depth, token in enumerate(tokens[:-1]) if token is not None]
    place = str(PurePath(*parts[: depths[0]])) if depths and depths[0] else folder
    number, label = (int(said[1]), said[0]) if said is not None else (0, "")
    return Family((kind, *filter(None, bare), suffix.casefold()), number, place, label)


def successors(job: Job) -> dict[str, Successor]:
    """What may take the place of each source that the reel needs, by the source's id.

    Of a lost source it is what has its name, its size and all of its numbers elsewhere; of any
    other the newest version of it that nothing needs yet.
    """
    needed = sources_needed(job)
    newest = newest_versions(job.sequences)
    by_name: dict[tuple[object, ...], list[Sequence]] = defaultdict(list)
    lost = [one for one in job.sequences if one.is_moved]
    if lost:
        for one in job.sequences:
            by_name[name_of(one)].append(one)
    found = {}
    for one in lost:
        there = [
            other
            for other in by_name[name_of(one)]
            if not other.is_moved and other.id not in needed and has_all(other, one)
        ]
        moved = there[0] if there else None
        if moved is not None:
            found[one.id] = Successor(one, moved)
    for one in job.sequences:
        family = family_of(one)
        best = newest.get(family.key)
        if best is None or one.id not in needed or one.id in found or best.id in needed:
            continue
        if family_of(best).number > family.number:
            found[one.id] = Successor(one, best, family_of(best).label)
    return found


def newest_versions(sequences: Iterable[Sequence]) -> dict[tuple[str, ...], Sequence]:
    """The highest version of each family that can be read, where it says one."""
    newest: dict[tuple[str, ...], Sequence] = {}
    for one in sequences:
        family = family_of(one)
        if not family.label or one.is_moved or not one.found.format:
            continue
        best = newest.get(family.key)
        if best is None or family_of(best).number < family.number:
            newest[family.key] = one
    return newest


def older_versions(sequences: Iterable[Sequence]) -> frozenset[str]:
    """The ids of those of which a newer version is among them."""
    every = tuple(sequences)
    newest = newest_versions(every)
    return frozenset(
        one.id
        for one in every
        if (best := newest.get(family_of(one).key)) is not None
        and family_of(one).number < family_of(best).number
    )


def sources_needed(job: Job) -> frozenset[str]:
    """The ids of the sources that the reel is made from."""

    def needed() -> Iterator[str]:
        reel = job.reel
        yield reel.behind
        for laid in (*reel.shots, *reel.overlays):
            yield laid.source
            yield from (helper.source for helper in laid.finish.helpers)
        yield from (helper.source for helper in reel.finish.helpers)

    first = frozenset(needed())
    stacks = (one.stack for one in job.sequences if one.id in first and one.stack is not None)
    return first | {one.source for stack in stacks for one in stack.passes}


def name_of(one: Sequence) -> tuple[object, ...]:
    return one.kind, one.files.prefix, one.files.suffix, one.found.size


def has_all(one: Sequence, other: Sequence) -> bool:
    """Whether one has all the numbers of another."""
    there = FrameRuns(one.files.runs)
    return all(not there.outside_in(FrameRange(*run)) for run in other.files.runs)
