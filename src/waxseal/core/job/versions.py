"""What may take the place of a source: its files in another place, or a newer version of them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from waxseal.core.job.model import Job, Sequence, Sound, used_by
from waxseal.core.last_asked import LastAsked
from waxseal.core.timing.ranges import FrameRange, FrameRuns

__all__ = ["Successor", "older_versions", "successors"]


@dataclass(frozen=True, slots=True)
class Successor:
    """by may take the place of a source. label: of its version; empty where it only moved."""

    source: Sequence
    by: Sequence
    label: str = ""


def successors(job: Job) -> dict[str, Successor]:
    """What may take the place of each source that the reel needs, by the source's id.

    Of a lost source it is what has its name, its size and all of its numbers elsewhere; of any
    other the newest version of it that the reel does not need yet. Each is offered once: to the
    newest of those whose place it could take.
    """
    known = CANDIDATES(job.sources)
    if not known:  # mostly, and this is asked at every change
        return {}
    laid = {one.source for one in (*job.reel.shots, *job.reel.overlays)}
    needed = laid | set(used_by(job))
    found: dict[str, Successor] = {}
    for one, others in known:
        best = next((other for other in others if other.id not in needed), None)
        if best is not None and one.id in needed:
            found[one.id] = Successor(one, best, "" if one.is_moved else best.render.label)
            needed.add(best.id)
    return found


def candidates(sources: tuple[Sequence | Sound, ...]) -> list[tuple[Sequence, list[Sequence]]]:
    """Sources, the newest first, with what may take the place of each."""
    sequences = [one for one in sources if isinstance(one, Sequence)]
    newest = newest_versions(sequences)
    found = [
        (one, [best])
        for one in sequences
        if not one.is_moved
        and (best := newest.get(one.render.family)) is not None
        and best.render.number > one.render.number
    ]
    found.sort(key=lambda pair: -pair[0].render.number)
    lost = [one for one in sequences if one.is_moved]
    by_name = by_names(sequences) if lost else {}
    for one in lost:
        there = [
            other for other in by_name[name_of(one)] if not other.is_moved and has_all(other, one)
        ]
        found.append((one, there))
    return found


CANDIDATES = LastAsked(candidates)  # edits of the reel leave the sources alone


def newest_versions(sequences: Iterable[Sequence]) -> dict[tuple[str, ...], Sequence]:
    """The highest version of each family that can be read, where it says one."""
    newest: dict[tuple[str, ...], Sequence] = {}
    for one in sequences:
        render = one.render
        if not render.label or one.is_moved or not one.found.format:
            continue
        best = newest.get(render.family)
        if best is None or best.render.number < render.number:
            newest[render.family] = one
    return newest


def older_versions(sequences: Iterable[Sequence]) -> frozenset[str]:
    """The ids of those of which a newer version is among them."""
    every = tuple(sequences)
    newest = newest_versions(every)
    return frozenset(
        one.id
        for one in every
        if (best := newest.get(one.render.family)) is not None
        and one.render.number < best.render.number
    )


def by_names(sequences: Iterable[Sequence]) -> dict[tuple[object, ...], list[Sequence]]:
    found: dict[tuple[object, ...], list[Sequence]] = defaultdict(list)
    for one in sequences:
        found[name_of(one)].append(one)
    return found


def name_of(one: Sequence) -> tuple[object, ...]:
    return one.kind, one.files.prefix, one.files.suffix, one.found.size


def has_all(one: Sequence, other: Sequence) -> bool:
    """Whether one has all the numbers of another."""
    there = FrameRuns(one.files.runs)
    return all(not there.outside_in(FrameRange(*run)) for run in other.files.runs)
