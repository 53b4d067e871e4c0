"""Layers over a ground: what is behind, the programme, overlays, and the reel's finish over all.

Where nothing but a curve is between light and display, all of it is mixed in one
light. Under a view, and in high range, scene and graphics are two: neighbouring
layers of a scene are put together in its light and go through the view as one;
what they become is laid over graphics, and graphics over it, in the light of the display. So
what is half clear is as strong under every view and in every range.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from typing_extensions import override

from waxseal.core.frames.frame_reader import Pixels
from waxseal.core.job.corrections import WHOLE, Values
from waxseal.core.job.model import Blend
from waxseal.core.picture import kernels
from waxseal.core.picture.alpha_transforms import transform_premultiplied
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.canvas import Canvas
from waxseal.core.picture.colour.colour_spaces import scene_to_graphics
from waxseal.core.picture.colour.display_values import in_display_values
from waxseal.core.picture.framing import Box
from waxseal.core.picture.kernels.constants import ADD, MULTIPLY, OVER, SCREEN
from waxseal.core.picture.layer_light import (
    covers,
    finish_layer,
    finish_light,
    frame_layer,
    is_sure_to_cover,
    mix,
)
from waxseal.core.picture.layer_placement import inside_of
from waxseal.core.plan.recipe import BARE, Dipped, Joined, Layer, Programmed, Recipe

__all__ = ["MODES", "Composed", "compose", "uncovered"]

MODES = {
    Blend.OVER: OVER,
    Blend.ADD: ADD,
    Blend.MULTIPLY: MULTIPLY,
    Blend.SCREEN: SCREEN,
}


@dataclass(frozen=True, slots=True, eq=False)
class Composed:
    """The reel's frame as light: (h, w, 3), or (h, w, 4) where nothing is under its layers.

    is_shown: whether it is what the display shows, in the light of graphics; else it is
        working light that has to go through the view.
    """

    light: Light
    is_shown: bool


def compose(recipe: Recipe, canvas: Canvas, pixels: Pixels | None = None) -> Composed:
    """Raises FrameError, JobError.

    pixels: of the shot's frame, where the caller has decoded it already.
    """
    page = (
        OneLight(recipe, canvas, pixels)
        if canvas.means.is_one_light
        else TwoLights(recipe, canvas, pixels)
    )
    for one in uncovered(recipe, canvas):
        page.add(one)
    return page.finished()


def uncovered(recipe: Recipe, canvas: Canvas) -> list[Programmed]:
    """What is drawn, from the highest layer that is sure to cover the frame: nothing under it.

    A frame under it that cannot be read is then none of this picture's troubles. Where alpha
    is kept nothing is behind: that is for whoever lays the picture over something.
    """
    behind = None if canvas.is_clear else recipe.behind
    every = (behind, recipe.programme, *recipe.overlays)
    drawn = [one for one in every if one is not None]
    for number in range(len(drawn) - 1, 0, -1):
        one = drawn[number]
        if isinstance(one, Layer) and is_sure_to_cover(one, canvas):
            return drawn[number:]
    return drawn


class OneLight:
    """A frame while layers are laid on it. The ground is filled in when something lets it show."""

    def __init__(self, recipe: Recipe, canvas: Canvas, pixels: Pixels | None) -> None:
        self._recipe, self._canvas, self._pixels = recipe, canvas, pixels
        self._light: Light | None = None

    def whole(self) -> Light:
        if self._light is None:
            self._light = self._canvas.empty(self._recipe.ground)
        return self._light

    def add(self, one: Programmed) -> None:
        if isinstance(one, Joined):
            self._join(one)
        elif isinstance(one, Dipped):
            self._dip(one)
        else:
            self._lay(one)

    def finished(self) -> Composed:
        canvas, finish = self._canvas, self._recipe.finish
        light, _ = finish_light(self.whole(), canvas.box, canvas.box, finish, canvas)
        return Composed(fade_to_ground(light, self._recipe, canvas), is_shown=False)

    def _pixels_of(self, layer: Layer) -> Pixels | None:
        return self._pixels if layer is self._recipe.shot else None

    def _lay(self, layer: Layer) -> None:
        light, at = finish_layer(layer, self._canvas, self._pixels_of(layer))
        if covers(light, at, self._canvas.box, layer):
            self._light = light
        elif light.size:
            lay(self.whole(), light, at, layer, self._canvas)

    def _join(self, joined: Joined) -> None:
        """Both shots over what is under them, mixed."""
        under = self._under()
        sides = []
        for layer in (joined.before, joined.after):
            self._light = under.copy() if under is not None else None
            if layer is not None:
                self.add(layer)
            sides.append(self.whole())
        share = float(joined.share)
        self._light = mix(sides[0], sides[1], share, joined.values)

    def _under(self) -> Light | None:
        """What is there so far; None where it is the ground alone, which is made when needed."""
        return self._light

    def _dip(self, dipped: Dipped) -> None:
        """The shot over what is under it, and the colour over both."""
        if dipped.shot is not None:
            self._lay(dipped.shot)
        canvas, finish = self._canvas, replace(BARE, cover=dipped.cover)
        self._light, _ = finish_light(self.whole(), canvas.box, canvas.box, finish, canvas)


class TwoLights(OneLight):
    """The same where layers of a scene go through a view, and graphics are laid over after it.

    What is shown so far is in the light of graphics; layers of a scene wait beside it
    until something else than their like comes.
    """

    def __init__(self, recipe: Recipe, canvas: Canvas, pixels: Pixels | None) -> None:
        super().__init__(recipe, canvas.graphics, pixels)
        self._scene_canvas = canvas
        self._scene: Light | None = None  # premultiplied working light
        typed = recipe.finish.of_graphics
        self._of_reel = replace(recipe.finish.of_light, cover=WHOLE)
        self._at_end = replace(typed, cover=recipe.finish.cover)

    @override
    def whole(self) -> Light:
        self._show_scene()
        if self._light is None:
            ground = self._canvas.empty(self._recipe.ground)
            self._light = self._in_reel(ground, self._canvas.box, self._canvas)[0]
        return self._light

    @override
    def _under(self) -> Light | None:
        self._show_scene()
        return super()._under()

    @override
    def finished(self) -> Composed:
        canvas = self._canvas
        is_opaque = self._scene is not None and self._scene.shape[2] == 3
        if is_opaque and self._scene is not None and self._at_end.is_bare:
            box = canvas.box
            return Composed(self._in_reel(self._scene, box, self._scene_canvas)[0], is_shown=False)
        light, _ = finish_light(self.whole(), canvas.box, canvas.box, self._at_end, canvas)
        return Composed(fade_to_ground(light, self._recipe, canvas), is_shown=True)

    def _in_reel(self, light: Light, at: Box, canvas: Canvas) -> tuple[Light, Box]:
        """The reel's own corrections but for what was typed."""
        return finish_light(light, at, canvas.box, self._of_reel, canvas)

    @override
    def _lay(self, layer: Layer) -> None:
        if layer.is_graphics:
            light, at = finish_layer(layer, self._canvas, self._pixels_of(layer))
            self._lay_shown(*self._in_reel(light, at, self._canvas), layer)
        elif self._is_of_scene(layer):
            self._gather(layer)
        else:
            self._lay_alone(layer)

    def _is_of_scene(self, layer: Layer) -> bool:
        """Whether a layer is put together with its neighbours before the view."""
        is_even = layer.finish.cover.values is Values.LINEAR and layer.values is Values.LINEAR
        is_over = layer.blend is Blend.OVER or self._covers_with_scene
        return is_even and is_over and not layer.finish.of_graphics.corrections

    @property
    def _covers_with_scene(self) -> bool:
        return self._scene is not None and self._scene.shape[2] == 3

    def _gather(self, layer: Layer) -> None:
        canvas = self._scene_canvas
        light, at = finish_layer(layer, canvas, self._pixels_of(layer))
        if covers(light, at, canvas.box, layer):
            self._scene, self._light = light, None
        elif light.size:
            if self._scene is None:
                width, height = canvas.size
                self._scene = np.zeros((height, width, 4), np.float32)
            lay(self._scene, light, at, layer, canvas)

    def _show_scene(self) -> None:
        """What waits goes through the view, over what is shown."""
        if self._scene is None:
            return
        scene, self._scene = self._scene, None
        light, at = self._in_reel(scene, self._canvas.box, self._scene_canvas)
        self._lay_shown(self._through_view(light), at, None)

    def _lay_alone(self, layer: Layer) -> None:
        """A layer that fades, that is mixed in display values, or that something is typed on."""
        canvas = self._scene_canvas
        light, box = frame_layer(layer, canvas, self._pixels_of(layer))
        at = inside_of(box, canvas.size)
        if not light.size:
            return
        finish = layer.finish
        placing = layer.placement.placing
        own = replace(finish.of_light, cover=WHOLE)
        light, at = finish_light(light, at, box, own, canvas, placing)
        light, at = self._in_reel(light, at, canvas)
        light = self._through_view(light)
        typed = replace(finish.of_graphics, cover=finish.cover)
        self._lay_shown(*finish_light(light, at, box, typed, self._canvas, placing), layer)

    def _lay_shown(self, light: Light, at: Box, layer: Layer | None) -> None:
        """Lay what the display shows over what it shows already."""
        if not light.size:
            return
        if layer is None:
            if light.shape[2] == 3:
                self._light = light
            else:
                kernels.blend(self.whole(), light, (at.x, at.y), 1.0, OVER)
        elif covers(light, at, self._canvas.box, layer):
            self._light, self._scene = light, None
        else:
            lay(self.whole(), light, at, layer, self._canvas)

    def _through_view(self, light: Light) -> Light:
        canvas = self._scene_canvas
        means = canvas.means
        light = np.ascontiguousarray(light)
        transform = scene_to_graphics(means.colourway, means.space, exact=canvas.exact)
        transform_premultiplied(light, transform)
        return light


