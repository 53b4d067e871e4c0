"""The values of single pixels: what the source holds, and what the delivery will hold."""

from __future__ import annotations

from dataclasses import dataclass

from waxseal.core.frames.reading import Pixels
from waxseal.core.picture import plain
from waxseal.core.picture.geometry import Box
from waxseal.core.picture.kernels import Kernels
from waxseal.core.picture.layering import box_of, turned
from waxseal.core.picture.light import decoded
from waxseal.core.picture.make import Layout, Picture, Target, make
from waxseal.core.plan.recipe import Recipe

__all__ = ["Sample", "Sampled", "sampled"]


@dataclass(frozen=True, slots=True)
class Sample:
    """One pixel of the reel's frame.

    source: the colour that the file holds, 0..1 for integers; None beside the picture.
    alpha: 0..1; None where the source has none.
    codes: Y', Cb, Cr of the delivery.
    """

    x: int
    y: int
    source: tuple[float, float, float] | None
    alpha: float | None
    codes: tuple[int, int, int]


@dataclass(frozen=True, slots=True, eq=False)
class Sampled:
    """A frame that is looked at closely."""

    recipe: Recipe
    pixels: Pixels | None
    box: Box
    picture: Picture

    def at(self, x: int, y: int) -> Sample | None:
        """The values at a pixel of the reel's frame; None outside it."""
        if not (0 <= x < self.recipe.width and 0 <= y < self.recipe.height):
            return None
        luma, blue, red = self.picture.planes
        codes = (int(luma[y, x]), int(blue[y // 2, x // 2]), int(red[y // 2, x // 2]))
        if self.pixels is None:
            return Sample(x, y, None, None, codes)
        main = self.recipe.main
        seen = self.pixels.values if main is None else turned(self.pixels.values, main)
        height, width = seen.shape[:2]
        column = (x - self.box.x) * width // self.box.width
        row = (y - self.box.y) * height // self.box.height
        if not (0 <= column < width and 0 <= row < height):
            return Sample(x, y, None, None, codes)
        values = seen[row, column]
        most = {"uint8": 255.0, "uint16": 65_535.0}.get(values.dtype.name, 1.0)
        red_, green, blue_ = (float(value) / most for value in values[:3])
        alpha = float(values[3]) / most if self.pixels.has_alpha else None
        return Sample(x, y, (red_, green, blue_), alpha, codes)


def sampled(recipe: Recipe, *, kernels: Kernels = plain) -> Sampled:
    """Decode a recipe's frame and make its delivery picture. Raises FrameError."""
    pixels, box = None, Box(0, 0, recipe.width, recipe.height)
    main = recipe.main
    if main is not None:
        pixels = decoded(main.pick)
        height, width = turned(pixels.values, main).shape[:2]
        box = box_of(main, (width, height), (recipe.width, recipe.height))
    target = Target(recipe.width, recipe.height, Layout.YUV420)
    return Sampled(recipe, pixels, box, make(recipe, target, kernels=kernels, pixels=pixels))
