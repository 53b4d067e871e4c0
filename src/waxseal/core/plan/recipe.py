"""The recipe: a small immutable tree that says what one frame of the reel is made from.

From the ground up: a picture behind, the programme (a shot, or two that
dissolve), overlays, and the reel's finish over all of it. `recipe_builder` makes
recipes, `picture.make` turns them into pixels. What the pixels do not depend on
is not in it, so that frames that look alike have one key.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction

from waxseal.core.job.corrections import WHOLE, Correction, Cover, Values
from waxseal.core.job.model import (
    Alpha,
    Blend,
    Chromaticities,
    Colour,
    Colourway,
    Framing,
    Operation,
    Placing,
    Subject,
)
from waxseal.core.plan.filestates import FileState
from waxseal.core.plan.recipe_keys import LATER, Keyed

__all__ = [
    "BARE",
    "CENTRED",
    "MIDDLE",
    "Beside",
    "Between",
    "Dipped",
    "Finished",
    "Joined",
    "Layer",
    "Masked",
    "PassPick",
    "Pick",
    "Placement",
    "Programmed",
    "Read",
    "Recipe",
    "Shown",
]

CENTRED, USUAL, MIDDLE = Placing(), Colourway(), Subject()


@dataclass(frozen=True)
class Read(Keyed):
    """How frames of a source are read; the same value for all of them.

    part: which picture of files that hold several. matte: what premultiplied colour
    was laid over, in the file's own encoding. space: of the OCIO config.
    """

    alpha: Alpha
    colour: Colour
    chromaticities: Chromaticities
    part: str = ""
    matte: str = "#000000"
    space: str = ""
    lut: FileState | None = None


@dataclass(frozen=True)
class Pick(Keyed):
    """One frame of a source, and how it is read.

    source: its id, to tell whose frame it is; it does not change the picture.
    """

    file: FileState
    frame: int
    read: Read
    source: str = field(default="", repr=False, compare=False)


@dataclass(frozen=True)
class PassPick(Keyed):
    """A frame of a pass, and what it does to those before it.

    times: what its light is multiplied by.
    gain: with the exposure in it. tint: in sRGB.
    """

    pick: Pick
    operation: Operation
    gain: float = 1.0
    tint: str = "#ffffff"
    amount: float = 1.0
    inverted: bool = False
    soften: float = 0.0
    times: Pick | None = None


Shown = Pick | tuple[PassPick, ...]


def files_of_pick(pick: Pick) -> Iterator[FileState]:
    yield pick.file
    if pick.read.lut is not None:
        yield pick.read.lut


def picks_of(shown: Shown) -> Iterator[Pick]:
    if isinstance(shown, Pick):
        yield shown
    else:
        yield from (one.pick for one in shown)


@dataclass(frozen=True)
class Beside(Keyed):
    """A frame of what belongs to a picture: of a matte, or of depth.

    following: the one after it, where the picture is between two. share: how much of the way to
    it. along: the picture's own two, where it is moved from one to the other.
    """

    pick: Pick
    following: Pick | None = None
    share: Fraction = Fraction(0)
    along: tuple[Shown, Shown] | None = None

    def picks(self) -> Iterator[Pick]:
        yield self.pick
        if self.following is not None:
            yield self.following


@dataclass(frozen=True)
class Masked(Keyed):
    """The matte that corrections keep to."""

    matte: Beside
    inverted: bool
    soften: float


@dataclass(frozen=True)
class Finished(Keyed):
    """A finish at one frame.

    corrections: those that are on and do something. inside: where they work, where
    that is not everywhere. helpers: the frames that corrections read besides, by the
    source that they name. files: what they read that is no frame. cover: how much of
    the picture is there.
    """

    corrections: tuple[Correction, ...] = ()
    inside: Masked | None = None
    helpers: tuple[tuple[str, Beside], ...] = ()
    files: tuple[FileState, ...] = ()
    cover: Cover = WHOLE

    @property
    def is_bare(self) -> bool:
        """Whether it leaves every pixel as it is."""
        return not self.corrections and self.cover == WHOLE

    @property
    def of_graphics(self) -> Finished:
        """Of its corrections those whose colour was typed, whatever the matte."""
        return Finished(tuple(one for one in self.corrections if one.is_typed), files=self.files)

    @property
    def of_light(self) -> Finished:
        """The same finish without them."""
        return replace(self, corrections=tuple(one for one in self.corrections if not one.is_typed))

    def helper(self, source: str) -> Beside | None:
        """The frame of a source that a correction names."""
        return next((beside for name, beside in self.helpers if name == source), None)

    def picks(self) -> Iterator[Pick]:
        if self.inside is not None:
            yield from self.inside.matte.picks()
        for _, beside in self.helpers:
            yield from beside.picks()


BARE = Finished()


@dataclass(frozen=True)
class Placement(Keyed):
    """Where a picture goes in the reel's frame."""

    framing: Framing = Framing.FIT
    placing: Placing = CENTRED
    pixel_shape: Fraction = Fraction(1)


