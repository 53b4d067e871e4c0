"""A delivery beside its file, frame by frame: what the reel gives, and what the file shows.

What the reel gives is made for the delivery's target, down to its size, its space and its
LUT; only rounding to the layout that the codec takes is left out. No pixels here: `delivery_pixels`
makes them.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from fractions import Fraction
from pathlib import Path

from waxseal.core.deliver.format.delivery_settings import film_of, form_of, shown_frame_of
from waxseal.core.errors import JobError
from waxseal.core.job.model import Delivery, Subject
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.filestates import FileState, state_of
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.recipe import Recipe
from waxseal.core.plan.recipe_keys import Keyed

__all__ = ["BESIDE_TIMES", "FileView", "Pair", "Show", "code_target"]

FINE = 4  # decimals of a subject: less than a pixel
BESIDE_TIMES = 16  # how much stronger than it is a difference is shown: codecs leave a code or two


class Show(StrEnum):
    """What is shown of a delivery beside its file."""

    REEL = "reel"  # what the reel gives, as the delivery has it
    FILE = "file"
    BOTH = "both"
    DIFFERENCE = "difference"

    @property
    def needs_file(self) -> bool:
        return self is not Show.REEL


@dataclass(frozen=True)
class Pair(Keyed):
    """A frame of a delivery, and the frame of a file that is to show the same.

    recipe, target: of what the reel gives. file: None where there is none. frame: of the
    delivery, from 1; rate: the delivery's. untagged: see `delivery_pixels.read_codes`.
    """

    recipe: Recipe
    target: Target
    file: FileState | None
    frame: int
    rate: Fraction
    untagged: int


class FileView:
    """A delivery of a programme, and a file that is held against it.

    file: None where nothing has been made: then it can be seen what it will be.
    Raises JobError for a delivery that cannot be made of this reel, or that holds light.
    """

    def __init__(self, planned: Programme, delivery: Delivery, file: Path | None) -> None:
        self._form = form_of(planned.timeline, delivery)
        if not self._form.codec.takes_codes:
            raise JobError(
                f"{self._form.codec.name} frames hold light: drop them into the in-tray "
                "to look at them."
            )
        self._film = film_of(planned, delivery)
        self._file = state_of(file) if file is not None else None
        self._target = code_target(self._form.target)
        self.size = shown_frame_of(planned.timeline.size, delivery)

    @property
    def has_file(self) -> bool:
        return self._file is not None

    @property
    def has_high_range(self) -> bool:
        return self._form.space.is_high_range

    @property
    def is_cut(self) -> bool:
        """Whether a shot's subject says what is kept of its picture."""
        box = self._target.placed
        return box is not None and (
            box.width > self._target.width or box.height > self._target.height
        )

    def dragged(self, subject: Subject, right: float, down: float) -> Subject:
        """A subject when the picture is dragged, in shares of the delivery's frame."""
        box = self._target.placed
        if box is None:
            return subject
        x = drag(subject.x, right * self._target.width, self._target.width, box.width)
        y = drag(subject.y, down * self._target.height, self._target.height, box.height)
        return Subject(x=round(x, FINE), y=round(y, FINE))

    def pair(self, reel_frame: int) -> Pair | None:
        """What is at a frame of the reel; None where the delivery does not show it."""
        shown = self._film.shown_at(reel_frame)
        if shown is None:
            return None
        return Pair(
            self._film.recipe(shown),
            self._target,
            self._file,
            shown - self._film.frames.first + 1,
            self._form.rate,
            self._form.tags[2],
        )


def drag(share: float, by: float, side: int, length: int) -> float:
    """A share of a length that is moved by some pixels; never further than there is picture."""
    if length <= side:
        return share
    least = side / 2 / length
    start = min(1 - least, max(least, share))
    return min(1 - least, max(least, start - by / length))


def code_target(target: Target) -> Target:
    """A delivery's target, with finer codes than any codec takes and nothing spread over them."""
    return replace(target, layout=Layout.RGB16, dither=False)
