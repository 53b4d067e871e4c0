"""A finished picture in a frame of another shape: cut off, or with a ground around it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from waxseal.core.job.model import Subject
from waxseal.core.picture.arrays import Plane, Planes
from waxseal.core.picture.framing import Box
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.recipe import MIDDLE, Recipe

__all__ = ["around_subject", "inner_target", "own_shape", "reframe"]


def inner_target(target: Target, box: Box) -> Target:
    """What the whole picture is made for, before it is put into the frame."""
    return replace(target, width=box.width, height=box.height, placed=None)


def own_shape(recipe: Recipe, target: Target) -> Target:
    """The target in the reel's shape, at least as wide and as high."""
    scale = max(target.width / recipe.width, target.height / recipe.height)
    width, height = round(recipe.width * scale), round(recipe.height * scale)
    return replace(target, width=width, height=height, is_stretched=False)


def around_subject(target: Target, box: Box, subject: Subject) -> Box:
    """Where a picture goes that is cut, so that a point of it is in the frame's middle.

    As near as there is picture to fill the frame; its corner stays on whole pixels of chroma.
    """
    if subject == MIDDLE:
        return box
    layout = target.layout
    columns, rows = (layout.chroma_columns, layout.chroma_rows) if layout.is_ycbcr else (1, 1)
    return replace(
        box,
        x=moved(box.x, box.width, target.width, subject.x, columns),
        y=moved(box.y, box.height, target.height, subject.y, rows),
    )


def moved(start: int, length: int, side: int, share: float, grid: int) -> int:
    if length <= side:
        return start  # nothing of it is cut
    wanted = round(side / 2 - share * length)
    near = max(side - length, min(0, wanted))
    return near + -near % grid


def reframe(planes: Planes, ground: Planes, target: Target, box: Box) -> Planes:
    """Planes of the frame's size. ground: planes of one colour, as small as they can be.

    The box's corner lies on whole pixels of chroma, see `Target.placed`.
    """
    width, height = target.stored_size
    if target.layout is Layout.LIGHT:
        return (laid(planes[0], ground[0], (height, width), (box.x, box.y)),)
    made = []
    for number, (plane, colour) in enumerate(zip(planes, ground, strict=True)):
        is_chroma = target.layout.is_ycbcr and number in (1, 2)
        across = target.layout.chroma_columns if is_chroma else 1
        down = target.layout.chroma_rows if is_chroma else 1
        shape, at = (height // down, width // across), (box.x // across, box.y // down)
        made.append(laid(plane, colour, shape, at))
    return tuple(made)


def laid(plane: Plane, ground: Plane, shape: tuple[int, int], at: tuple[int, int]) -> Plane:
    """One plane, (h, w) or (h, w, n), on another, all of which is the ground's first pixel."""
    whole = np.empty((*shape, *plane.shape[2:]), plane.dtype)
    whole[:] = ground[0, 0]
    left, top = max(0, at[0]), max(0, at[1])
    right, below = min(shape[1], at[0] + plane.shape[1]), min(shape[0], at[1] + plane.shape[0])
    whole[top:below, left:right] = plane[top - at[1] : below - at[1], left - at[0] : right - at[0]]
    return whole
