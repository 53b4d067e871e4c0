"""Layers over a ground: what is behind, the programme, overlays, and the reel's finish over all."""

from __future__ import annotations

import numpy as np

from waxseal.core.frames.reading import Pixels
from waxseal.core.job.corrections import Values
from waxseal.core.job.model import Blend
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.canvas import Around, Canvas
from waxseal.core.picture.clear import transform_premultiplied
from waxseal.core.picture.framing import Box
from waxseal.core.picture.kernels import plain
from waxseal.core.picture.layers import covers, finish_layer, is_sure_to_cover, veil
from waxseal.core.plan.recipe import Joined, Layer, Recipe

__all__ = ["MODES", "compose", "uncovered"]

MODES = {
    Blend.OVER: plain.OVER,
    Blend.ADD: plain.ADD,
    Blend.MULTIPLY: plain.MULTIPLY,
    Blend.SCREEN: plain.SCREEN,
}


def compose(recipe: Recipe, canvas: Canvas, pixels: Pixels | None = None) -> Light:
    """The reel's frame as opaque working light, (h, w, 3). Raises FrameError, JobError.

    pixels: of the shot's frame, where the caller has decoded it already.
    """
    page = Page(recipe, canvas, pixels)
    for one in uncovered(recipe, canvas):
        page.add(one)
    whole = page.whole()
    finish = recipe.finish
    if finish.corrections:
        from waxseal.core.picture.finish.applying import apply_finish

        whole = apply_finish(whole, finish, Around(canvas, canvas.box, canvas.box))
    return veil(whole, finish.cover.veil, finish.cover.veiled + (1 - finish.cover.opacity), canvas)


def uncovered(recipe: Recipe, canvas: Canvas) -> list[Layer | Joined]:
    """What is drawn, from the highest layer that is sure to cover the frame: nothing under it.

    A frame under it that cannot be read is then none of this picture's troubles.
    """
    every = (recipe.behind, recipe.programme, *recipe.overlays)
    drawn = [one for one in every if one is not None]
    for number in range(len(drawn) - 1, 0, -1):
        one = drawn[number]
        if isinstance(one, Layer) and is_sure_to_cover(one, canvas):
            return drawn[number:]
    return drawn


class Page:
    """A frame while layers are laid on it. The ground is filled in when something lets it show."""

    def __init__(self, recipe: Recipe, canvas: Canvas, pixels: Pixels | None) -> None:
        self._recipe, self._canvas, self._pixels = recipe, canvas, pixels
        self._light: Light | None = None

    def whole(self) -> Light:
        if self._light is None:
            self._light = self._canvas.empty(self._recipe.ground)
        return self._light

    def add(self, one: Layer | Joined) -> None:
        if isinstance(one, Joined):
            self._join(one)
        else:
            self._lay(one)

    def _lay(self, layer: Layer) -> None:
        canvas = self._canvas
        pixels = self._pixels if layer is self._recipe.shot else None
        light, at = finish_layer(layer, canvas, pixels)
        if covers(light, at, canvas.box, layer):
            self._light = light
        elif light.size:
            lay(self.whole(), light, at, layer, canvas)

    def _join(self, joined: Joined) -> None:
        """Both shots over what is under them, mixed in linear light."""
        under = self.whole()
        sides = []
        for layer in (joined.before, joined.after):
            self._light = under.copy()
            if layer is not None:
                self._lay(layer)
            sides.append(self.whole())
        share = np.float32(joined.share)
        self._light = sides[0] * (np.float32(1) - share) + sides[1] * share


def lay(whole: Light, light: Light, at: Box, layer: Layer, canvas: Canvas) -> None:
    """Lay a layer's light over what is there, in place."""
    mode, kernels, opacity = MODES[layer.blend], canvas.kernels, layer.finish.cover.opacity
    if layer.values is Values.LINEAR:
        kernels.blend(whole, light, (at.x, at.y), opacity, mode)
        return
    from waxseal.core.picture.colour.spaces import curve, make_process

    encode, decode = make_process(curve(encode=True)), make_process(curve(encode=False))
    light = np.ascontiguousarray(light)
    part = np.ascontiguousarray(whole[at.y : at.y + at.height, at.x : at.x + at.width])
    encode.apply(part)
    transform_premultiplied(light, encode.apply, kernels)
    kernels.blend(part, light, (0, 0), opacity, mode)
    decode.apply(part)
    whole[at.y : at.y + at.height, at.x : at.x + at.width] = part
