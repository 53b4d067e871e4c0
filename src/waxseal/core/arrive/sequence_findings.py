"""Judging measured frames with the whole sequence in view.

Noise, flicker, holds and animation on twos are distinguished from mistakes. The
thresholds stand beside their rules; they are grounds for a second look, never
for a re-render by themselves.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from collections.abc import Sequence as Row
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from waxseal.core.arrive.frame_measures import Border, FrameMeasure, Point
from waxseal.core.job.model import FindingKind
from waxseal.core.text_format import counted

__all__ = ["Look", "judge_looks"]

Look = tuple[FindingKind, int, str]

# A frame repeats its neighbour where things move: at most so many of all pairs may be alike,
# else it is a hold or drawn on twos.
MOST_ALIKE = 0.10
# Of 1.0, by which a frame's light has to leave its neighbours', at least, for a flash;
# and how many times what the sequence does usually.
FLASH_LEAST, FLASH_TIMES = 0.03, 8.0
# The same for the picture as a whole, against how far its neighbours are from each other.
JUMP_LEAST, JUMP_TIMES, JUMP_APART = 0.02, 4.0, 2.0
LONGEST_BLACK = 2  # frames: longer black between pictures is meant
# Lone bright pixels in more than this share of the frames are sparks, stars or noise.
OFTEN = 0.3
GLINT = 1 / 80  # of the width: several this near, in a frame or the next, are a moving glint
THIN = 16  # pixels: a wider black border on every frame is meant
USUAL_SHARE = 0.7


def judge_looks(measures: Row[FrameMeasure], width: int) -> list[Look]:
    """What deserves a second look, with its measure, over a whole sequence in order.

    width: of the pictures, in pixels.
    """
    looks: list[Look] = []
    for check in CHECKS:
        explained = {frame for kind, frame, _ in looks if kind in check.unless}
        looks += [look for look in check.find(measures, width) if look[1] not in explained]
    return looks


@dataclass(frozen=True, slots=True)
class Check:
    """find: looks at all measures, and the pictures' width. unless: kinds that explain a frame."""

    find: Callable[[Row[FrameMeasure], int], Iterable[Look]]
    unless: frozenset[FindingKind] = frozenset()


def not_numbers(measures: Row[FrameMeasure], _width: int) -> Iterator[Look]:
    for one in measures:
        if one.not_numbers:
            what = f"{one.not_numbers} of its values are NaN or infinite"
            yield FindingKind.NOT_NUMBERS, one.frame, what


def lone_black(measures: Row[FrameMeasure], _width: int) -> Iterator[Look]:
    """Black frames with pictures before and after, not more than a few in a row."""
    start = None
    for at, one in enumerate(measures):
        if one.is_black:
            start = at if start is None else start
            continue
        if start is not None and start > 0 and at - start <= LONGEST_BLACK:
            for black in measures[start:at]:
                yield FindingKind.BLACK, black.frame, "all black, where its neighbours are not"
        start = None


def repeats(measures: Row[FrameMeasure], _width: int) -> list[Look]:
    """Frames that hold exactly the values of the one before, while the pictures around move."""
    if len(measures) < 4:
        return []
    alike = [one.digest == other.digest for one, other in pairwise(measures)]
    if sum(alike) > max(1, int(MOST_ALIKE * len(alike))):
        return []  # drawn on twos, or held for long
    looks: list[Look] = []
    for at in range(1, len(alike) - 1):
        if alike[at] and not alike[at - 1] and not alike[at + 1]:
            frame = measures[at + 1].frame
            what = f"the same picture as {measures[at].frame}, where things move"
            looks.append((FindingKind.REPEATS, frame, what))
    return looks


def flashes(measures: Row[FrameMeasure], _width: int) -> list[Look]:
    """Single frames whose light leaves that of both neighbours, and comes back."""
    if len(measures) < 5:
        return []
    light = np.array([one.light for one in measures])
    away = light[1:-1] - (light[:-2] + light[2:]) / 2
    apart = np.abs(light[2:] - light[:-2])
    usual = float(np.median(np.abs(away)))
    looks: list[Look] = []
    for at, (by, between) in enumerate(zip(away, apart, strict=True), 1):
        if abs(by) > max(FLASH_LEAST, FLASH_TIMES * usual) and abs(by) > 2 * between:
            words = "brighter" if by > 0 else "darker"
            what = f"a flash: {abs(by):.3f} {words} than its neighbours, usually {usual:.3f}"
            looks.append((FindingKind.FLASH, measures[at].frame, what))
    return looks


