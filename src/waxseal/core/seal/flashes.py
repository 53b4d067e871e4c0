"""Flashes that may harm: too many in a second, or for too long, over a quarter of the picture.

Source, from memory: ITU-R BT.1702-2 and the Ofcom guidance: a flash is a pair of opposing
changes in luminance of 20 cd/m² or more, where the darker picture is below 160 cd/m², on a
display with a peak of 200 cd/m². A red flash is a pair of opposing changes to or from a
saturated red, after ISO 9241-391: R / (R + G + B) is 0.8 or more, and (R − G − B) × 320
changes by more than 20. A sequence that flashes for more than five seconds may harm even where no
second of it has too many. From how many in a second on it is one that flashes, no source says:
two, so that a slow pulse is none.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache
from math import ceil

import numpy as np
from numpy.typing import NDArray

from waxseal.core.job.model import Space
from waxseal.core.seal.frame_sketches import FINE, Sketch

__all__ = ["PEAK", "FlashMeter", "Passage", "SketchCoding"]

PEAK = 200.0  # cd/m², of the display that the limits are for
LEAST_CHANGE, DARKER_BELOW = 20.0, 160.0  # cd/m²
RED_SHARE, RED_SCALE, LEAST_RED = 0.8, 320.0, 20.0
MOST_FLASHES = 3  # in a second; a flash is two changes
FLASHING, MOST_SECONDS = 2, 5  # in a second, at least, to be a sequence; how long that may be
MOST_AREA = 0.25  # of the picture
GRAIN = 1e-3  # of the area: what a block more or less makes

Map = NDArray[np.float32]  # (down, across)
Maps = NDArray[np.float32]  # (3, down, across)
Event = NDArray[np.bool_] | None  # where a value changed; None for nowhere


@dataclass(frozen=True, slots=True)
class Passage:
    """Frames, from 1, both ends included, that flash more than is allowed.

    flashes: in the second where there are most. area: of the picture that flashes then, 0..1.
    seconds: how long it is where its length is what may harm, else 0.
    """

    first: int
    last: int
    is_red: bool
    flashes: int
    area: float
    seconds: float = 0.0

    @property
    def words(self) -> str:
        colour = "red flashes" if self.is_red else "flashes"
        if self.seconds:
            return (
                f"Frames {self.first}-{self.last} have {colour} for {self.seconds:.1f} s over "
                f"{self.area:.0%} of the picture: more than {MOST_SECONDS} s may harm."
            )
        return (
            f"Frames {self.first}-{self.last} have {self.flashes} {colour} in a second over "
            f"{self.area:.0%} of the picture: more than {MOST_FLASHES} over a quarter may harm."
        )


@dataclass(frozen=True, slots=True)
class SketchCoding:
    """How the codes of a sketch are meant: R'G'B' or Y'CbCr; the matrix by ITU-T H.273."""

    space: Space
    is_rgb: bool
    matrix: int = 1
    is_full: bool = False


class FlashMeter:
    """Takes the sketches of a film in their order."""

    def __init__(self, rate: Fraction, coding: SketchCoding) -> None:
        self._coding = coding
        self._counters = tuple(Changes(rate, is_red=is_red) for is_red in (False, True))
        self._frame = 0

    def look(self, sketch: Sketch) -> None:
        self._frame += 1
        red, green, blue = linear(sketch, self._coding)
        luminance = PEAK * luminance_of(red, green, blue)
        whole = np.maximum(red + green + blue, 1e-6)
        redness = np.where(red / whole >= RED_SHARE, RED_SCALE * (red - green - blue), 0.0)
        general, reds = self._counters
        general.look(self._frame, luminance, LEAST_CHANGE, DARKER_BELOW)
        reds.look(self._frame, np.maximum(redness, 0.0), LEAST_RED, np.inf)

    @property
    def passages(self) -> tuple[Passage, ...]:
        return tuple(one for counter in self._counters for one in counter.passages)


class Changes:
    """Opposing changes of a value in each block, and where there are too many in a second."""

    def __init__(self, rate: Fraction, *, is_red: bool) -> None:
        self._rate = rate
        self._second = max(1, ceil(rate))  # frames
        self._is_red = is_red
        self._low: Map | None = None
        self._high: Map | None = None
        self._last: NDArray[np.int8] | None = None
        self._events: deque[Event] = deque()
        self._counts: NDArray[np.int64] = np.zeros((0, 0), np.int64)  # of all those, in each block
        self._whole: deque[int] = deque()  # the same of the picture as a whole
        self._whole_last = 0
        self._often: list[Passage] = []  # too often in a second
        self._sequences: list[Passage] = []  # that flash, long or not

    def look(self, frame: int, values: Map, least: float, below: float) -> None:
        if self._low is None or self._high is None or self._last is None:
            self._low, self._high = values.copy(), values.copy()
            self._last = np.zeros(values.shape, np.int8)
            self._counts = np.zeros(values.shape, np.int64)
            return
        np.minimum(self._low, values, out=self._low)
        np.maximum(self._high, values, out=self._high)
        rise, fall = values - self._low, self._high - values
        if max(float(rise.max()), float(fall.max())) < least:  # as in most frames
            self._note(frame, None, 0.0, 0.0)
            return
        up = (self._last != 1) & (rise >= least) & (self._low < below)
        down = (self._last != -1) & (fall >= least) & (values < below)
        event = up | down
        self._last[up], self._last[down] = 1, -1
        self._low[event], self._high[event] = values[event], values[event]
        self._note(frame, event, float(up.mean()), float(down.mean()))

    def _note(self, frame: int, event: Event, up: float, down: float) -> None:
        self._events.append(event)
        if event is not None:
            self._counts += event
        # A patch that wanders changes other blocks each time, and flashes all the same.
        sign = 1 if up > MOST_AREA + GRAIN else -1 if down > MOST_AREA + GRAIN else 0
        is_new = sign not in (0, self._whole_last)
        self._whole.append(int(is_new))
        self._whole_last = sign if is_new else self._whole_last
        if len(self._events) > self._second:
            gone = self._events.popleft()
            if gone is not None:
                self._counts -= gone
            self._whole.popleft()
        if all(one is None for one in self._events):
            return
        too_many = self._where(frame, 2 * MOST_FLASHES + 1, max(up, down))
        if too_many is not None:
            add(self._often, too_many)
        flashing = self._where(frame, 2 * FLASHING, max(up, down))
        if flashing is not None:
            add(self._sequences, flashing)

    def _where(self, frame: int, least: int, area_now: float) -> Passage | None:
        """What changes in the second that ends with a frame, if at least so often."""
        there = self._counts >= least
        area, changes = float(there.mean()), sum(self._whole)
        if area > MOST_AREA + GRAIN:
            changes = int(np.median(self._counts[there]))
        elif changes >= least:
            area = area_now
        else:
            return None
        changed = [at for at, one in enumerate(self._events) if one is not None]
        first, last = (frame - len(self._events) + 1 + changed[end] for end in (0, -1))
        first -= 1  # the picture that it changed from
        return Passage(first, last, self._is_red, ceil(changes / 2), area)

    @property
    def passages(self) -> Iterator[Passage]:
        yield from self._often
        for one in self._sequences:
            seconds = float((one.last - one.first + 1) / self._rate)
            if seconds > MOST_SECONDS:
                yield replace(one, seconds=seconds)


def add(passages: list[Passage], one: Passage) -> None:
    """To those before it, or as a part of the last, which it goes on."""
    before = passages[-1] if passages else None
    if before is None or one.first > before.last + 1:
        passages.append(one)
        return
    area, flashes = max(one.area, before.area), max(one.flashes, before.flashes)
    passages[-1] = replace(before, last=one.last, flashes=flashes, area=area)


# ---- from codes to light -----------------------------------------------------------------------


def linear(sketch: Sketch, coding: SketchCoding) -> Maps:
    """R, G and B of each block, 0..1 of the display's peak."""
    luma = codes_of(sketch[0])
    cb, cr = (as_fine(codes_of(plane), luma.shape) - 128 for plane in sketch[1:3])
    if coding.is_rgb:  # as `sketch_of_rgb` has them; luma holds four steps a code
        green = luma - (cb + cr) / 2
        codes = np.stack((green + 2 * cr, green, green + 2 * cb))
        return light(np.asarray(codes / 255, np.float32), coding.space)
    kr, kb = (0.299, 0.114) if coding.matrix in (5, 6) else (0.2126, 0.0722)
    begin, whole, chroma = (0, 255, 255) if coding.is_full else (16, 219, 224)
    y = (luma - begin) / whole
    r, b = y + 2 * (1 - kr) * cr / chroma, y + 2 * (1 - kb) * cb / chroma
    g = (y - kr * r - kb * b) / (1 - kr - kb)
    return light(np.stack((r, g, b)), coding.space)


