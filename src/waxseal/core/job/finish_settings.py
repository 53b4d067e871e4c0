"""The finish: the corrections of a shot, an overlay or the whole reel, in one fixed order."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Self

from pydantic import Field, model_validator

from waxseal.core.job.corrections import ORDER, Correction, Helper
from waxseal.core.job.values import Value, change

__all__ = ["Finish", "Inside"]

MOST_TEXTS = 20
RANK = {one.model_fields["kind"].default: at for at, one in enumerate(ORDER)}


class Inside(Value):
    """A matte that keeps the colour corrections to a part of the picture.

    source, part: whose first channel, or alpha where it has one, is the matte.
    soften: as the radius of Soften.
    """

    source: str
    part: str = ""
    inverted: bool = False
    soften: float = Field(default=0.0, ge=0, le=100)


class Finish(Value):
    """The corrections of one picture, each kind once; text as often as there are lines."""

    corrections: tuple[Correction, ...] = ()
    inside: Inside | None = None

    @model_validator(mode="before")
    @classmethod
    def in_order(cls, values: object) -> object:
        """The order they work in, whatever order they were given in."""
        if isinstance(values, dict) and isinstance(values.get("corrections"), list | tuple):

            def place(one: object) -> int:
                kind = one.get("kind") if isinstance(one, dict) else getattr(one, "kind", "")
                return RANK.get(str(kind), -1)

            return {**values, "corrections": tuple(sorted(values["corrections"], key=place))}
        return values

    @model_validator(mode="after")
    def each_once(self) -> Self:
        kinds = [one.kind for one in self.corrections if one.kind != "text"]
        for kind in kinds:
            if kinds.count(kind) > 1:
                raise ValueError(f"there are two corrections of the kind “{kind}”.")
        if len(self.corrections) - len(kinds) > MOST_TEXTS:
            raise ValueError(f"there are more than {MOST_TEXTS} texts.")
        return self

    @property
    def working(self) -> tuple[Correction, ...]:
        """Those that are on and do something."""
        return tuple(one for one in self.corrections if one.on and not one.does_nothing)

    def of(self, kind: str) -> Correction | None:
        """The correction of a kind; of texts the first."""
        return next((one for one in self.corrections if one.kind == kind), None)

    @property
    def helpers(self) -> Iterator[Helper]:
        """The sources whose frames steer what it does, whether it is on or off."""
        if self.inside is not None:
            yield Helper(self.inside.source, self.inside.part)
        for one in self.corrections:
            yield from one.helpers

    @property
    def working_helpers(self) -> Iterator[Helper]:
        """Those of them that what is on reads."""
        if self.inside is not None and self.working:
            yield Helper(self.inside.source, self.inside.part)
        for one in self.working:
            yield from one.helpers

    @property
    def files(self) -> Iterator[str]:
        """The files that what is on reads besides frames."""
        for one in self.working:
            yield from one.files

    def with_files(self, turn: Callable[[str], str]) -> Finish:
        """The same finish with each of its paths turned."""
        return change(self, corrections=tuple(one.with_files(turn) for one in self.corrections))

    def without(self, source: str) -> Finish:
        """A finish that does without a source as matte or as helper of a correction."""
        kept = tuple(
            one
            for one in self.corrections
            if all(helper.source != source for helper in one.helpers)
        )
        is_gone = self.inside is not None and self.inside.source == source
        if len(kept) == len(self.corrections) and not is_gone:
            return self
        return change(self, corrections=kept, inside=None if is_gone else self.inside)
