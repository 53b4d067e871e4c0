"""What is kept of a frame that was decoded: small measures, enough to judge a sequence by."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import xxhash
from numpy.typing import NDArray

from waxseal.core.frames.frame_reader import Pixels

__all__ = ["ACROSS", "DOWN", "Border", "FrameMeasure", "Point", "measure_pixels"]

ACROSS, DOWN = 32, 18

# A pixel is lone and bright where it is this bright (1.0 is white) ...
BRIGHT_LIGHT = 2.0  # scene-linear
BRIGHT_CODE = 0.9  # encoded
# ... and this many times brighter than the next brightest around it, or by that much.
TIMES, CODES = 8.0, 0.35
BAND = 64  # lines
MOST_CANDIDATES = 20_000
MOST_POINTS = 32  # kept of a frame, the brightest ones

# An edge is black up to here, of 1.0; a border ends where this share of a line is lit at once.
BLACK, LIT = 0.012, 0.05
STRAIGHT = 0.6

Places = NDArray[np.intp]

INFINITE_HALF = 0x7C00


@dataclass(frozen=True, slots=True)
class Point:
    """A lone bright pixel: where, and how many times as bright as what is around it."""

    x: int
    y: int
    times: float


Border = tuple[int, int, int, int]  # pixels of black: top, right, bottom, left
NO_BORDER: Border = (0, 0, 0, 0)


@dataclass(frozen=True, slots=True, eq=False)
class FrameMeasure:
    """What is kept of a decoded frame.

    digest: of all its values. grid: (DOWN, ACROSS) light, 0..1, sampled sparsely.
    not_numbers: how many values are NaN or infinite. points: at most MOST_POINTS.
    border: of pictures without alpha. is_opaque: whether it has alpha, which is 1 everywhere.
    """

    frame: int
    digest: int
    grid: NDArray[np.float32]
    not_numbers: int
    points: tuple[Point, ...] = ()
    border: Border = NO_BORDER
    is_opaque: bool = False

    @property
    def light(self) -> float:
        return float(self.grid.mean())

    @property
    def is_black(self) -> bool:
        return not self.grid.any()


def measure_pixels(frame: int, pixels: Pixels) -> FrameMeasure:
    """Measure a decoded frame. Half and float light is taken as 0..1, what is brighter as 1."""
    values = np.ascontiguousarray(pixels.values)
    not_numbers = count_not_numbers(values)
    down, across = max(1, values.shape[0] // (DOWN * 4)), max(1, values.shape[1] // (ACROSS * 4))
    sparse = values[::down, ::across, :3]
    if sparse.dtype.kind == "u":
        light = sparse.astype(np.float32) / np.float32(np.iinfo(sparse.dtype).max)
    else:
        light = np.clip(np.nan_to_num(sparse.astype(np.float32), nan=0.0, posinf=1.0), 0.0, 1.0)
    return FrameMeasure(
        frame=frame,
        digest=xxhash.xxh3_64_intdigest(values.data),
        grid=shrunk(light.mean(axis=2)),
        not_numbers=not_numbers,
        points=lone_points(values),
        border=NO_BORDER if pixels.has_alpha else black_border(values),
        is_opaque=pixels.has_alpha and is_opaque(values),
    )


def is_opaque(values: NDArray[Any]) -> bool:
    """Whether alpha, the last channel, is 1 everywhere."""
    full = np.iinfo(values.dtype).max if values.dtype.kind == "u" else 1
    return bool(values[..., -1].min() >= full)


def count_not_numbers(values: NDArray[Any]) -> int:
    if values.dtype == np.float16:
        # On the bits: no number has an exponent of all ones. Two quick looks before the count.
        if values.view(np.int16).max() < INFINITE_HALF and values.view(np.uint16).max() < (
            0x8000 | INFINITE_HALF
        ):
            return 0
        return int(np.count_nonzero((values.view(np.uint16) & 0x7FFF) >= INFINITE_HALF))
    if values.dtype == np.float32:
        return int(values.size - np.count_nonzero(np.isfinite(values)))
    return 0


def shrunk(light: NDArray[np.float32]) -> NDArray[np.float32]:
    """The means of at most DOWN × ACROSS blocks."""
    rows, columns = min(DOWN, light.shape[0]), min(ACROSS, light.shape[1])
    tall, wide = light.shape[0] // rows, light.shape[1] // columns
    cut = light[: tall * rows, : wide * columns]
    return np.asarray(cut.reshape(rows, tall, columns, wide).mean(axis=(1, 3)), np.float32)


# ---- lone bright pixels --------------------------------------------------------------------


def lone_points(values: NDArray[Any]) -> tuple[Point, ...]:
    """Pixels far brighter than all eight around them, the strongest first.

    The picture's edge is left out. Cheap where nothing is bright: one pass.
    """
    if min(values.shape[:2]) < 3:
        return ()
    rows, columns = bright_pixels(values)
    if not len(rows):
        return ()
    most = np.iinfo(values.dtype).max if values.dtype.kind == "u" else 1

    def light_at(down: int, across: int) -> NDArray[np.float32]:
        there = values[rows + down, columns + across, :3].astype(np.float32).max(axis=1)
        finite: NDArray[np.float32] = np.nan_to_num(there, nan=0.0, posinf=0.0, neginf=0.0)
        return finite / np.float32(most)

    centre = light_at(0, 0)
    around = np.zeros_like(centre)
    for down in (-1, 0, 1):
        for across in (-1, 0, 1):
            if down or across:
                np.maximum(around, light_at(down, across), out=around)
    is_lone = centre > around * TIMES if most == 1 else centre > around + CODES
    times = centre / np.maximum(around, 1e-3)
    strongest = np.argsort(-times[is_lone], kind="stable")[:MOST_POINTS]
    picked = np.flatnonzero(is_lone)[strongest]
    return tuple(
        Point(int(columns[at]), int(rows[at]), round(float(times[at]), 1)) for at in picked
    )


def bright_pixels(values: NDArray[Any]) -> tuple[Places, Places]:
    """Rows and columns of what may be lone and bright: few, found in few passes.

    Bright in a channel, and there far brighter than both neighbours in the line.
    """
    height, width, channels = values.shape
    lines = values.reshape(height, width * channels)
    if values.dtype.kind == "u":
        rows, places = bright_codes(lines, channels)
    else:
        rows, places = bright_light(lines, channels)
        beside = np.maximum(
            lines[rows, places].astype(np.float32),
            lines[rows, places + 2 * channels].astype(np.float32),
        )
        lone = lines[rows, places + channels].astype(np.float32) > beside * TIMES
        rows, places = rows[lone], places[lone]
    places += channels
    inside = (rows > 0) & (rows < height - 1) & (places % channels < 3)
    pixels = np.unique(rows[inside] * width + places[inside] // channels)[:MOST_CANDIDATES]
    return pixels // width, pixels % width


def bright_codes(lines: NDArray[Any], channels: int) -> tuple[Places, Places]:
    """Where a code is far above both beside it in its line.

    Places are counted from the second pixel of a line. Looked for in bands
    that stay in the processor's cache.
    """
    most = np.iinfo(lines.dtype).max
    high, low = int(most * BRIGHT_CODE), int(most * (1 - CODES))
    length = lines.shape[1]
    found = []
    for top in range(0, len(lines), BAND):
        flat = lines[top : top + BAND].reshape(-1)
        bright = flat[channels:-channels] >= high
        bright &= flat[: -2 * channels] <= low
        bright &= flat[2 * channels :] <= low
        found.append(np.flatnonzero(bright) + top * length)
    at = np.concatenate(found)
    rows, places = at // length, at % length
    inside = places < length - 2 * channels  # the others reach over the end of a line
    return rows[inside], places[inside]


def bright_light(lines: NDArray[Any], channels: int) -> tuple[Places, Places]:
    """Where scene-linear light is bright, not at the ends of lines; the brightest where many are.

    Places are counted from the second pixel of a line.
    """
    if lines.dtype == np.float16:
        # The bits of a half are in the order of the numbers, where those are positive.
        ordered: NDArray[Any] = lines.view(np.int16)
        threshold: float = int(np.float16(BRIGHT_LIGHT).view(np.int16))
        octave: float = 1 << 10
    else:
        ordered, threshold, octave = lines, BRIGHT_LIGHT, 0
    if ordered.max() >= threshold:
        inner = ordered[:, channels:-channels]
        for _ in range(40):
            bright = inner >= threshold
            if np.count_nonzero(bright) <= MOST_CANDIDATES:
                rows, places = np.nonzero(bright)
                return rows, places
            threshold = threshold + octave if octave else threshold * 2
    none = np.zeros(0, np.intp)
    return none, none.copy()


# ---- borders -------------------------------------------------------------------------------


def black_border(values: NDArray[Any]) -> Border:
    """How many lines at each side are black, where what follows begins along a straight line."""
    across = values.transpose(1, 0, 2)
    return (
        black_lines(values),
        black_lines(across[::-1]),
        black_lines(values[::-1]),
        black_lines(across),
    )


def black_lines(lines: NDArray[Any]) -> int:
    """From the first line on; none where the edge is soft or not straight, or all is black."""
    most = np.iinfo(lines.dtype).max if lines.dtype.kind == "u" else 1.0
    for number, line in enumerate(lines):
        if (line > BLACK * most).any():
            return number if (line > LIT * most).any(axis=1).mean() >= STRAIGHT else 0
        if number > len(lines) // 3:
            return 0
    return 0
