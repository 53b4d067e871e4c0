"""A small ray tracer for the demo's frames: spheres, brass rings and rods, two lights.

Compiled by Numba; every function works on one ray or one picture and keeps
no state, so that frames are traced side by side. All light is scene-linear.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, TypeVar, cast

import numba as nb
import numpy as np

__all__ = ["BANDED", "BLUE_WORLD", "BRASS", "MOON", "RUST", "SUN", "trace"]

F = TypeVar("F", bound=Callable[..., Any])


def compiled(function: F) -> F:
    return cast(F, nb.njit(nogil=True, cache=True, fastmath=True)(function))


SUN, RUST, BLUE_WORLD, BANDED, MOON, BRASS = 0, 1, 2, 3, 4, 5
NOTHING, SPHERE, RING, ROD = 0, 1, 2, 3
DIFFUSE, SPECULAR, EMISSION = 0, 3, 6  # where a pass begins among the passes
FAR, HORIZON = 1e9, 100.0
KEY = (-0.48, 0.74, 0.47)  # the direction of the key light, length one
FINE = 3  # samples a side where something thin or an edge is


@compiled
def noise(x: float, y: float, z: float) -> float:
    """Smooth value noise, 0..1."""
    i, j, k = math.floor(x), math.floor(y), math.floor(z)
    u, v, w = x - i, y - j, z - k
    u, v, w = u * u * (3 - 2 * u), v * v * (3 - 2 * v), w * w * (3 - 2 * w)
    total = 0.0
    for a in range(2):
        for b in range(2):
            for c in range(2):
                n = (int(i) + a) * 374761393 + (int(j) + b) * 668265263 + (int(k) + c) * 2147483647
                n = (n ^ (n >> 13)) * 1274126177
                corner = ((n ^ (n >> 16)) & 0xFFFF) / 65535.0
                weight = (u if a else 1 - u) * (v if b else 1 - v) * (w if c else 1 - w)
                total += corner * weight
    return total


@compiled
def rough(x: float, y: float, z: float, octaves: int) -> float:
    """Noise on several scales, about 0..1."""
    total, weight, scale = 0.0, 0.5, 1.0
    for _ in range(octaves):
        total += weight * noise(x * scale, y * scale, z * scale)
        weight, scale = weight * 0.5, scale * 2.03
    return total


@compiled
def hit_sphere(o: Any, d: Any, s: Any) -> float:
    x, y, z = o[0] - s[0], o[1] - s[1], o[2] - s[2]
    b = x * d[0] + y * d[1] + z * d[2]
    c = x * x + y * y + z * z - s[3] * s[3]
    under = b * b - c
    if under < 0:
        return FAR
    t = -b - math.sqrt(under)
    return t if t > 1e-3 else FAR


@compiled
def hit_ring(o: Any, d: Any, r: Any) -> float:
    """A flat band in the plane of height r[2], of radius r[0] and half width r[1]."""
    if abs(d[1]) < 1e-6:
        return FAR
    t = (r[2] - o[1]) / d[1]
    if t < 1e-3:
        return FAR
    x, z = o[0] + t * d[0] - r[3], o[2] + t * d[2] - r[4]
    return t if abs(math.sqrt(x * x + z * z) - r[0]) < r[1] else FAR


@compiled
def hit_rod(o: Any, d: Any, r: Any) -> float:
    """A cylinder from r[0:3] to r[3:6] of radius r[6], open at its ends."""
    ax, ay, az = r[3] - r[0], r[4] - r[1], r[5] - r[2]
    length = math.sqrt(ax * ax + ay * ay + az * az)
    if length < 1e-6:
        return FAR
    ax, ay, az = ax / length, ay / length, az / length
    x, y, z = o[0] - r[0], o[1] - r[1], o[2] - r[2]
    along, rises = d[0] * ax + d[1] * ay + d[2] * az, x * ax + y * ay + z * az
    a = 1 - along * along
    b = x * d[0] + y * d[1] + z * d[2] - along * rises
    c = x * x + y * y + z * z - rises * rises - r[6] * r[6]
    under = b * b - a * c
    if under < 0 or a < 1e-9:
        return FAR
    t = (-b - math.sqrt(under)) / a
    place = rises + t * along
    return t if t > 1e-3 and 0 < place < length else FAR


@compiled
def is_lit(p: Any, towards: Any, far: float, spheres: Any, skipped: int) -> float:
    """1 where nothing but sphere `skipped` stands between p and a light."""
    for n in range(spheres.shape[0]):
        if n != skipped and spheres[n, 4] != SUN and hit_sphere(p, towards, spheres[n]) < far:
            return 0.12
    return 1.0


@compiled
def meets(o: Any, d: Any, bound: Any) -> bool:
    """Whether a ray comes into the drum that everything stands in."""
    if abs(d[1]) < 1e-6:
        return True
    low, high = (bound[3] - o[1]) / d[1], (bound[4] - o[1]) / d[1]
    near, far = max(0.0, min(low, high)), max(low, high)
    if far < 0:
        return False
    x, z = o[0] - bound[0], o[2] - bound[1]
    a, b = d[0] * d[0] + d[2] * d[2], x * d[0] + z * d[2]
    t = min(max(-b / a, near), far)
    x, z = x + t * d[0], z + t * d[2]
    return bool(x * x + z * z < bound[2] * bound[2])


@compiled
def surface(material: int, x: float, y: float, z: float, turn: float) -> Any:
    """The colour of a material at a point of the unit sphere that has turned by an angle."""
    u = x * math.cos(turn) - z * math.sin(turn)
    w = x * math.sin(turn) + z * math.cos(turn)
    if material == RUST:
        n = rough(3.1 * u + 7, 3.1 * y, 3.1 * w, 5)
        return 0.34 + 0.42 * n, 0.13 + 0.20 * n, 0.06 + 0.09 * n
    if material == BLUE_WORLD:
        land = rough(2.3 * u + 3, 2.3 * y + 1, 2.3 * w, 5)
        cloud = rough(4.0 * u, 7.0 * y + 9, 4.0 * w, 4)
        white = min(1.0, max(0.0, (cloud - 0.50) * 5)) * 0.8
        if land > 0.50:
            return 0.20 + white * 0.7, 0.22 + white * 0.7, 0.10 + white * 0.8
        return 0.05 + white * 0.8, 0.16 + white * 0.75, 0.34 + white * 0.6
    if material == BANDED:
        bend = rough(3 * u, 9 * y + 2, 3 * w, 4)
        band = 0.5 + 0.5 * math.sin(11 * y + 5 * bend)
        return 0.50 + 0.28 * band, 0.36 + 0.26 * band, 0.20 + 0.20 * band
    n = rough(2.6 * u + 5, 2.6 * y, 2.6 * w, 5)
    pits = abs(rough(7 * u, 7 * y + 3, 7 * w, 3) - 0.45)
    grey = 0.16 + 0.40 * n - (0.10 if pits < 0.025 else 0.0)
    return grey, grey * 0.97, grey * 0.92


@compiled
def brass(nx: float, ny: float, nz: float, d: Any, light: float) -> Any:
    """Polished brass: what it mirrors of a room with a bright ceiling, and the key light."""
    dot = d[0] * nx + d[1] * ny + d[2] * nz
    rx, ry, rz = d[0] - 2 * dot * nx, d[1] - 2 * dot * ny, d[2] - 2 * dot * nz
    room = 0.10 + 0.55 * max(0.0, ry) ** 2 + 0.18 * max(0.0, math.sin(5 * rx + 3 * rz)) ** 4
    shine = max(0.0, rx * KEY[0] + ry * KEY[1] + rz * KEY[2]) ** 40 * 3.0 * light
    plain = max(0.0, nx * KEY[0] + ny * KEY[1] + nz * KEY[2]) * 0.35 * light
    glow = room + plain
    return 0.92 * glow + shine, 0.62 * glow + 0.8 * shine, 0.25 * glow + 0.45 * shine


@compiled
def shade(o: Any, d: Any, bound: Any, spheres: Any, rings: Any, rods: Any) -> Any:
    """One ray: kind and number of what it meets, its light, its alpha, its pass, how far it is."""
    nearest, kind, number = FAR, NOTHING, -1
    if not meets(o, d, bound):
        return 0, 0.0, 0.0, 0.0, 0.0, DIFFUSE, FAR
    for n in range(spheres.shape[0]):
        t = hit_sphere(o, d, spheres[n])
        if t < nearest:
            nearest, kind, number = t, SPHERE, n
    for n in range(rings.shape[0]):
        t = hit_ring(o, d, rings[n])
        if t < nearest:
            nearest, kind, number = t, RING, n
    for n in range(rods.shape[0]):
        t = hit_rod(o, d, rods[n])
        if t < nearest:
            nearest, kind, number = t, ROD, n
    if kind == NOTHING:
        return 0, 0.0, 0.0, 0.0, 0.0, DIFFUSE, FAR
    part = SPECULAR
    p = (o[0] + nearest * d[0], o[1] + nearest * d[1], o[2] + nearest * d[2])
    if kind == SPHERE:
        r, g, b = shade_sphere(p, d, spheres, number)
        material = int(spheres[number, 4])
        if material == SUN:
            part = EMISSION
        elif material != BRASS:
            part = DIFFUSE
    else:
        if kind == RING:
            ring = rings[number]
            x, z = p[0] - ring[3], p[2] - ring[4]
            radius = math.sqrt(x * x + z * z)
            slope = (radius - ring[0]) / ring[1]  # the band is shaded as if it were round
            nx, nz = slope * x / radius, slope * z / radius
            ny = math.sqrt(max(0.05, 1 - slope * slope)) * (1.0 if d[1] < 0 else -1.0)
        else:
            nx, ny, nz = rod_normal(p, rods[number])
        r, g, b = brass(nx, ny, nz, d, is_lit(p, KEY, FAR, spheres, -1))
    return kind * 64 + number, r, g, b, 1.0, part, nearest


@compiled
def rod_normal(p: Any, r: Any) -> Any:
    ax, ay, az = r[3] - r[0], r[4] - r[1], r[5] - r[2]
    along = ((p[0] - r[0]) * ax + (p[1] - r[1]) * ay + (p[2] - r[2]) * az) / (
        ax * ax + ay * ay + az * az
    )
    return (
        (p[0] - r[0] - along * ax) / r[6],
        (p[1] - r[1] - along * ay) / r[6],
        (p[2] - r[2] - along * az) / r[6],
    )


@compiled
def shade_sphere(p: Any, d: Any, spheres: Any, number: int) -> Any:
    s = spheres[number]
    material = int(s[4])
    nx, ny, nz = (p[0] - s[0]) / s[3], (p[1] - s[1]) / s[3], (p[2] - s[2]) / s[3]
    facing = -(nx * d[0] + ny * d[1] + nz * d[2])
    if material == SUN:
        boil = rough(5 * nx + s[5], 5 * ny, 5 * nz, 4)
        heat = 0.75 + 0.9 * boil
        rim = 0.45 + 0.55 * facing
        return 3.2 * heat * rim, 1.75 * heat * rim * rim, 0.42 * heat * rim * rim * rim
    if material == BRASS:
        return brass(nx, ny, nz, d, is_lit(p, KEY, FAR, spheres, number))
    r, g, b = surface(material, nx, ny, nz, s[5])
    key = max(0.0, nx * KEY[0] + ny * KEY[1] + nz * KEY[2])
    if key > 0:
        key *= is_lit(p, KEY, FAR, spheres, number)
    warm = 0.0
    for n in range(spheres.shape[0]):
        if spheres[n, 4] == SUN:
            x, y, z = spheres[n, 0] - p[0], spheres[n, 1] - p[1], spheres[n, 2] - p[2]
            away = math.sqrt(x * x + y * y + z * z)
            towards = (x / away, y / away, z / away)
            slant = nx * towards[0] + ny * towards[1] + nz * towards[2]
            if slant > 0:
                warm = slant * 2.6 / (0.4 + away * away * 0.5)
                warm *= is_lit(p, towards, away, spheres, number)
    edge = (1 - max(0.0, facing)) ** 4 * 0.12
    light = 0.035 + 0.85 * key
    return (
        r * (light + warm) + edge * 0.6,
        g * (light + 0.72 * warm) + edge * 0.8,
        b * (light + 0.42 * warm) + edge,
    )


@compiled
def ray(camera: Any, x: float, y: float, width: int, height: int) -> Any:
    """The direction through a place of the picture; camera: eye, right, up, forward, lens."""
    u = (x - 0.5 * width) / height * camera[4, 0]
    v = (0.5 * height - y) / height * camera[4, 0]
    dx = camera[3, 0] + u * camera[1, 0] + v * camera[2, 0]
    dy = camera[3, 1] + u * camera[1, 1] + v * camera[2, 1]
    dz = camera[3, 2] + u * camera[1, 2] + v * camera[2, 2]
    length = math.sqrt(dx * dx + dy * dy + dz * dz)
    return dx / length, dy / length, dz / length


@compiled
def trace(
    camera: Any, bound: Any, spheres: Any, rings: Any, rods: Any, picture: Any, passes: Any
) -> None:
    """Fill (height, width, 4) float32 with premultiplied light, and (height, width, 11) passes.

    bound: x, z, radius, lowest and highest y of a drum around everything;
    spheres: x, y, z, radius, material, turn; rings: radius, half width, height,
    centre x, z; rods: two ends and a radius. Edges get more samples.
    passes: diffuse, specular and emission, whose sum is the picture; the depth
    of the nearest thing; how much of the pixel is brass.
    """
    height, width = picture.shape[:2]
    eye = (camera[0, 0], camera[0, 1], camera[0, 2])
    met = np.zeros((height, width), np.int32)
    gathered = np.zeros(10)
    for row in range(height):
        for x in range(width):
            d = ray(camera, x + 0.5, row + 0.5, width, height)
            kind, r, g, b, alpha, part, away = shade(eye, d, bound, spheres, rings, rods)
            met[row, x] = kind
            for n in range(9):
                passes[row, x, n] = 0.0
            passes[row, x, part], passes[row, x, part + 1], passes[row, x, part + 2] = r, g, b
            passes[row, x, 9] = min(away, HORIZON)
            passes[row, x, 10] = alpha if part == SPECULAR else 0.0
            picture[row, x, 0], picture[row, x, 1], picture[row, x, 2] = r, g, b
            picture[row, x, 3] = alpha
    for row in range(height):
        for x in range(width):
            own = met[row, x]
            if (
                own == met[row, max(0, x - 1)]
                and own == met[row, min(width - 1, x + 1)]
                and own == met[max(0, row - 1), x]
                and own == met[min(height - 1, row + 1), x]
            ):
                continue
            red, green, blue, cover, near = 0.0, 0.0, 0.0, 0.0, FAR
            for n in range(10):
                gathered[n] = 0.0
            for a in range(FINE):
                for c in range(FINE):
                    d = ray(camera, x + (a + 0.5) / FINE, row + (c + 0.5) / FINE, width, height)
                    _, r, g, b, alpha, part, away = shade(eye, d, bound, spheres, rings, rods)
                    # Bright light is held down here, so that edges of the sun stay smooth.
                    r, g, b = min(r, 2.0), min(g, 2.0), min(b, 2.0)
                    red, green, blue = red + r, green + g, blue + b
                    cover += alpha
                    gathered[part] += r
                    gathered[part + 1] += g
                    gathered[part + 2] += b
                    gathered[9] += alpha if part == SPECULAR else 0.0
                    near = min(near, away)
            share = 1.0 / (FINE * FINE)
            for n in range(9):
                passes[row, x, n] = gathered[n] * share
            passes[row, x, 9] = min(near, HORIZON)
            passes[row, x, 10] = gathered[9] * share
            picture[row, x, 0], picture[row, x, 1] = red * share, green * share
            picture[row, x, 2], picture[row, x, 3] = blue * share, cover * share
