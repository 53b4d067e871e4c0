"""The values of single pixels: what the source holds, and what the delivery will hold."""

from __future__ import annotations

from dataclasses import dataclass

from waxseal.core.frames.frame_reader import Pixels
from waxseal.core.picture.framing import Box
from waxseal.core.picture.layer_placement import box_of, mirror_and_turn
from waxseal.core.picture.light.light_reader import decode_pick
from waxseal.core.picture.make import Picture, make
from waxseal.core.picture.target import Target
from waxseal.core.plan.recipe import Recipe

__all__ = ["Sample", "Sampled", "sample"]


@dataclass(frozen=True, slots=True)
class Sample:
    """One pixel of the reel's frame.

    source: the colour that the file holds, 0..1 for integers; None beside the picture.
    alpha: 0..1; None where the source has none.
    delivered: Y', Cb, Cr in codes of the delivery, or its light.
    """

    x: int
    y: int
    source: tuple[float, float, float] | None
    alpha: float | None
    delivered: tuple[float, ...]


@dataclass(frozen=True, slots=True, eq=False)
class Sampled:
    """A frame that is looked at closely, made for a target."""

    recipe: Recipe
    target: Target
    pixels: Pixels | None
    box: Box
    picture: Picture

    def at(self, x: int, y: int) -> Sample | None:
        """The values at a pixel of the reel's frame; None outside it."""
        if not (0 <= x < self.recipe.width and 0 <= y < self.recipe.height):
            return None
        delivered = self._delivered_at(x, y)
        shot = self.recipe.shot
        if self.pixels is None or shot is None:
            return Sample(x, y, None, None, delivered)
        seen = mirror_and_turn(self.pixels.values, shot.placement.placing)
        height, width = seen.shape[:2]
        column = (x - self.box.x) * width // self.box.width
        row = (y - self.box.y) * height // self.box.height
        if not (0 <= column < width and 0 <= row < height):
            return Sample(x, y, None, None, delivered)
        values = seen[row, column]
        most = {"uint8": 255.0, "uint16": 65_535.0}.get(values.dtype.name, 1.0)
        red, green, blue = (float(value) / most for value in values[:3])
        alpha = float(values[3]) / most if self.pixels.has_alpha else None
        return Sample(x, y, (red, green, blue), alpha, delivered)

    def _delivered_at(self, x: int, y: int) -> tuple[float, ...]:
        planes, layout = self.picture.planes, self.target.layout
        if not layout.is_ycbcr and not layout.is_rgb:
            return tuple(float(value) for value in planes[0][y, x])
        height, width = planes[0].shape
        return tuple(
            int(plane[y * plane.shape[0] // height, x * plane.shape[1] // width])
            for plane in planes
        )


def sample(recipe: Recipe, target: Target) -> Sampled:
    """Decode a recipe's frame and make it for a target of the reel's size. Raises FrameError."""
    pixels, box = None, Box(0, 0, recipe.width, recipe.height)
    shot = recipe.shot
    if shot is not None:
        pixels = decode_pick(shot.pick)
        height, width = mirror_and_turn(pixels.values, shot.placement.placing).shape[:2]
        box = box_of(shot, (width, height), (recipe.width, recipe.height))
    picture = make(recipe, target, pixels=pixels)
    return Sampled(recipe, target, pixels, box, picture)
