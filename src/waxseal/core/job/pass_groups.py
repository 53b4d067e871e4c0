"""Families: the passes of a shot, and the one of them that is shown for all."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from waxseal.core.job.model import Sequence
from waxseal.core.job.passes import PassKind

__all__ = ["families", "leading_pass", "leading_passes"]

ORDER = {kind: place for place, kind in enumerate(PassKind)}


def families(sequences: Iterable[Sequence]) -> dict[str, tuple[str, ...]]:
    """The ids of the other passes, by the id of the one that leads: the beauty, else the first.

    A source that is no pass, or the only one of its shot, is in none.
    """
    shots: dict[str, list[tuple[int, int, str]]] = defaultdict(list)
    for place, one in enumerate(sequences):
        if one.belongs is not None:
            shots[one.belongs.shot].append((ORDER[one.belongs.kind], place, one.id))
    found = {}
    for members in shots.values():
        if len(members) > 1:
            lead = min(members)
            found[lead[2]] = tuple(member[2] for member in members if member is not lead)
    return found


def leading_passes(sequences: Iterable[Sequence]) -> dict[str, Sequence]:
    """The pass that is shown for a shot's passes, by the shot: the beauty, else the first light."""
    leading: dict[str, Sequence] = {}
    for one in sequences:
        if one.belongs is None:
            continue
        first = leading.setdefault(one.belongs.shot, one)
        if first.belongs is not None and ORDER[one.belongs.kind] < ORDER[first.belongs.kind]:
            leading[one.belongs.shot] = one
    return leading


def leading_pass(source: Sequence, sequences: Iterable[Sequence]) -> Sequence:
    """The pass that is shown for a source; a source that is no pass leads itself."""
    if source.belongs is None:
        return source
    return leading_passes(sequences)[source.belongs.shot]
