"""The recipe: a small immutable value that says what one frame of the reel is made from.

`programme.recipe(job, n)` is the only way to one; `picture.make` turns it into
pixels. What the pixels do not depend on is not in it, so that frames that look
alike have one key.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterator
from dataclasses import dataclass, field
from enum import StrEnum
from fractions import Fraction
from functools import cached_property
from pathlib import Path

from waxseal.core.job.finish import Correction, Values
from waxseal.core.job.model import (
    Alpha,
    Blend,
    Chromaticities,
    Colour,
    Colourway,
    Framing,
    Operation,
    Placing,
)

__all__ = [
    "DIFFERENCE_TIMES",
    "FileState",
    "Layer",
    "Masked",
    "PassPick",
    "Pick",
    "Recipe",
    "Seen",
    "Shown",
    "state_of",
]


class Seen(StrEnum):
    """What of a frame is looked at; all but the picture as it lies, before any finish."""

    PICTURE = "picture"
    ALPHA = "alpha"
    DIFFERENCE = "difference from the beauty"
    UNSURE = "unsure motion"  # where the movement between two frames cannot be told


DIFFERENCE_TIMES = 4  # how much stronger than it is a difference is shown, so that it is seen

CENTRED, USUAL = Placing(), Colourway()


@dataclass(frozen=True, slots=True)
class FileState:
    """A file as it was when the recipe was made: another size or time is another file."""

    path: str
    size_bytes: int  # -1: not there
    modified_ns: int


def state_of(path: Path) -> FileState:
    try:
        status = os.stat(path)  # noqa: PTH116 - Path.stat costs twice as much, once a frame
    except OSError:
        return FileState(str(path), -1, 0)
    return FileState(str(path), status.st_size, status.st_mtime_ns)


@dataclass(frozen=True, slots=True)
class Pick:
    """One frame of a source, and how it is read.

    source: its id, to tell whose frame it is; another id is no other picture.
    """

    file: FileState
    frame: int
    alpha: Alpha
    colour: Colour
    chromaticities: Chromaticities
    part: str = ""
    matte: str = "#000000"  # what premultiplied colour was laid over, in the file's own encoding
    space: str = ""  # of the OCIO config
    lut: FileState | None = None
    source: str = field(default="", repr=False, compare=False)


@dataclass(frozen=True, slots=True)
class PassPick:
    """A frame of a pass, and what it does to those before it.

    gain: with the exposure in it. tint: in sRGB.
    """

    pick: Pick
    operation: Operation
    gain: float = 1.0
    tint: str = "#ffffff"
    amount: float = 1.0
    inverted: bool = False
    soften: float = 0.0


Shown = Pick | tuple[PassPick, ...]


@dataclass(frozen=True, slots=True)
class Masked:
    """The matte that corrections keep to."""

    pick: Pick
    inverted: bool
    soften: float


@dataclass(frozen=True, slots=True)
class Layer:
    """A picture in the reel's frame: what it is, where it lies, what is done to it.

    following, share: the next frame, and how much of the way to it; none where
        frames are shown as they are. by_motion: things are moved there, not mixed.
    corrections: those that are on and do something at this frame.
    opacity: 0..1. veil: a colour that covers `veiled` of it, for fades.
    files: what the corrections read besides.
    """

    shown: Shown
    framing: Framing = Framing.FIT
    placing: Placing = CENTRED
    pixel_shape: Fraction = Fraction(1)
    following: Shown | None = None
    share: Fraction = Fraction(0)
    by_motion: bool = False
    corrections: tuple[Correction, ...] = ()
    inside: Masked | None = None
    depth: Pick | None = None
    opacity: float = 1.0
    veil: str = "#000000"
    veiled: float = 0.0
    blend: Blend = Blend.OVER
    values: Values = Values.LINEAR
    files: tuple[FileState, ...] = ()

    @property
    def pick(self) -> Pick:
        """The frame that stands for the layer: of a stack its first pass."""
        return self.shown if isinstance(self.shown, Pick) else self.shown[0].pick

    @property
    def is_plain(self) -> bool:
        """Whether it is one frame of one file, shown as it is."""
        return (
            isinstance(self.shown, Pick)
            and self.following is None
            and not self.corrections
            and self.opacity == 1
            and self.veiled == 0
            and self.blend is Blend.OVER
            and self.shown.colour is not Colour.OWN
            and self.shown.lut is None
        )

    def picks(self) -> Iterator[Pick]:
        """Every frame that has to be decoded for it."""
        for shown in (self.shown, self.following):
            if isinstance(shown, Pick):
                yield shown
            elif shown is not None:
                yield from (one.pick for one in shown)
        if self.inside is not None:
            yield self.inside.pick
        if self.depth is not None:
            yield self.depth


@dataclass(frozen=True)
class Recipe:
    """What one frame of the reel is made from: layers over a ground, the lowest first.

    behind: a picture between the ground and the layers.
    corrections, inside, depth, opacity, veil, veiled, files: the reel's own finish.
    seen: what is looked at; deliveries have the picture. beauty: what the passes of
        the main layer are held against, where that is looked at.
    """

    width: int
    height: int
    ground: str  # #rrggbb, sRGB
    layers: tuple[Layer, ...] = ()
    behind: Layer | None = None
    colour: Colourway = USUAL
    corrections: tuple[Correction, ...] = ()
    inside: Masked | None = None
    depth: Pick | None = None
    opacity: float = 1.0
    veil: str = "#000000"
    veiled: float = 0.0
    files: tuple[FileState, ...] = ()
    seen: Seen = Seen.PICTURE
    beauty: Pick | None = None

    @cached_property
    def key(self) -> str:
        """Stable over runs and machines: same key, same pixels."""
        return hashlib.blake2b(
            repr(self).encode("utf-8", "backslashreplace"), digest_size=16
        ).hexdigest()

    @property
    def main(self) -> Layer | None:
        """The layer of the shot, or what stands for it: the lowest."""
        return self.layers[0] if self.layers else None

    def picks(self) -> Iterator[Pick]:
        for layer in (self.behind, *self.layers):
            if layer is not None:
                yield from layer.picks()
        for one in (self.inside.pick if self.inside else None, self.depth, self.beauty):
            if one is not None:
                yield one
