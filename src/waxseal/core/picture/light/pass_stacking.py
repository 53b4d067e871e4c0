"""Passes put together, and how their sum compares with the beauty."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from waxseal.core.errors import FrameError
from waxseal.core.job.model import Operation
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.blur import blur
from waxseal.core.plan.recipe import PassPick

__all__ = ["Difference", "PassLight", "difference", "put_together"]


@dataclass(frozen=True, slots=True, eq=False)
class PassLight:
    """A pass with its light, (h, w, 3 or 4), and its tint as a factor, (3,)."""

    one: PassPick
    light: Light
    tint: Light

    @property
    def factor(self) -> Light:
        return self.tint * np.float32(self.one.gain)


def put_together(passes: list[PassLight]) -> Light:
    """The picture that passes make, in their order. Raises FrameError for one of another size.

    sum adds light; the alpha is the largest there is. multiply dims by a factor.
    over lays a pass over what is there. matte cuts out what is there. alpha gives
    what is there an alpha that its light has been premultiplied by.
    """
    whole: Light | None = None
    for part in passes:
        one, light = part.one, part.light
        if whole is not None and light.shape[:2] != whole.shape[:2]:
            tall, wide = whole.shape[:2]
            raise FrameError(
                f"This pass is {light.shape[1]} × {light.shape[0]}, its stack {wide} × {tall}.",
                path=Path(one.pick.file.path),
            )
        if one.soften:
            light = blur(light, one.soften, light.shape[0])
        if whole is None:
            whole = start(part, light)
            if one.operation in (Operation.SUM, Operation.OVER):
                continue
        whole = APPLIED[one.operation](whole, light, part)
    assert whole is not None  # noqa: S101 - a stack has at least one pass
    return whole


def start(part: PassLight, light: Light) -> Light:
    """The first pass: itself where it is light, and full light for a factor or a matte."""
    if part.one.operation in (Operation.SUM, Operation.OVER):
        first = light.copy()
        first[..., :3] *= part.factor
        return first
    return np.ones_like(light)


def with_alpha(light: Light) -> Light:
    if light.shape[2] == 4:
        return light
    return np.concatenate([light, np.ones_like(light[..., :1])], axis=2)


def add(whole: Light, light: Light, part: PassLight) -> Light:
    if light.shape[2] == 4 or whole.shape[2] == 4:
        whole, light = with_alpha(whole), with_alpha(light)
        alpha = np.maximum(whole[..., 3:], light[..., 3:])
        return np.concatenate([whole[..., :3] + light[..., :3] * part.factor, alpha], axis=2)
    return whole + light * part.factor


def multiply(whole: Light, light: Light, part: PassLight) -> Light:
    factor = straight(light) * part.factor
    if part.one.inverted:
        factor = 1 - factor
    if light.shape[2] == 4:  # where a factor does not reach, it does nothing
        factor = np.where(light[..., 3:] > 0, factor, np.float32(1))
    dimmed = whole.copy()
    dimmed[..., :3] *= 1 + (factor - 1) * np.float32(part.one.amount)
    return dimmed


def straight(factor: Light) -> Light:
    """A factor, (h, w, 3), that is not premultiplied by the alpha that it came with."""
    if factor.shape[2] < 4:
        return factor
    alpha = factor[..., 3:]
    return np.asarray(factor[..., :3] / np.where(alpha > 0, alpha, 1), np.float32)


def lay_over(whole: Light, light: Light, part: PassLight) -> Light:
    whole, light = with_alpha(whole), with_alpha(light)
    front = light * np.float32(part.one.amount)
    front[..., :3] *= part.factor
    return front + whole * (1 - front[..., 3:])


def cut_out(whole: Light, light: Light, part: PassLight) -> Light:
    """What is there, cut out by the pass: its alpha where it has one, else its first channel."""
    matte = light[..., 3:] if light.shape[2] == 4 else light[..., :1]
    matte = np.clip(matte, 0, 1)
    if part.one.inverted:
        matte = 1 - matte
    return with_alpha(whole) * (1 + (matte - 1) * np.float32(part.one.amount))


def give_alpha(whole: Light, light: Light, _part: PassLight) -> Light:
    """The alpha of passes that came without it, from the beauty that has it."""
    return np.concatenate([whole[..., :3], with_alpha(light)[..., 3:]], axis=2)


APPLIED = {
    Operation.SUM: add,
    Operation.MULTIPLY: multiply,
    Operation.OVER: lay_over,
    Operation.MATTE: cut_out,
    Operation.ALPHA: give_alpha,
}


@dataclass(frozen=True, slots=True)
class Difference:
    """How far two pictures of light are apart: of a channel, in scene-linear values.

    part: the mean distance as a part of the mean light.
    """

    greatest: float
    mean: float
    part: float


def difference(one: Light, other: Light) -> Difference:
    """Colour only. Pixels that are no numbers in either count as far apart as can be."""
    away = np.abs(one[..., :3].astype(np.float64) - other[..., :3])
    away = np.where(np.isfinite(away), away, 1e9)
    light = float(np.mean(np.abs(other[..., :3]), dtype=np.float64))
    mean = float(away.mean())
    return Difference(float(away.max(initial=0.0)), mean, mean / light if light else mean)