def codes_of(plane: NDArray[np.uint16]) -> Map:
    codes: Map = plane.astype(np.float32) / np.float32(FINE)
    return codes


def light(codes: Maps, space: Space) -> Maps:
    """The display's light: BT.1886 with black at 0, or sRGB (IEC 61966-2-1)."""
    codes = np.clip(codes, 0.0, 1.0)
    if space is Space.BT709:
        return np.asarray(codes**2.4, np.float32)
    curve = np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)
    return np.asarray(curve, np.float32)


def luminance_of(red: Map, green: Map, blue: Map) -> Map:
    """ITU-R BT.709. (P3's weights differ by less than the limits are exact.)"""
    return np.asarray(0.2126 * red + 0.7152 * green + 0.0722 * blue, np.float32)


def as_fine(plane: Map, shape: tuple[int, ...]) -> Map:
    """Chroma on the blocks of luma, of which each of its own covers some."""
    return plane[fine_places(shape, plane.shape)]


@lru_cache(4)
def fine_places(shape: tuple[int, ...], coarse: tuple[int, ...]) -> tuple[NDArray[np.intp], ...]:
    """For each cell of a grid, the cell of a coarser grid that covers it."""
    return np.ix_(
        *(np.arange(one) * other // one for one, other in zip(shape, coarse, strict=True))
    )
