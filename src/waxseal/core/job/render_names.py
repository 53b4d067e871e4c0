"""Versions in the names of renders: what is the same render again, and how new it is."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from pathlib import PurePath

from waxseal.core.job.passes import words_of

__all__ = ["Render", "render_named"]

# `v003`, `ver 3`, `rev2`: a word for a version and its number, apart from other letters.
VERSION = re.compile(r"(?<![a-z])(?:version|ver|v|rev)[ _.-]?(\d{1,5})(?![a-z0-9])", re.I)


@dataclass(frozen=True, slots=True)
class Render:
    """family: what its versions have in common. number: 0 where its name says no version.

    place: the deepest folder that all of its versions are below. label: the version as it is
    written; empty where there is none.
    """

    family: tuple[str, ...]
    number: int
    place: str
    label: str


@lru_cache(maxsize=20_000)
def render_named(kind: str, folder: str, prefix: str, suffix: str) -> Render:
    """The version is what the file's name says, else its deepest folder that says one."""
    parts = PurePath(folder).parts
    said = [VERSION.search(one) for one in (*parts, prefix)]
    bare = ("_".join(words_of(VERSION.sub("_", one))) for one in (*parts, prefix))
    family = (kind, *filter(None, bare), suffix.casefold())
    depths = [depth for depth, one in enumerate(said[:-1]) if one is not None]
    place = str(PurePath(*parts[: depths[0]])) if depths and depths[0] else folder
    version = next((one for one in reversed(said) if one is not None), None)
    if version is None:
        return Render(family, 0, place, "")
    return Render(family, int(version[1]), place, version[0])