@dataclass(frozen=True)
class Between(Keyed):
    """The frame after a layer's own, and how much of the way to it the reel is.

    by_motion: things are moved there, not mixed.
    """

    following: Shown
    share: Fraction
    by_motion: bool = False


@dataclass(frozen=True)
class Layer(Keyed):
    """A picture in the reel's frame: what it is, where it goes, what is done to it.

    is_graphics: whether it is laid over after the view.
    """

    shown: Shown
    placement: Placement = Placement()
    between: Between | None = None
    finish: Finished = BARE
    blend: Blend = Blend.OVER
    values: Values = Values.LINEAR
    is_graphics: bool = False

    @property
    def pick(self) -> Pick:
        """The layer's own frame; of a stack that of its first pass."""
        return self.shown if isinstance(self.shown, Pick) else self.shown[0].pick

    @property
    def is_bare(self) -> bool:
        """Whether it is one frame of one file, laid over as it is."""
        return (
            isinstance(self.shown, Pick)
            and self.between is None
            and self.finish.is_bare
            and self.blend is Blend.OVER
        )

    def picks(self) -> Iterator[Pick]:
        """Every frame that has to be decoded for it."""
        yield from picks_of(self.shown)
        if self.between is not None:
            yield from picks_of(self.between.following)
        yield from self.finish.picks()


@dataclass(frozen=True)
class Joined(Keyed):
    """Two shots that dissolve into each other; share: how far the reel is, 0..1, both left out.

    None: a shot that shows nothing here. values: what they are mixed in.
    """

    before: Layer | None
    after: Layer | None
    share: Fraction
    values: Values = Values.DISPLAY

    @property
    def shot(self) -> Layer | None:
        """The one that comes."""
        return self.after or self.before

    @property
    def layers(self) -> tuple[Layer | None, ...]:
        return (self.before, self.after)


@dataclass(frozen=True)
class Dipped(Keyed):
    """A shot, with what is under it, on its way into a colour or out of it: cover says how far.

    None: a shot that shows nothing here.
    """

    shot: Layer | None
    cover: Cover

    @property
    def layers(self) -> tuple[Layer | None, ...]:
        return (self.shot,)


Programmed = Layer | Joined | Dipped


@dataclass(frozen=True)
class Recipe(Keyed):
    """What one frame of the reel is made from.

    ground: `#rrggbb`, sRGB. programme: None where nothing stands in for a frame that
    is not there. overlays: the lowest first. finish: the reel's own.
    subject: what stays in the middle where the frame is cut to another shape.
    """

    width: int
    height: int
    ground: str
    behind: Layer | None = None
    programme: Programmed | None = None
    overlays: tuple[Layer, ...] = ()
    finish: Finished = BARE
    colour: Colourway = USUAL
    subject: Subject = field(default=MIDDLE, metadata=LATER)

    @property
    def shot(self) -> Layer | None:
        """The layer of the shot; of two that dissolve the one that comes."""
        one = self.programme
        return one if isinstance(one, Layer) or one is None else one.shot

    def layers(self) -> tuple[Layer, ...]:
        """Every layer, the lowest first."""
        one = self.programme
        programme = (one,) if isinstance(one, Layer) or one is None else one.layers
        every = (self.behind, *programme, *self.overlays)
        return tuple(layer for layer in every if layer is not None)

    def picks(self) -> Iterator[Pick]:
        """Every frame that has to be decoded for it."""
        for layer in self.layers():
            yield from layer.picks()
        yield from self.finish.picks()

    def files(self) -> Iterator[FileState]:
        """Every file that it is made from, frames and others, as it was when this was made."""
        for pick in self.picks():
            yield from files_of_pick(pick)
        for finish in (self.finish, *(layer.finish for layer in self.layers())):
            yield from finish.files
