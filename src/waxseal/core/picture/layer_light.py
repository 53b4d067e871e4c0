"""One layer: its light in the frame, finished, not yet laid over anything."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np

from waxseal.core.errors import FrameError
from waxseal.core.filenames import MOVIE_SUFFIXES
from waxseal.core.frames.frame_reader import Pixels
from waxseal.core.frames.headers import Header, look
from waxseal.core.job.corrections import WHOLE, Cover, Values
from waxseal.core.job.model import Alpha, Blend, Placing
from waxseal.core.picture.alpha_transforms import transform_premultiplied
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.canvas import Around, Canvas
from waxseal.core.picture.colour.display_values import in_display_values
from waxseal.core.picture.finish.apply_finish import IN_FRAME, apply_finish
from waxseal.core.picture.framing import Box
from waxseal.core.picture.layer_placement import (
    box_on,
    filter_of,
    inside_of,
    mirror_and_turn,
    scale_into,
    widen,
)
from waxseal.core.picture.light.light_reader import layer_light
from waxseal.core.plan.filestates import FileState
from waxseal.core.plan.recipe import BARE, CENTRED, Finished, Layer, Pick

__all__ = [
    "covers",
    "finish_layer",
    "finish_light",
    "frame_layer",
    "header_of",
    "hides_under",
    "is_sure_to_cover",
    "mix",
    "with_alpha",
]


def finish_layer(layer: Layer, canvas: Canvas, pixels: Pixels | None = None) -> tuple[Light, Box]:
    """A layer as it is in the frame: what is inside, and where. Raises FrameError, JobError."""
    store, finish = canvas.store, layer.finish

    def make(own: Canvas) -> tuple[Light, Box]:
        light, box = frame_layer(layer, own, pixels)
        at, placing = inside_of(box, canvas.size), layer.placement.placing
        return correct(light, at, box, finish, canvas, placing)

    if store is None or not store.only_recurring or not finish.corrections:
        light, at = make(canvas)
    else:  # without its fades, which differ from frame to frame
        key = key_in_store(replace(layer, finish=replace(finish, cover=WHOLE)), canvas)
        light, at = store.get(key, lambda: make(replace(canvas, store=None)))
    return veil(light, finish.cover, canvas), at


def finish_light(
    light: Light,
    at: Box,
    box: Box,
    finish: Finished,
    canvas: Canvas,
    placing: Placing = CENTRED,
) -> tuple[Light, Box]:
    """What a finish makes of light, which may be changed, and where that is.

    at: what is inside the frame of its whole box. placing: see Around.
    """
    light, at = correct(light, at, box, finish, canvas, placing)
    return veil(light, finish.cover, canvas), at


def correct(
    light: Light, at: Box, box: Box, finish: Finished, canvas: Canvas, placing: Placing
) -> tuple[Light, Box]:
    """Apply the corrections of a finish, but not its cover: that is what fades."""
    if finish.corrections and light.size:
        if any(isinstance(one, IN_FRAME) for one in finish.corrections):
            light, at = widen(light, at, canvas)
        light = apply_finish(light, finish, Around(canvas, at, box, placing))
    return light, at


def frame_layer(layer: Layer, canvas: Canvas, pixels: Pixels | None) -> tuple[Light, Box]:
    """A layer's light inside the frame before its finish, and its whole box."""
    boxes: list[Box] = []

    def make() -> Light:
        light, size = layer_light(layer, canvas.means, pixels)
        boxes.append(box_on(layer, size, canvas))
        return scale_into(
            mirror_and_turn(light, layer.placement.placing),
            boxes[0],
            canvas,
            filter_of(layer, canvas),
        )[0]

    if canvas.store is None:
        return make(), boxes[0]
    key = key_in_store(replace(layer, finish=BARE), canvas)
    return canvas.store.get(key, lambda: (make(), boxes[0]))


def key_in_store(layer: Layer, canvas: Canvas) -> Hashable:
    """What a layer's light depends on, before it is laid over anything."""
    what, means = replace(layer, blend=Blend.OVER, values=Values.LINEAR), canvas.means
    lightly = means.copies is not None
    return what, canvas.size, canvas.frame, canvas.chosen, means.colourway, means.space, lightly


