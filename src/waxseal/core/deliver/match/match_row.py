"""A row of the match table, and what rows are made from."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from waxseal.core.deliver.codecs import Codec
from waxseal.core.deliver.containers import CONTAINERS, Container
from waxseal.core.deliver.format.delivery_settings import form_of, silent_form_of, stretch_of
from waxseal.core.deliver.format.expected_file import expected_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import SoundError
from waxseal.core.job.model import Delivery, Sequence
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.recipe_range import Stretch
from waxseal.core.plan.timeline import Part, Timeline
from waxseal.core.seal.expected import Expected
from waxseal.core.text_format import names_words

__all__ = ["Matched", "Row", "State", "first_of", "joined", "listed"]

MOST_NAMED = 3  # shots that a row speaks of one by one


class State(StrEnum):
    SAME = "same"
    CHANGED = "changed"
    DECIDE = "needs a decision"
    LOST = "lost"


@dataclass(frozen=True, slots=True)
class Row:
    """what: the name of the row. done: what is done on the way, in words; empty for nothing.

    notes: the same in sentences, for the seal. reasons: why it cannot be made, in sentences.
    to_reel, to_file: what is done between two sides in a word, `× 1.5`; empty where a drawing or
        the figures say it.
    """

    what: str
    sources: str
    reel: str
    file: str
    done: str = ""
    state: State = State.SAME
    notes: tuple[str, ...] = ()
    reasons: tuple[str, ...] = ()
    to_reel: str = field(default="", compare=False)
    to_file: str = field(default="", compare=False)


@dataclass(frozen=True)
class Matched:
    """A delivery of a programme. Raises JobError where its settings make no file."""

    planned: Programme
    delivery: Delivery

    @property
    def timeline(self) -> Timeline:
        return self.planned.timeline

    @cached_property
    def form(self) -> ResolvedFormat:
        """Without a sound where that has no place: the row of the sound says why."""
        try:
            return form_of(self.timeline, self.delivery)
        except SoundError:
            return silent_form_of(self.timeline, self.delivery)

    @cached_property
    def expected(self) -> Expected:
        """What the finished file is held to."""
        return expected_of(self.form)

    @property
    def codec(self) -> Codec:
        return self.form.codec

    @property
    def container(self) -> Container:
        return CONTAINERS[self.form.container]

    @cached_property
    def stretch(self) -> Stretch:
        return stretch_of(self.timeline, self.delivery)

    @cached_property
    def parts(self) -> tuple[Part, ...]:
        """The shots that the delivery shows."""
        return self._shown(self.timeline.shots)

    @cached_property
    def overlays(self) -> tuple[Part, ...]:
        return self._shown(self.timeline.overlays)

    def _shown(self, parts: Iterable[Part]) -> tuple[Part, ...]:
        shown = self.stretch.reel
        return tuple(one for one in parts if one.first <= shown.last and one.last >= shown.first)

    @cached_property
    def sources(self) -> tuple[Sequence, ...]:
        return tuple({part.sequence.id: part.sequence for part in self.parts}.values())


def listed(words: Iterable[str]) -> str:
    """Each once, and how many more there are."""
    return names_words(list(dict.fromkeys(words)))


def first_of(words: list[str]) -> str:
    """The first few, and how many more there are."""
    shown = list(dict.fromkeys(words))
    more = len(shown) - MOST_NAMED
    return "; ".join(shown[:MOST_NAMED]) + (f"; and {more} more" if more > 0 else "")


def joined(*words: str) -> str:
    """Those that say something, one after the other."""
    return "; ".join(one for one in words if one)
