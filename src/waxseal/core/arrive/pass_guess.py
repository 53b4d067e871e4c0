"""Sequences that are the passes of one shot: recognised by name, range and size."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

from waxseal.core.job.model import Colour, Origin, Sequence, Size, Sound, WithOrigin, change
from waxseal.core.job.passes import Pass, PassKind, PassName, is_version, pass_name, words_of

__all__ = ["with_passes"]

Group = tuple[str, str, Size]  # the folder and the shot's name that passes share, their size


def with_passes(sources: Iterable[Sequence | Sound]) -> tuple[Sequence | Sound, ...]:
    """The sources, those that are passes marked as such.

    Two or more belong together when what their names (or their folders'
    names) have beside the pass is the same, their kinds differ, their frames
    overlap and their pictures have one size. A sequence beside them that has
    the shot's name and no other is the beauty.
    """
    kept = list(sources)
    groups: dict[Group, list[tuple[int, PassName]]] = defaultdict(list)
    for place, source in enumerate(kept):
        if not isinstance(source, Sequence) or source.kind != "sequence":
            continue
        said = said_by_name(source)
        if said is not None:
            name, where = said
            groups[where, name.rest, source.found.size].append((place, name))
    for key, members in groups.items():
        kinds = {(name.kind, name.split) for _, name in members}
        if len(members) < 2 or len(kinds) < len(members):
            continue
        beauty = beauty_of(kept, key)
        if beauty is not None and (PassKind.BEAUTY, "") not in kinds:
            members.append((beauty, PassName(PassKind.BEAUTY, key[1])))
        shared = [source for place, _ in members if isinstance(source := kept[place], Sequence)]
        if not overlap(shared):
            continue
        for place, name in members:
            source = kept[place]
            if isinstance(source, Sequence):
                shot = name.rest or Path(key[0]).name
                kept[place] = as_pass(source, name, shot)
    return tuple(kept)


def beauty_of(sources: list[Sequence | Sound], group: Group) -> int | None:
    """Which of the sources has the name of the shot alone, beside its passes."""
    folder, shot, size = group
    for place, source in enumerate(sources):
        if not isinstance(source, Sequence) or source.kind != "sequence" or not shot:
            continue
        is_beside = source.files.folder == folder and source.found.size == size
        if is_beside and source.files.prefix.strip("._- ").casefold() == shot.casefold():
            return place
    return None


def said_by_name(source: Sequence) -> tuple[PassName, str] | None:
    """What its name says, or its folder's, and the folder that its passes have in common."""
    folder = Path(source.files.folder)
    if is_version(folder.name):  # `depth/v003/sh010.exr`: the folder above says it
        folder = folder.parent
    by_file, by_folder = pass_name(source.files.prefix), pass_name(folder.name)
    if by_file is not None:
        # `diffuse/sh010_diffuse`: each pass has a folder of its own, beside those of the others.
        own = by_folder is not None and (by_folder.kind, by_folder.split)
        is_apart = own == (by_file.kind, by_file.split)
        return by_file, str(folder.parent if is_apart else folder)
    if by_folder is not None:
        named = "_".join(words_of(source.files.prefix))
        shot = "_".join(one for one in (by_folder.rest, named) if one)
        return replace(by_folder, rest=shot), str(folder.parent)
    return None


def overlap(sequences: list[Sequence]) -> bool:
    first = max(one.files.range.first for one in sequences)
    last = min(one.files.range.last for one in sequences)
    return first <= last


def as_pass(source: Sequence, name: PassName, shot: str) -> Sequence:
    """The values of a matte, of depth or of normals are read as they are."""
    kind = name.kind
    marked = change(source, belongs=Pass(kind=kind, shot=shot, split=name.split))
    is_said = source.reading.colour.origin is Origin.SAID
    if not kind.is_data or is_said or source.reading.colour.value is Colour.LINEAR:
        return marked
    raw = WithOrigin[Colour](
        value=Colour.RAW, origin=Origin.HABIT, why=f"a {kind} pass has no colour"
    )
    return change(marked, reading=change(source.reading, colour=raw))
