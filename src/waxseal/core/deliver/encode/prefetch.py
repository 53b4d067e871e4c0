"""Pictures made ahead of the encoder, each recipe once, by a few threads."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

from waxseal.core.errors import FrameError
from waxseal.core.frames.decode_ahead import SharedFrames
from waxseal.core.picture.arrays import Plane
from waxseal.core.picture.light.light_reader import key_of
from waxseal.core.picture.light.light_store import MOST_RECURRING_BYTES, LightStore
from waxseal.core.picture.make import Picture, make
from waxseal.core.picture.target import Target
from waxseal.core.plan.recipe import Pick, Recipe
from waxseal.core.plan.recipe_range import Recipes
from waxseal.core.progress import CancelToken
from waxseal.core.seal.packet_digests import planes_digest

__all__ = ["MadePicture", "PictureOrder", "Prefetch", "Unreadable", "pick_to_blame"]

MAKERS = 2  # threads that make pictures, for each film
AHEAD, LEAST_AHEAD = 6, 2  # pictures made before the encoder asks for them
AHEAD_PIXELS = 16_000_000  # of all of them

Asked = tuple[tuple[int, Recipe], ...]  # of one frame: what wants a picture, and of what


@dataclass(frozen=True, slots=True, eq=False)
class MadePicture:
    """A picture, the mark that it is recognised by, and the digest of its planes."""

    picture: Picture
    mark: Any
    digest: int


@dataclass(frozen=True, slots=True)
class Unreadable:
    """A frame of a source whose pixels cannot be had, and why. frame: its own number."""

    source: str
    frame: int
    why: str


@dataclass(frozen=True, slots=True)
class PictureOrder:
    """Pictures of a film for a target. mark: what is kept of a picture's planes."""

    film: Recipes
    target: Target
    mark: Callable[[Sequence[Plane]], Any]


class Prefetch:
    """Makes the pictures of films, side by side.

    What comes again is made once: a file that several pictures need is decoded once, and the
    light of a layer that stands still is kept.
    """

    def __init__(self, wanted: Sequence[PictureOrder]) -> None:
        self._wanted = wanted
        pixels = sum(one.target.width * one.target.height for one in wanted)
        self._ahead = max(LEAST_AHEAD, min(AHEAD, AHEAD_PIXELS // pixels))
        self._last = max(one.film.frames.last for one in wanted)
        self._makers = MAKERS * len(wanted)
        self._pool = ThreadPoolExecutor(self._makers, "picture")
        self._making: OrderedDict[tuple[object, ...], Future[tuple[MadePicture, ...]]] = (
            OrderedDict()
        )
        self._frames = SharedFrames()
        self._announced: dict[tuple[object, ...], set[Hashable]] = {}  # of what is asked for next
        self._lights = LightStore(MOST_RECURRING_BYTES, only_recurring=True)

    def close(self) -> None:
        self._pool.shutdown(cancel_futures=True)

    def next_made(self, reel_frame: int) -> dict[int, MadePicture]:
        """The pictures of a frame, by the places of what wants them. Raises FrameError, JobError.

        What has no such frame wants none.
        """
        for ahead in range(reel_frame, min(self._last, reel_frame + self._ahead) + 1):
            if ahead < self._last:  # before this one is made: what they share is kept then
                self._announce(self._asked(ahead + 1))
            self._ask(self._asked(ahead))
        asked = self._asked(reel_frame)
        return dict(zip((place for place, _ in asked), self._ask(asked).result(), strict=True))

    def unreadable_in(self, frames: Iterable[int], token: CancelToken) -> tuple[Unreadable, ...]:
        """Every one of some reel frames that cannot be read, so that one list names all."""
        found: dict[tuple[str, int], Unreadable] = {}
        for number in frames:
            token.check()
            try:
                self.next_made(number)
            except FrameError as error:
                pick = pick_to_blame(self._wanted[0].film.recipe(number), error)
                if pick is None:
                    raise
                found[pick.source, pick.frame] = Unreadable(pick.source, pick.frame, str(error))
        return tuple(found.values())

    def _asked(self, reel_frame: int) -> Asked:
        return tuple(
            (place, one.film.recipe(reel_frame))
            for place, one in enumerate(self._wanted)
            if reel_frame in one.film.frames
        )

    def _ask(self, asked: Asked) -> Future[tuple[MadePicture, ...]]:
        key = key_of_asked(asked)
        making = self._making.get(key)
        if making is None:
            self._announce(asked)
            making = self._pool.submit(self._make, asked, self._announced.pop(key))
            self._making[key] = making
            while len(self._making) > self._ahead + self._makers:
                self._making.popitem(last=False)
        return making

    def _announce(self, asked: Asked) -> None:
        key = key_of_asked(asked)
        if key not in self._announced and key not in self._making:
            frames = {key_of(pick) for _, recipe in asked for pick in recipe.picks()}
            self._frames.announce(frames)
            self._announced[key] = frames

    def _make(self, asked: Asked, frames: set[Hashable]) -> tuple[MadePicture, ...]:
        with self._frames.used_for(frames):
            return tuple(self._made(self._wanted[place], recipe) for place, recipe in asked)

    def _made(self, wanted: PictureOrder, recipe: Recipe) -> MadePicture:
        picture = make(recipe, wanted.target, store=self._lights)
        return MadePicture(picture, wanted.mark(picture.planes), planes_digest(picture.planes))


def key_of_asked(asked: Asked) -> tuple[object, ...]:
    return tuple((place, recipe.key) for place, recipe in asked)


def pick_to_blame(recipe: Recipe, error: FrameError) -> Pick | None:
    """The frame of a source that an error speaks of: the shot's, where it names no file."""
    if error.path is not None:
        for pick in recipe.picks():
            if pick.file.path == str(error.path) and error.frame in (None, pick.frame):
                return pick
    return recipe.shot.pick if recipe.shot is not None else None