def lay(whole: Light, light: Light, at: Box, layer: Layer, canvas: Canvas) -> None:
    """Lay a layer's light over what is there, in place."""
    mode, cover = MODES[layer.blend], layer.finish.cover
    is_faded = cover.opacity < 1 and cover.values is Values.DISPLAY
    if layer.values is Values.DISPLAY or is_faded:
        blend_shown(whole, light, at, cover.opacity, mode, canvas)
    else:
        kernels.blend(whole, light, (at.x, at.y), cover.opacity, mode)


def blend_shown(
    whole: Light, light: Light, at: Box, opacity: float, mode: int, canvas: Canvas
) -> None:
    """The same in display values."""
    encode, decode = in_display_values()
    light = np.array(light, np.float32, order="C")
    part = np.ascontiguousarray(whole[at.y : at.y + at.height, at.x : at.x + at.width])
    transform_premultiplied(part, encode.apply)
    transform_premultiplied(light, encode.apply)
    kernels.blend(part, light, (0, 0), opacity, mode)
    transform_premultiplied(part, decode.apply)
    whole[at.y : at.y + at.height, at.x : at.x + at.width] = part


def fade_to_ground(light: Light, recipe: Recipe, canvas: Canvas) -> Light:
    """The reel's own opacity lets its ground show."""
    cover = recipe.finish.cover
    if cover.opacity == 1:
        return light
    ground = canvas.empty(recipe.ground)
    return mix(ground, light, cover.opacity, cover.values)