def jumps(measures: Row[FrameMeasure], _width: int) -> list[Look]:
    """Single frames that show another picture than both neighbours, which are alike."""
    if len(measures) < 5:
        return []
    grids = np.stack([one.grid for one in measures])
    step = distances(grids[1:], grids[:-1])
    apart = distances(grids[2:], grids[:-2])
    usual = float(np.median(step))
    looks: list[Look] = []
    for at in range(1, len(measures) - 1):
        away, between = min(step[at - 1], step[at]), apart[at - 1]
        if away > max(JUMP_LEAST, JUMP_TIMES * usual) and away > JUMP_APART * between:
            what = (
                "a jump: another picture between two that are alike "
                f"({away:.3f}, usually {usual:.3f})"
            )
            looks.append((FindingKind.JUMP, measures[at].frame, what))
    return looks


def distances(ones: NDArray[np.float32], others: NDArray[np.float32]) -> NDArray[np.float32]:
    return np.asarray(np.abs(ones - others).mean(axis=(1, 2)))


def bright_pixels(measures: Row[FrameMeasure], width: int) -> list[Look]:
    """Lone bright pixels of one frame only; where most frames have some, once.

    A glint on something that moves is bright in several pixels or frames near each other.
    """
    reach = max(2, round(width * GLINT))

    def near(one: Point, other: Point) -> bool:
        return abs(one.x - other.x) <= reach and abs(one.y - other.y) <= reach

    lone: list[tuple[FrameMeasure, list[Point]]] = []
    for at, one in enumerate(measures):
        beside = [
            *(measures[at - 1].points if at else ()),
            *(measures[at + 1].points if at + 1 < len(measures) else ()),
        ]
        new = [
            point
            for point in one.points
            if not any(near(point, other) for other in beside)
            and not any(near(point, other) for other in one.points if other is not point)
        ]
        if new:
            lone.append((one, new))
    if len(lone) > max(3, OFTEN * len(measures)):
        worst, points = max(lone, key=lambda entry: (len(entry[1]), entry[1][0].times))
        what = (
            f"lone bright pixels here ({point_words(points)}) and in {len(lone) - 1} other frames: "
            "sparks, or noise of the renderer"
        )
        return [(FindingKind.BRIGHT_PIXELS, worst.frame, what)]
    return [
        (FindingKind.BRIGHT_PIXELS, one.frame, f"{point_words(points)}, in this frame only")
        for one, points in lone
    ]


def point_words(points: list[Point]) -> str:
    first = points[0]
    many = counted(len(points), "lone bright pixel")
    which = "at" if len(points) == 1 else "the strongest at"
    return f"{many}, {which} {first.x}, {first.y} ({first.times:g} times what is around it)"


def borders(every: Row[FrameMeasure], _width: int) -> list[Look]:
    """A black edge that the other frames have not, or a thin one on every frame."""
    measures = [one for one in every if not one.is_black]
    if not measures:
        return []
    usual, often = Counter(one.border for one in measures).most_common(1)[0]
    looks: list[Look] = []
    if any(usual) and max(usual) <= THIN and often >= USUAL_SHARE * len(measures):
        first = next(one for one in measures if one.border == usual)
        what = f"a black border on every frame: {border_words(usual)}"
        looks.append((FindingKind.BORDER, first.frame, what))
    if often < USUAL_SHARE * len(measures):
        return looks
    for one in measures:
        more = tuple(max(0, own - other) for own, other in zip(one.border, usual, strict=True))
        if any(more):
            what = f"a black border that the others do not have: {border_words(one.border)}"
            looks.append((FindingKind.BORDER, one.frame, what))
    return looks


def border_words(border: Border) -> str:
    sides = ("above", "right", "below", "left")
    return ", ".join(f"{wide} px {side}" for wide, side in zip(border, sides, strict=True) if wide)


CHECKS = (
    Check(not_numbers),
    Check(lone_black),
    Check(repeats),
    Check(flashes, frozenset({FindingKind.BLACK})),
    Check(jumps, frozenset({FindingKind.BLACK, FindingKind.FLASH})),
    Check(bright_pixels),
    Check(borders),
)
