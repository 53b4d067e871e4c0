"""Which channels of an EXR belong together as one picture. By name; pure.

The name before the last dot is the group, as in `diffuse.R`. Source: OpenEXR
documentation, "Layers and channel names".
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator

from waxseal.core.job.layers import chosen_picture, is_picture, short_name
from waxseal.core.job.model import Part

__all__ = ["parts_of"]

# Long and short names of what makes a picture, in the order that it has in a picture.
ROLES = {
    "r": 0, "red": 0, "y": 0, "x": 0, "u": 0,
    "g": 1, "green": 1, "v": 1,
    "b": 2, "blue": 2, "w": 2,
    "a": 3, "alpha": 3,
}  # fmt: skip
AXES = {"x": 0, "y": 1, "z": 2}


def parts_of(
    parts: Iterable[tuple[str, tuple[str, ...]]], whole_numbers: Collection[tuple[int, str]] = ()
) -> tuple[Part, ...]:
    """The pictures in a file: first the one that is its picture, then others, then data.

    parts: for each part of the file its name and the names of its channels. whole_numbers: those
    that hold them, each with the place of its part.
    """

    def is_counted(part: Part) -> bool:
        return any((part.place, channel) in whole_numbers for channel in part.channels)

    found = [
        part.model_copy(update={"is_whole_numbers": True}) if is_counted(part) else part
        for place, (name, channels) in enumerate(parts)
        for part in parts_in(name, place, channels)
    ]
    found.sort(key=lambda part: (not is_picture(part), part.place, part.name != "", part.name))
    found = list(name_apart(found))
    first = chosen_picture(found).part
    return (first, *(part for part in found if part is not first))


def parts_in(name: str, place: int, channels: tuple[str, ...]) -> Iterator[Part]:
    groups: dict[str, list[str]] = {}
    for channel in channels:
        groups.setdefault(channel.rpartition(".")[0], []).append(channel)
    for prefix, members in groups.items():
        whole = prefix or name
        short = {short_name(member) for member in members}
        if {"x", "y", "z"} <= short and len(members) == 3:
            members.sort(key=lambda member: AXES[short_name(member)])
            yield Part(name=whole, place=place, channels=tuple(members))
            continue
        used = [member for member in members if short_name(member) in ROLES]
        used.sort(key=lambda member: ROLES[short_name(member)])
        if len({ROLES[short_name(member)] for member in used}) == len(used) and used:
            yield Part(name=whole, place=place, channels=tuple(used))
        else:
            used = []
        for member in members:
            if member not in used:
                alone = len(members) == 1 and whole
                yield Part(name=whole if alone else member, place=place, channels=(member,))


def name_apart(parts: list[Part]) -> Iterator[Part]:
    """Two parts of one name get their place behind it."""
    seen: set[str] = set()
    for part in parts:
        name = part.name
        while name in seen:
            name = f"{part.name or 'part'} {part.place + 1}" if name == part.name else f"{name}+"
        seen.add(name)
        yield part if name == part.name else part.model_copy(update={"name": name})
