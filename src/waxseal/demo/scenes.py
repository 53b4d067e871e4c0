"""The three shots of the demo as pictures: what is where at which frame."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from waxseal.core.job.corrections import Text, TextPlace
from waxseal.core.picture.finish.lettering import draw_text
from waxseal.demo.tracing import (
    BANDED,
    BLUE_WORLD,
    BRASS,
    MOON,
    RUST,
    SUN,
    trace,
)

__all__ = ["HEIGHT", "WIDTH", "moonrise", "passing", "plate", "title", "wide", "wide_with_passes"]

WIDTH, HEIGHT = 1280, 720
Light = NDArray[np.float32]  # (HEIGHT, WIDTH, 4), scene-linear, premultiplied

# Planets: orbit's radius, own radius, material, turns a shot, where it starts (radians).
PLANETS = (
    (1.00, 0.110, RUST, 0.90, 0.4),
    (1.62, 0.165, BLUE_WORLD, 0.52, 2.6),
    (2.28, 0.135, MOON, 0.36, 5.0),
    (3.05, 0.270, BANDED, 0.24, 1.1),
)
STARS = 420


def camera(eye: tuple[float, float, float], at: tuple[float, float, float], lens: float) -> Light:
    forward = np.subtract(at, eye)
    forward = forward / np.linalg.norm(forward)
    right = np.cross(forward, (0.0, 1.0, 0.0))
    right = right / np.linalg.norm(right)
    up = np.cross(right, forward)
    rows = np.array([eye, right, up, forward, (lens, 0, 0)], np.float32)
    return np.asarray(rows, np.float32)


def picture(view: Light, spheres: Light, rings: Light, rods: Light) -> tuple[Light, Light]:
    """The light, and the passes (see `trace`)."""
    light = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    passes = np.zeros((HEIGHT, WIDTH, 11), np.float32)
    reach = np.abs(spheres[:, [0, 2]]).max() + spheres[:, 3].max()
    reach = max(reach, rings[:, 0].max(initial=0) + np.abs(rings[:, 3:]).max(initial=0) + 0.2)
    low = (spheres[:, 1] - spheres[:, 3]).min()
    high = (spheres[:, 1] + spheres[:, 3]).max()
    bound = np.array((0, 0, reach, low, high), np.float32)
    trace(view, bound, spheres, rings, rods, light, passes)
    return light, passes


def rows(values: list[tuple[float, ...]], width: int) -> Light:
    return np.array(values, np.float32).reshape(-1, width)


def wide(index: int, count: int) -> Light:
    """The whole orrery, turning, over nothing."""
    return wide_with_passes(index, count)[0]


def wide_with_passes(index: int, count: int) -> tuple[Light, Light]:
    """Its light, and its passes (see `trace`)."""
    part = index / count
    spheres: list[tuple[float, ...]] = [(0, 0, 0, 0.40, SUN, 0.6 * part)]
    rings: list[tuple[float, ...]] = [(0.62, 0.035, 0, 0, 0)]
    rods: list[tuple[float, ...]] = [(0, -0.38, 0, 0, -1.05, 0, 0.055)]
    spheres.append((0, -1.05, 0, 0.13, BRASS, 0))
    for orbit, radius, material, turns, start in PLANETS:
        angle = start + 2 * math.pi * turns * part
        x, z = orbit * math.cos(angle), orbit * math.sin(angle)
        spheres.append((x, radius * 1.15, z, radius, material, 5 * part))
        spheres.append((x, 0, z, 0.045, BRASS, 0))
        rings.append((orbit, 0.022, 0, 0, 0))
        rods.append((0.3 * x / orbit, -0.45, 0.3 * z / orbit, x, 0, z, 0.012))
    turn = 0.22 * (part - 0.5)
    eye = (7.2 * math.sin(turn), 3.0 + 0.35 * part, 7.2 * math.cos(turn))
    view = camera(eye, (0, -0.22, 0), 0.60)
    return picture(view, rows(spheres, 6), rows(rings, 5), rows(rods, 7))


def passing(index: int, count: int) -> Light:
    """A banded planet with a brass ring swings by, close."""
    part = index / max(1, count - 1)
    x = -3.4 + 6.8 * part
    z = 1.2 * math.cos(math.pi * (part - 0.5))
    spheres = rows(
        [
            (x, 0.1, z, 1.15, BANDED, 1.2 * part),
            (x + 2.1 * math.cos(4 * part), 0.35, z + 2.1 * math.sin(4 * part), 0.2, MOON, part),
        ],
        6,
    )
    rings = rows([(1.62, 0.10, 0.1, x, z), (1.95, 0.035, 0.1, x, z)], 5)
    view = camera((0, 1.1, 6.4), (0, 0.1, 0), 0.80)
    return picture(view, spheres, rings, rows([], 7))[0]


def moonrise(index: int, count: int) -> Light:
    """The moon comes up behind a hill with a dome on it; opaque."""
    part = index / max(1, count - 1)
    spheres = rows([(1.1 - 0.5 * part, -1.9 + 2.5 * part, 0, 0.95, MOON, 0.15 * part)], 6)
    moon, _ = picture(camera((0, 0, 6), (0, 0, 0), 0.80), spheres, rows([], 5), rows([], 7))
    moon[..., :3] *= np.array((1.25, 1.12, 0.92), np.float32)
    night = sky(part)
    light = moon[..., :3] + night * (1 - moon[..., 3:])
    land = hill(WIDTH, HEIGHT)
    earth = np.array((0.006, 0.008, 0.012), np.float32)
    light = light * (1 - land) + earth * land
    return np.asarray(np.concatenate([light, np.ones_like(moon[..., 3:])], axis=2), np.float32)


def sky(part: float) -> Light:
    """Night with stars that pale as the moon rises."""
    down = np.linspace(0, 1, HEIGHT, dtype=np.float32)[:, None, None]
    high, low = np.array((0.004, 0.007, 0.018)), np.array((0.035, 0.045, 0.075))
    night = np.repeat(high + (low * (1 + part) - high) * down**2, WIDTH, axis=1)
    random = np.random.default_rng(47)
    places = random.random((STARS, 2)) * (HEIGHT - 1, WIDTH - 1)
    bright = random.random(STARS) ** 6 * (1.1 - 0.5 * part)
    for (row, column), light in zip(places.astype(int), bright, strict=True):
        night[row, column] += light
        night[row, column + 1] += light * 0.4
    return np.asarray(night, np.float32)


@lru_cache(maxsize=1)
def hill(width: int, height: int) -> Light:
    """How much of each pixel is land: (height, width, 1), 0..1."""
    x = np.linspace(0, 1, width)
    ground = 0.80 - 0.13 * np.exp(-(((x - 0.30) / 0.17) ** 2)) + 0.02 * np.sin(9 * x)
    edge = ground * height
    lines = np.arange(height)[:, None]
    land = np.clip(lines - edge[None, :] + 0.5, 0, 1)
    middle, top = 0.30 * width, float(edge[int(0.30 * width)])
    across = np.arange(width)[None, :]
    away = np.hypot(across - middle, np.minimum(lines - (top - 18), 0))
    dome = np.clip(46 - away + 0.5, 0, 1) * (lines < top + 4)
    slit = (np.abs(across - middle - 9) < 4) & (lines < top - 22)
    return np.asarray(np.maximum(land, dome * ~slit)[..., None], np.float32)


def plate() -> Light:
    """A still to stand behind the orrery: the observatory's wall in the dark, opaque."""
    down = np.linspace(0, 1, HEIGHT, dtype=np.float32)[:, None, None]
    across = np.linspace(-1, 1, WIDTH, dtype=np.float32)[None, :, None]
    glow = np.exp(-((across / 0.7) ** 2) - ((down - 0.45) / 0.5) ** 2)
    wall = np.array((0.010, 0.013, 0.020), np.float32)
    lamp = np.array((0.030, 0.026, 0.022), np.float32)
    light = wall + lamp * glow
    return np.concatenate([light, np.ones_like(light[..., :1])], axis=2).astype(np.float32)


def title() -> Light:
    """The film's title over nothing."""
    clear = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    name = Text(words="The Brass Orrery", place=TextPlace.MIDDLE, size=110, colour="#f0d9a0")
    host = Text(
        words="an open night at Tarn Hill Observatory",
        place=TextPlace.BOTTOM,
        size=38,
        colour="#c9c2b4",
    )
    return draw_text(draw_text(clear, name), host)
