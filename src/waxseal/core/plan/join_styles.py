"""The ways in which a shot meets the one before: what each takes, shows and looks like.

A new one is a class here, a line in STYLES, its name in `job.joins.JoinKind` and its title in the
window's texts. What it mixes otherwise than these is a recipe of its own, and how
`picture.compose` makes it.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from typing_extensions import override

from waxseal.core.job.corrections import Cover
from waxseal.core.job.joins import Join, JoinKind
from waxseal.core.plan.recipe import Dipped, Joined, Layer, Programmed

__all__ = ["STYLES", "Cut", "Dip", "Dissolve", "JoinStyle", "Outline"]

Shots = Sequence[Layer | None]
Outline = tuple[tuple[float, float], ...]


class JoinStyle:
    """overlaps: whether it shows both shots in the same frames of the reel, which gets shorter.

    has_colour: whether a colour belongs to it.
    outline: how it is drawn on the reel, as corners: across from its first frame (-1 where it
        begins before the cut) over the cut (0) to its last (1), and up from 0 to 1. A line where
        it has two corners.
    """

    overlaps = False
    has_colour = False
    outline: Outline = ()

    def frames(self, length: int) -> tuple[int, int]:
        """How many frames it asks for: of the shot before, and of its own shot."""
        raise NotImplementedError

    def within(self, before: int, after: int, join: Join) -> tuple[int, int]:
        """The frames that it takes where there is room for so many on each side."""
        raise NotImplementedError

    def asked(self, length: int) -> int:
        """How many reel frames it asks for."""
        return self.length(*self.frames(length))

    def length(self, before: int, after: int) -> int:
        """In reel frames."""
        return after if self.overlaps else before + after

    def share(self, at: int, before: int, after: int) -> Fraction:
        """How far it has come, `at` frames from the cut; those before it are below 0."""
        raise NotImplementedError

    def mixed(
        self, join: Join, shots: Sequence[Layer | None], share: Fraction
    ) -> Programmed | None:
        """What is made of its frame: of both shots where it overlaps, of one elsewhere."""
        raise NotImplementedError


class Cut(JoinStyle):
    @override
    def frames(self, length: int) -> tuple[int, int]:
        return 0, 0


class Dissolve(JoinStyle):
    overlaps = True
    outline = ((0.0, 0.0), (1.0, 1.0))

    @override
    def frames(self, length: int) -> tuple[int, int]:
        return length, length

    @override
    def within(self, before: int, after: int, join: Join) -> tuple[int, int]:
        least = min(before, after)
        return least, least

    @override
    def share(self, at: int, before: int, after: int) -> Fraction:
        """Every frame shows both shots."""
        return Fraction(at + 1, after + 1)

    @override
    def mixed(
        self, join: Join, shots: Sequence[Layer | None], share: Fraction
    ) -> Programmed | None:
        before, after = shots
        return Joined(before, after, share, join.values)


class Dip(JoinStyle):
    has_colour = True
    outline = ((-1.0, 1.0), (1.0, 1.0), (0.0, 0.0))

    @override
    def frames(self, length: int) -> tuple[int, int]:
        return length // 2, length - length // 2

    @override
    def within(self, before: int, after: int, join: Join) -> tuple[int, int]:
        """Both sides have the same length; an odd frame goes to the second."""
        least = min(before, after)
        return least, min(after, least + join.length % 2)

    @override
    def share(self, at: int, before: int, after: int) -> Fraction:
        """How much the colour covers.

        As fades do: the last frame before the cut and the first after it are all colour.
        """
        if at < 0:
            return Fraction(at + before + 1, before)
        return 1 - Fraction(at, after)

    @override
    def mixed(
        self, join: Join, shots: Sequence[Layer | None], share: Fraction
    ) -> Programmed | None:
        (shot,) = shots
        cover = Cover(veil=join.colour, veiled=float(share), values=join.values)
        return Dipped(shot, cover) if cover.veiled else shot


STYLES = {JoinKind.CUT: Cut(), JoinKind.DISSOLVE: Dissolve(), JoinKind.DIP: Dip()}
