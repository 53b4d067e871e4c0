"""The colour that a reel is worked in, how it is looked at, and what a delivery holds."""

from __future__ import annotations

from enum import StrEnum
from typing import Literal, Self

from pydantic import model_validator

from waxseal.core.job.paths import PathText
from waxseal.core.job.primaries import PRIMARIES, Chromaticities
from waxseal.core.job.values import Value

__all__ = ["GRAPHICS_WHITES", "Colourway", "Space", "View", "Working"]


class Working(StrEnum):
    """The primaries of the scene-linear light that everything is worked out in."""

    BT709 = "BT.709"
    ACESCG = "ACEScg"

    @property
    def chromaticities(self) -> Chromaticities:
        return PRIMARIES[self.value]


class View(StrEnum):
    """How scene-linear light becomes what a display shows."""

    PLAIN = "plain"  # the display's own curve and nothing else; what is above one is clipped
    ACES_SDR = "ACES SDR"
    ACES_HDR = "ACES HDR"
    OWN = "of the config"  # a display and a view that the user's config has


class Space(StrEnum):
    """What the numbers of a delivered file mean."""

    SRGB = "sRGB"
    BT709 = "BT.709"  # for a display with the curve of BT.1886
    P3 = "Display P3"
    PQ = "BT.2020 PQ"
    HLG = "BT.2020 HLG"
    LINEAR = "scene-linear"

    @property
    def is_high_range(self) -> bool:
        return self in (Space.PQ, Space.HLG)

    @property
    def is_standard_range(self) -> bool:
        """Whether the limits of flashes apply to it: they are for displays of standard range."""
        return self in (Space.SRGB, Space.BT709, Space.P3)


GRAPHICS_WHITES = (203, 100)  # cd/m²


class Colourway(Value):
    """The reel's colour.

    white: what the white of graphics is in a high-range delivery, in cd/m²: 203 by
        ITU-R BT.2408, or 100 where it is to be as dark as in standard range.
    config: an OCIO config's file; empty is the one in the environment, else the
        built-in one. display, shown: of that config, where the view is its own.
    """

    working: Working = Working.BT709
    view: View = View.PLAIN
    white: Literal[203, 100] = 203
    config: PathText = ""
    display: str = ""
    shown: str = ""

    @model_validator(mode="after")
    def own_view_is_named(self) -> Self:
        if self.view is View.OWN and not (self.display and self.shown):
            raise ValueError("a view of the config has a display and a name: choose both.")
        return self
