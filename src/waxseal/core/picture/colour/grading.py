"""The colour corrections of a finish, as colour transforms that work on straight light.

All of them are OpenColorIO's: exposure and balance are gains, CDL, gamma and
saturation its own transforms, a LUT a file that it reads. Negative light
passes every power as it is, and nothing is clipped but what a LUT clips.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache, partial
from typing import Any

import numpy as np
import PyOpenColorIO as ocio

from waxseal.core.job.corrections import (
    Balance,
    Cdl,
    Correction,
    Corrects,
    Exposure,
    Gamma,
    Lut,
    Saturation,
    Values,
)
from waxseal.core.picture.alpha_transforms import transform_premultiplied
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.colour.colour_spaces import Process, curve, forgetful, make_process
from waxseal.core.picture.colour.lut_files import take_file
from waxseal.core.plan.filestates import FileState

__all__ = ["balance_gains", "grade", "lut_process"]

LUMA = (0.2126, 0.7152, 0.0722)  # ITU-R BT.709


@dataclass(frozen=True, slots=True, eq=False)
class Stage:
    """A colour transform, and how much of it there is."""

    process: Process
    strength: float = 1.0


def grade(
    light: Light,
    corrections: tuple[Correction, ...],
    files: tuple[FileState, ...],
) -> Light:
    """Premultiplied light, corrected; the array that was given may be changed.

    light: (h, w, 3 or 4). Raises JobError for a LUT that cannot be read.
    """
    colours = tuple(one for one in corrections if type(one) in TRANSFORMS)
    if not colours:
        return light
    light = np.ascontiguousarray(light)
    transform_premultiplied(light, partial(run, stages(colours, files)))
    return light


def run(stages: tuple[Stage, ...], light: Light) -> None:
    for stage in stages:
        if stage.strength == 1:
            stage.process.apply(light)
        else:
            other = light.copy()
            stage.process.apply(other)
            light += (other - light) * np.float32(stage.strength)


@lru_cache(maxsize=256)
def stages(colours: tuple[Correction, ...], files: tuple[FileState, ...]) -> tuple[Stage, ...]:
    """Neighbours that work whole are one transform, which the library makes as short as it can."""
    made: list[Stage] = []
    group: list[Any] = []

    def close() -> None:
        if group:
            made.append(Stage(make_process(join_transforms(group), forgetful())))
            group.clear()

    for one in colours:
        if isinstance(one, Lut):
            for file in files:
                if file.path == one.path:
                    take_file(file)
        transforms = TRANSFORMS[type(one)](one)
        if isinstance(one, Lut) and one.strength < 1:
            close()
            made.append(Stage(make_process(join_transforms(transforms), forgetful()), one.strength))
        else:
            group += transforms
    close()
    return tuple(made)


def join_transforms(transforms: list[Any]) -> Any:
    group = ocio.GroupTransform()
    for one in transforms:
        group.appendTransform(one)
    return group


def gamma(one: Gamma) -> Any:
    power = ocio.ExponentTransform([1 / one.gamma] * 3 + [1.0])
    power.setNegativeStyle(ocio.NEGATIVE_PASS_THRU)
    return power


def in_values(values: Values, transform: Any) -> list[Any]:
    if values is Values.LINEAR:
        return [transform]
    return [curve(encode=True), transform, curve(encode=False)]


def gain(gains: tuple[float, float, float]) -> Any:
    red, green, blue = gains
    return ocio.MatrixTransform([red, 0, 0, 0, 0, green, 0, 0, 0, 0, blue, 0, 0, 0, 0, 1])


def balance_gains(one: Balance) -> tuple[float, float, float]:
    """Gains of red, green and blue that leave the luminance of grey as it is.

    `warmer` stops of red over blue, half each way; `greener` stops of green.
    """
    gains = np.array([2 ** (one.warmer / 2), 2**one.greener, 2 ** (-one.warmer / 2)])
    red, green, blue = gains / (gains @ np.array(LUMA))
    return float(red), float(green), float(blue)


def cdl(one: Cdl) -> Any:
    transform = ocio.CDLTransform()
    transform.setStyle(ocio.CDL_NO_CLAMP)
    transform.setSlope(list(one.slope))
    transform.setOffset(list(one.offset))
    transform.setPower(list(one.power))
    transform.setSat(one.saturation)
    return transform


def lut_transform(path: str) -> Any:
    transform = ocio.FileTransform()
    transform.setSrc(path)
    transform.setInterpolation(ocio.INTERP_BEST)
    return transform


@lru_cache(maxsize=32)
def lut_process(file: FileState) -> Process:
    """A LUT's file by itself. Raises JobError where it cannot be read."""
    take_file(file)
    return make_process(lut_transform(file.path), forgetful())


# What each correction of colour is to the library: transforms that work one after the other.
TRANSFORMS: dict[type[Corrects], Callable[[Any], list[Any]]] = {
    Exposure: lambda one: [gain((2.0**one.stops,) * 3)],
    Balance: lambda one: [gain(balance_gains(one))],
    Cdl: lambda one: in_values(one.values, cdl(one)),
    Gamma: lambda one: [gamma(one)],
    Saturation: lambda one: [cdl(Cdl(saturation=one.saturation))],
    Lut: lambda one: in_values(one.values, lut_transform(one.path)),
}
