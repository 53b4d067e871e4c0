"""What a finish draws in the reel's frame: softness, vignette, haze, grain, border."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from waxseal.core.job.corrections import Border, Grain, Haze, Sharpen, Vignette
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.blur import blur
from waxseal.core.picture.canvas import Around
from waxseal.core.picture.framing import Box

__all__ = ["border", "grain", "haze", "sharpen", "vignette"]

GREY = np.float32(0.18)
MOST_NOISE = np.float32(3)  # standard deviations: one value in four hundred is beyond


def sharpen(light: Light, one: Sharpen, height: int) -> Light:
    """The difference from a softened picture, added again; alpha stays.

    Nothing becomes negative by it; what is so already may stay, as deep as it was.
    """
    away = light[..., :3] - blur(np.ascontiguousarray(light[..., :3]), one.radius, height)
    sharp = light.copy()
    least = np.minimum(light[..., :3], np.float32(0))
    sharp[..., :3] = np.maximum(light[..., :3] + away * np.float32(one.amount), least)
    return sharp


def vignette(light: Light, one: Vignette, at: Box, size: tuple[int, int]) -> Light:
    """Darker outside a soft ellipse whose place and size are parts of the frame's."""
    dark = ellipse(one, at, light.shape[:2], size)
    shaded = light.copy()
    for channel in range(3):  # one plane at a time is quicker than one broadcast over all
        shaded[..., channel] *= dark
    return shaded


@lru_cache(maxsize=4)
def ellipse(one: Vignette, at: Box, shape: tuple[int, int], size: tuple[int, int]) -> Light:
    """What is left of the light at each pixel: the same at every frame."""
    across = (at.x + np.arange(shape[1]) + 0.5) / size[0] - one.x
    down = (at.y + np.arange(shape[0]) + 0.5) / size[1] - one.y
    away = np.hypot(down[:, None] / one.size, across[None, :] / one.size)
    soft = max(one.softness, 1e-3)
    part = np.clip((away - (1 - soft)) / (2 * soft), 0, 1)
    return (1 - one.strength * part * part * (3 - 2 * part)).astype(np.float32)


def haze(light: Light, one: Haze, depth: NDArray[np.float32], colour: Light) -> Light:
    """A colour, as light, (3,), over what is far, by its depth: (h, w)."""
    reach = one.end - one.start or 1e-9
    with np.errstate(invalid="ignore"):
        far = np.clip((depth - np.float32(one.start)) / np.float32(reach), 0, 1)
    far = np.nan_to_num(far, nan=1.0)[..., None] * np.float32(one.density)
    alpha = light[..., 3:] if light.shape[2] == 4 else np.float32(1)
    hazy = light.copy()
    hazy[..., :3] = light[..., :3] * (1 - far) + colour * (far * alpha)
    return hazy


def grain(light: Light, one: Grain, around: Around) -> Light:
    """Noise by the root of the light, as photons have it; its mean is none.

    In the darkest light it is held to a third of the light, so that none is cut off at
    nothing: that would make the dark brighter.
    A picture for looking, of fewer pixels than the reel has, gets the grain that the
    mean of the delivery's has.
    """
    at, size, reel = around.at, around.size, around.canvas.frame[1]
    generator = np.random.Generator(np.random.PCG64(one.seed))
    shown = max(1.0, one.size * reel / 1000) * size[1] / reel  # pixels of a grain
    pitch = max(1.0, shown)
    wide, tall = (max(1, round(side / pitch)) for side in size)
    noise = generator.standard_normal((tall, wide), np.float32)
    if pitch > 1:
        noise = np.asarray(cv2.resize(noise, size, interpolation=cv2.INTER_CUBIC), np.float32)
        noise /= max(float(noise.std()), 1e-6)
    noise = noise[at.y : at.y + light.shape[0], at.x : at.x + light.shape[1], None]
    grainy = light.copy()
    colour = light[..., :3]
    light_there = np.maximum(colour, np.float32(0))
    strength = np.sqrt(light_there * GREY) * np.float32(one.amount / 100 * min(1.0, shown))
    strength = np.minimum(strength, light_there / MOST_NOISE)
    grainy[..., :3] = colour + np.clip(noise, -MOST_NOISE, MOST_NOISE) * strength
    return grainy


def border(light: Light, one: Border, around: Around) -> Light:
    """A frame of one colour at the edges of the picture's box, inside it."""
    at, box = around.at, around.box
    width = round(one.width * around.height / 1000)
    if width == 0:
        return light
    framed = light.copy()
    typed = around.canvas.colour(one.colour)
    colour = np.array((*typed, 1.0)[: light.shape[2]], np.float32)
    rows = np.arange(light.shape[0]) + at.y
    columns = np.arange(light.shape[1]) + at.x
    edge_rows = (rows < box.y + width) | (rows >= box.y + box.height - width)
    edge_columns = (columns < box.x + width) | (columns >= box.x + box.width - width)
    framed[edge_rows] = colour
    framed[:, edge_columns] = colour
    return framed
