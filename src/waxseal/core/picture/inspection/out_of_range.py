"""How much of a picture a destination cannot show: colours beyond its own, light beyond white."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from waxseal.core.job.model import BT709, Space, View
from waxseal.core.job.primaries import PRIMARIES
from waxseal.core.picture.make import composed_for
from waxseal.core.picture.target import Target
from waxseal.core.picture.transfer_tables import primaries_matrix
from waxseal.core.plan.recipe import Recipe

__all__ = ["OutOfRange", "beyond"]

ABOUT = 480  # pixels across that are looked at
LEAST = 0.004  # of light that is 1 at white: half a code of 8 bits, near white
OWN = {Space.P3: "P3", Space.PQ: "BT.2020", Space.HLG: "BT.2020"}
PEAK = {Space.PQ: 10_000, Space.HLG: 1000}  # cd/m²: ITU-R BT.2100-2


@dataclass(frozen=True, slots=True)
class OutOfRange:
    """Shares of pixels, 0..1. coloured: of colours that cannot be shown. bright: above white."""

    coloured: float
    bright: float


def beyond(recipes: Iterable[Recipe], target: Target) -> OutOfRange:
    """Of some pictures together. Raises FrameError, JobError as `make` does."""
    small = min(1.0, ABOUT / target.width)
    width, height = (max(1, round(side * small)) for side in (target.width, target.height))
    target = replace(target, width=width, height=height, placed=None)
    shares = [beyond_in(recipe, target) for recipe in recipes]
    if not shares:
        return OutOfRange(0.0, 0.0)
    return OutOfRange(*(float(np.mean(one)) for one in zip(*shares, strict=True)))


def beyond_in(recipe: Recipe, target: Target) -> tuple[float, float]:
    """What a view makes of a scene it brings into what can be shown: there is nothing beyond."""
    composed = composed_for(recipe, target, None, None, None)
    colour = recipe.colour
    if not composed.is_shown and colour.view is not View.PLAIN:
        return 0.0, 0.0
    own = PRIMARIES[OWN[target.space]] if target.space in OWN else BT709
    has = BT709 if composed.is_shown else colour.working.chromaticities
    matrix = primaries_matrix(has, own)
    light = composed.light[..., :3]
    if matrix is not None:
        light = light @ matrix.T
    most = PEAK[target.space] / colour.white if target.space in PEAK else 1.0
    coloured = (light < -LEAST).any(axis=2)
    bright = (light > most + LEAST).any(axis=2)
    return float(coloured.mean()), float(bright.mean())