def veil(light: Light, cover: Cover, canvas: Canvas) -> Light:
    """Cover a part of a picture with a colour, as far as the picture itself covers."""
    if cover.veiled <= 0 or not light.size:
        return light
    colour = canvas.colour(cover.veil)
    if cover.values is Values.LINEAR:
        return veil_values(light, colour, cover.veiled)
    encode, decode = in_display_values()
    shown, typed = np.array(light, np.float32, order="C"), colour.reshape(1, 1, 3).copy()
    transform_premultiplied(shown, encode.apply)
    encode.apply(typed)
    shown = veil_values(shown, typed[0, 0], cover.veiled)
    transform_premultiplied(shown, decode.apply)
    return shown


def veil_values(light: Light, colour: Light, part: float) -> Light:
    covered = light * np.float32(1 - part)
    if light.shape[2] == 3:
        rows = covered.reshape(len(covered), -1)  # quicker than pixel by pixel
        rows += np.tile(colour * np.float32(part), light.shape[1])
        return covered
    covered[..., :3] += colour * (light[..., 3:] * np.float32(part))
    covered[..., 3:] = light[..., 3:]
    return covered


def mix(before: Light, after: Light, share: float, values: Values) -> Light:
    """Two pictures, (h, w, 3 or 4), premultiplied; share: how much of the second, 0..1."""
    part = np.float32(share)
    if before.shape != after.shape:
        before, after = with_alpha(before), with_alpha(after)
    if values is Values.LINEAR:
        return add_shares(before * (np.float32(1) - part), after * part)
    encode, decode = in_display_values()
    sides = [np.array(one, np.float32, order="C") for one in (before, after)]
    for side, share_of_it in zip(sides, (np.float32(1) - part, part), strict=True):
        transform_premultiplied(side, encode.apply)
        side *= share_of_it
    mixed = add_shares(*sides)
    transform_premultiplied(mixed, decode.apply)
    return mixed


def add_shares(one: Light, other: Light) -> Light:
    """Into the first: pictures are large, and a new one costs as much as the sum."""
    one += other
    return one


def with_alpha(light: Light) -> Light:
    """(h, w, 4): what has no alpha is opaque."""
    if light.shape[2] == 4:
        return light
    four = np.ones((*light.shape[:2], 4), np.float32)
    four[..., :3] = light
    return four


def covers(light: Light, at: Box, frame: Box, layer: Layer) -> bool:
    """Whether nothing under a layer can be seen."""
    return bool(at == frame and light.size and light.shape[2] == 3 and hides_under(layer))


def hides_under(layer: Layer) -> bool:
    """Whether nothing under a layer can be seen where its own picture is opaque."""
    return layer.blend is Blend.OVER and layer.finish.cover.opacity == 1


def is_sure_to_cover(layer: Layer, canvas: Canvas) -> bool:
    """Whether nothing under a layer can be seen, by what is known before it is decoded."""
    shown = layer.shown
    if not hides_under(layer) or layer.finish.corrections or layer.between is not None:
        return False
    header = header_of(shown) if isinstance(shown, Pick) else None
    if header is None or not isinstance(shown, Pick):
        return False
    if shown.read.alpha is not Alpha.NONE and part_has_alpha(header, shown):
        return False
    box = box_on(layer, (header.width, header.height), canvas)
    return inside_of(box, canvas.size) == canvas.box


def header_of(pick: Pick) -> Header | None:
    """What a frame's file says; None of a movie, and where decoding it will say what is wrong."""
    if Path(pick.file.path).suffix.lower() in MOVIE_SUFFIXES:
        return None
    try:
        return header_in(pick.file, pick.frame)
    except FrameError:
        return None


@lru_cache(maxsize=64)  # each is asked for several times a picture, a still's for each picture
def header_in(file: FileState, frame: int) -> Header:
    return look(Path(file.path), frame)


def part_has_alpha(header: Header, pick: Pick) -> bool:
    try:
        return header.part(pick.read.part).has_alpha
    except FrameError:
        return True  # there is no such part: nothing is sure
