"""What the corrections of a finish do to a picture, in their order.

A correction of colour is a line in `grading.TRANSFORMS`; one that knows its place
in the frame is a line in one of the tables here.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from waxseal.core.job.corrections import (
    Border,
    Corrects,
    Grain,
    Haze,
    Sharpen,
    Soften,
    Text,
    Vignette,
)
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.blur import blur
from waxseal.core.picture.canvas import Around
from waxseal.core.picture.colour.grading import grade
from waxseal.core.picture.finish import shape_masks
from waxseal.core.picture.finish.lettering import draw_text
from waxseal.core.picture.layer_placement import mirror_and_turn, scale_into
from waxseal.core.picture.light.light_reader import values_between
from waxseal.core.picture.target import Filter
from waxseal.core.plan.recipe import Beside, Finished, Masked

__all__ = ["IN_FRAME", "apply_finish"]

Work = Callable[[Light, Any, Around, Finished], Light]


def haze(light: Light, one: Haze, around: Around, finish: Finished) -> Light:
    depth = finish.helper(one.depth)
    if depth is None:
        return light
    colour = around.canvas.colour(one.colour)
    return shape_masks.haze(light, one, helper_values(depth, around)[..., 0], colour)


# Those that a matte holds to a part of the picture, as it does corrections of colour.
INSIDE: dict[type[Corrects], Work] = {
    Haze: haze,
    Soften: lambda light, one, around, _: blur(light, one.radius, around.height),
    Sharpen: lambda light, one, around, _: shape_masks.sharpen(light, one, around.height),
}
# Those that no matte knows.
OVER_ALL: dict[type[Corrects], Work] = {
    Vignette: lambda light, one, around, _: shape_masks.vignette(
        light, one, around.at, around.size
    ),
    Grain: lambda light, one, around, _: shape_masks.grain(light, one, around),
    Border: lambda light, one, around, _: shape_masks.border(light, one, around),
    Text: lambda light, one, around, _: draw_text(light, one, around.canvas.colour(one.colour)),
}
IN_FRAME = (Soften, Sharpen, Text)  # need the whole frame around the picture


def apply_finish(light: Light, finish: Finished, around: Around) -> Light:
    """The picture with its corrections; what was given may be changed.

    Raises FrameError, JobError.
    """
    before = light.copy() if finish.inside is not None else light
    light = grade(light, finish.corrections, finish.files)
    light = work(light, finish, around, INSIDE)
    if finish.inside is not None:
        light = before + (light - before) * matte_of(finish.inside, around)
    return work(light, finish, around, OVER_ALL)


def work(
    light: Light, finish: Finished, around: Around, table: dict[type[Corrects], Work]
) -> Light:
    for one in finish.corrections:
        does = table.get(type(one))
        if does is not None:
            light = does(light, one, around, finish)
    return light


def helper_values(beside: Beside, around: Around) -> Light:
    """What a pass says, not read as colour, in the place of the picture that it helps."""
    values = mirror_and_turn(values_between(beside, around.canvas.means), around.placing)
    whole, at = scale_into(values, around.box, around.canvas, Filter.SOFT)
    if at == around.at:
        return whole
    wide = np.zeros((around.at.height, around.at.width, values.shape[2]), np.float32)
    top, left = at.y - around.at.y, at.x - around.at.x
    wide[top : top + at.height, left : left + at.width] = whole
    return wide


def matte_of(masked: Masked, around: Around) -> Light:
    """(h, w, 1), 0..1: alpha where the pass has one, else its first channel."""
    values = helper_values(masked.matte, around)
    matte = values[..., 3:4] if values.shape[2] == 4 else values[..., :1]
    matte = np.clip(np.nan_to_num(matte), 0, 1)
    if masked.inverted:
        matte = 1 - matte
    return blur(np.ascontiguousarray(matte), masked.soften, around.height)
