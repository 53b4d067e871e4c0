"""What belongs to a key of a spec: its form, what it does to a delivery, how it is checked."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

from waxseal.core.deliver.format.delivery_settings import sound_of
from waxseal.core.errors import SoundError
from waxseal.core.sound.mix_plan import SoundPlan

if TYPE_CHECKING:  # a spec is made of keys, whose functions are given one
    from waxseal.core.deliver.specs.spec import Spec
    from waxseal.core.job.model import Delivery
    from waxseal.core.plan.timeline import Timeline
    from waxseal.core.seal.measure.file_facts import Measured

__all__ = ["Key", "Ordered", "Written", "exactly"]


@dataclass(frozen=True)
class Ordered:
    """A delivery that is made as a spec wants it."""

    spec: Spec
    timeline: Timeline
    delivery: Delivery

    @cached_property
    def wanted(self) -> dict[str, Any]:
        return self.spec.settings(self.timeline)

    @cached_property
    def sound(self) -> SoundPlan | None:
        """None where there is none, or one that cannot be made, which is said elsewhere."""
        try:
            return sound_of(self.timeline, self.delivery)
        except SoundError:
            return None

    @cached_property
    def is_silent(self) -> bool:
        try:
            return sound_of(self.timeline, self.delivery) is None
        except SoundError:
            return False


@dataclass(frozen=True, slots=True)
class Written:
    """A file that was measured. suffix: of its name; empty for a folder of frames."""

    spec: Spec
    measured: Measured
    suffix: str


def nothing(_one: object) -> Iterator[str]:
    yield from ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Key:
    """A key of a spec.

    label: what it is called. usual: what it is if left out, in words. example: how it is written.
    choices: all that it may be; empty if it is typed.
    sets: the field of a delivery that it sets; empty for none.
    setting: what the delivery gets, of the spec and a reel, if there is one; usually the value.
    taken: the value that makes a spec of a delivery; usually that of its field.
    gives: a few words for lists; usually none.
    order, file: the sentences on a delivery, or a file, that is not as the key wants it.
    """

    label: str
    usual: str = ""
    example: str = ""
    choices: tuple[str, ...] = ()
    sets: str = ""
    setting: Callable[[Spec, Timeline | None], Any] | None = None
    taken: Callable[[Delivery], Any] | None = None
    gives: Callable[[Spec], str] | None = None
    order: Callable[[Ordered], Iterator[str]] = nothing
    file: Callable[[Written], Iterator[str]] = nothing


def exactly(
    field: str, words: str, show: Callable[[Any], str] = str
) -> Callable[[Ordered], Iterator[str]]:
    """A check of a delivery: a field has to be as the spec sets it."""

    def check(one: Ordered) -> Iterator[str]:
        wanted = one.wanted[field]
        there = getattr(one.delivery, field)
        if there != wanted:
            yield f"{one.spec.name} wants {words} {show(wanted)}, not {show(there)}."

    return check
