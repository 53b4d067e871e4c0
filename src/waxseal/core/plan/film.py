"""The film: the recipes of a range of the reel, each worked out once.

A delivery is made from it. A recipe is worked out when it is first asked for, so
that the first frame of a long reel does not wait for the last.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Protocol

from waxseal.core.plan.composing import Composer
from waxseal.core.plan.keys import store_key
from waxseal.core.plan.recipe import Pick, Recipe, state_of
from waxseal.core.plan.timeline import Timeline
from waxseal.core.timing.ranges import FrameRange

__all__ = ["Film", "Recipes", "replaced_in"]


class Recipes(Protocol):
    """What an encode asks of a film: something that can be sent elsewhere will do."""

    @property
    def frames(self) -> FrameRange: ...

    def recipe(self, reel_frame: int) -> Recipe: ...


def replaced_in(recipe: Recipe) -> tuple[Pick, ...]:
    return tuple(pick for pick in recipe.picks() if state_of(pick.file.path) != pick.file)


class Film:
    """frames: reel frames, both ends included. made: the recipes that were asked for."""

    def __init__(self, timeline: Timeline, composer: Composer, frames: FrameRange) -> None:
        self.timeline, self.frames = timeline, frames
        self._composer = composer
        self.made: dict[int, Recipe] = {}

    def recipe(self, reel_frame: int) -> Recipe:
        known = self.made.get(reel_frame)
        if known is None:
            known = self.made[reel_frame] = self._composer.recipe(reel_frame)
        return known

    def replaced(self) -> Iterator[Pick]:
        """The frames whose files are others by now than when their recipes were worked out."""
        for recipe in self.made.values():
            yield from replaced_in(recipe)

    def key(self) -> str:
        """All its recipes and its sounds' files as one text: another as soon as a file changes.

        Works out every recipe that nobody has asked for yet.
        """
        job = self.timeline.job
        recipes = tuple(self.recipe(reel_frame).key for reel_frame in self.frames)
        sounds = tuple(state_of(job.sound(laid.source).path) for laid in job.reel.sounds)
        return store_key(recipes, sounds)
