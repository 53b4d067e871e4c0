"""The film: the recipes of a range of the reel, each worked out once.

A delivery is made from it. A recipe is worked out when it is first asked for, so
that the first frame of a long reel does not wait for the last.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Protocol

from waxseal.core.plan.filestates import FileState, state_of
from waxseal.core.plan.recipe import Pick, Recipe
from waxseal.core.plan.recipe_builder import Composer
from waxseal.core.plan.recipe_keys import store_key
from waxseal.core.plan.timeline import Timeline
from waxseal.core.timing.ranges import FrameRange
from waxseal.core.timing.rate_matching import index_at, length_on_reel, matched_rate

__all__ = ["Film", "Recipes", "Stretch", "changed_files", "replaced_in"]


class Recipes(Protocol):
    """What an encode asks of a film: something that can be sent elsewhere will do."""

    @property
    def frames(self) -> FrameRange: ...

    def recipe(self, reel_frame: int) -> Recipe: ...


@dataclass(frozen=True, slots=True)
class Stretch:
    """Frames of the reel, and those that show them at another rate.

    The exact rule that matches the rate of a source to the reel's.
    """

    reel: FrameRange
    reel_rate: Fraction
    rate: Fraction

    @property
    def shown(self) -> FrameRange:
        """Counted as the reel's where the rate is the same, else from 1."""
        if self.rate == self.reel_rate:
            return self.reel
        source = matched_rate(self.reel.count, self.reel_rate, self.rate)
        return FrameRange(1, length_on_reel(self.reel.count, source, self.rate))

    def reel_frame(self, frame: int) -> int:
        if self.rate == self.reel_rate:
            return frame
        source = matched_rate(self.reel.count, self.reel_rate, self.rate)
        return self.reel.first + index_at(frame - 1, self.reel.count, source, self.rate)

    def shown_at(self, reel_frame: int) -> int | None:
        """The frame that is on at the time of one of the reel; None outside of it."""
        if reel_frame not in self.reel:
            return None
        if self.rate == self.reel_rate:
            return reel_frame
        about = int((reel_frame - self.reel.first) * self.rate / self.reel_rate) + 1
        near = (max(1, min(one, self.shown.count)) for one in (about, about - 1, about + 1))
        return min(near, key=lambda one: abs(self.reel_frame(one) - reel_frame))


def replaced_in(recipe: Recipe) -> tuple[Pick, ...]:
    return tuple(pick for pick in recipe.picks() if state_of(pick.file.path) != pick.file)


def changed_files(files: Iterable[FileState]) -> tuple[FileState, ...]:
    """Those of some files that are others by now, or gone; each is looked at once."""
    return tuple(one for one in dict.fromkeys(files) if state_of(one.path) != one)


class Film:
    """frames: its own, both ends included: those of the reel, where the rate is the reel's.

    made: the recipes that were asked for, by the frames of the reel.
    """

    def __init__(
        self, timeline: Timeline, composer: Composer, frames: FrameRange, rate: Fraction | None
    ) -> None:
        """frames: of the reel. rate: another one that they are shown at, in the same time."""
        self.timeline = timeline
        self._composer = composer
        self._stretch = Stretch(frames, timeline.rate, rate or timeline.rate)
        self.frames = self._stretch.shown
        self._sounds = tuple(state_of(sound.path) for sound in timeline.sounds)
        self.made: dict[int, Recipe] = {}

    def recipe(self, frame: int) -> Recipe:
        reel_frame = self._stretch.reel_frame(frame)
        known = self.made.get(reel_frame)
        if known is None:
            known = self.made[reel_frame] = self._composer.recipe(reel_frame)
        return known

    def reel_frames(self, first: int, last: int) -> FrameRange:
        """The frames of the reel that some of its own show, both ends included."""
        return FrameRange(self._stretch.reel_frame(first), self._stretch.reel_frame(last))

    def shown_at(self, reel_frame: int) -> int | None:
        """Its own frame at one of the reel; None where it does not show that."""
        return self._stretch.shown_at(reel_frame)

    def replaced(self) -> Iterator[Pick]:
        """The frames whose files are others by now than when their recipes were worked out."""
        for recipe in self.made.values():
            yield from replaced_in(recipe)

    def changed(self) -> tuple[FileState, ...]:
        """The files that are others by now than when they were planned with, sounds too."""
        made = (file for recipe in set(self.made.values()) for file in recipe.files())
        return changed_files((*made, *self._sounds))

    def key(self) -> str:
        """All its recipes and its sounds' files as one text: another as soon as a file changes.

        Works out every recipe that nobody has asked for yet.
        """
        recipes = tuple(self.recipe(frame).key for frame in self.frames)
        sounds = tuple(state_of(sound.path) for sound in self.timeline.sounds)
        return store_key(recipes, sounds)
