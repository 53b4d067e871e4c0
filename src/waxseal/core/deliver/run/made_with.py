"""The files besides frames and sounds that a film was made with, for its seal: colour and letters.

By name and digest, no machine's paths: so that somebody who has them can see whether they are
the same.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from pathlib import Path

from waxseal.core.job.model import Colour, View
from waxseal.core.picture.colour.colour_file_states import config_states
from waxseal.core.picture.target import Target
from waxseal.core.plan.filestates import FileState
from waxseal.core.plan.recipe import Recipe
from waxseal.core.plan.recipe_range import Film
from waxseal.core.safe_open import open_regular
from waxseal.core.text_format import plain

__all__ = ["made_with"]

BLOCK = 1 << 20  # bytes


def made_with(film: Film, target: Target) -> list[dict[str, str]]:
    """`name` and `sha256` of each; the digest is empty of one that cannot be read any more."""
    found = {one.path: one for recipe in film.made.values() for one in files_beside(recipe)}
    found |= {one.path: one for one in files_of_target(film, target)}
    named = ({"name": plain(Path(path).name), "sha256": digest_of(path)} for path in sorted(found))
    return sorted(named, key=lambda one: (one["name"], one["sha256"]))


def files_beside(recipe: Recipe) -> Iterator[FileState]:
    for pick in recipe.picks():
        if pick.read.lut is not None:
            yield pick.read.lut
    for finish in (recipe.finish, *(layer.finish for layer in recipe.layers())):
        yield from finish.files


def files_of_target(film: Film, target: Target) -> Iterator[FileState]:
    if target.lut is not None:
        yield target.lut
    colour, used = film.timeline.job.reel.colour, film.timeline.used_sequences
    is_own = colour.view is View.OWN or any(one.reading.colour.value is Colour.OWN for one in used)
    if not is_own:
        return
    config = colour.config
    yield from (one for one in config_states(config) if isinstance(one, FileState))


def digest_of(path: str) -> str:
    try:
        with open_regular(Path(path)) as file:
            total = hashlib.sha256()
            while block := file.read(BLOCK):
                total.update(block)
            return total.hexdigest()
    except OSError:
        return ""
