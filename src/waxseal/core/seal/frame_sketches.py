"""Sketches of frames: the means of a grid of blocks; and what they say of a film that was encoded.

A coarse encode is far from its pictures in every block, and yet it is not brighter, not
less coloured, not beside its place. So noise, which a quality costs, is told apart from
bias, contrast, colour, place and order, which none does: those are looked for over some
seconds at once, where the noise of single frames cancels out, and only as finely as the
noise that is left allows. What hides below it is held by `packet_digests`.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum
from functools import partial

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.arrays import Plane

__all__ = [
    "LEAST_STEP",
    "Coarseness",
    "Sketch",
    "Verdict",
    "block_means",
    "compare_films",
    "distance",
    "sketch",
    "sketch_of_rgb",
    "steps_in_code",
]

FULL_LINES = 65_535 // 255  # of codes of 8 bits, whose sum 16 bits hold
ACROSS, DOWN = 64, 36  # blocks of luma; a quarter as many of chroma each way
FINE = 256  # steps of a code, 0..255, in which means are kept
WINDOW = 48  # frames that are judged together


class Coarseness(IntEnum):
    """How coarse a quality is, beside all that a codec has."""

    FINE = 0
    MIDDLE = 1
    COARSE = 2  # single frames may stay as the ones before them
    COARSEST = 3  # means drift, and what flickers stays


Sketch = tuple[NDArray[np.uint16], ...]  # of luma, both chroma planes, and alpha; (down, across)
Sums = NDArray[np.uint64]
Grid = NDArray[np.float32]  # (frames, down, across), in codes of 8 bits

# All in codes of 8 bits. Measured on soft, textured, dark, grey, still, fast and noisy films
# at figures 1 to 51: an honest encode is at most half-way to each.
MOST_BIAS, COARSEST_BIAS = 4.5, 40.0
BIAS_BY_DETAIL = 0.12  # of the rms of fine detail, whose mean a coarse quality does not keep
MOST_CHROMA_BIAS, COARSE_CHROMA_BIAS = 3.0, 6.0
MOST_CONTRAST, LEAST_CONTRAST = 1.06, 0.93  # the latter where the noise is small
LEAST_COLOUR = 0.3  # of what there was
LARGE = 4  # blocks of a sketch, across and down, that contrast is looked for in
LARGE_CHROMA = 3  # of a sketch's blocks of chroma
COLOURED_LARGE = 3.0  # rms of large parts: colour that no codec leaves out
MOSTLY = 0.6  # of the rms of all colour: of noise, large parts have a third
CONTRASTED_LARGE = 0.5  # rms of large parts: their noise is as much smaller
CONTRASTED, COLOURED = 3.0, 2.0  # rms: less than that and there is nothing to judge by
QUIET, STILL = 2.0, 0.5  # rms of noise
MOST_SHIFT = 1.0  # pixels
EXPLAINED = 0.45  # the part of the difference that a fault has to explain
LATE, LATEST = 0.6, 1.6  # frames
NEIGHBOUR = 0.5  # of the distance to its own picture, squared: nearer to its neighbour
LEAST_STEP = 0.1  # less is what rounding does
GRAIN = 1.5  # times what grain alone does to the mean of a block, which then says no order
APART = 0.7  # of that distance: how far its neighbour has to be from its own picture
MOST_ALPHA = 12.0  # of the mean of a block: edges of few pixels cost less
ENOUGH, MOST_NOISE = 4.0, 3.0  # pixels of a block's side; times
FAR, FARTHEST, ODD = 6.0, 20.0, 4.0  # rms: to be odd among its like, and whatever its like
MOST_OTHER = 1.15  # (two pictures that have nothing in common are 1.4 times as far apart)
OTHER = 0.45  # of the contrast of a picture: another one is farther away


@dataclass(frozen=True, slots=True)
class Verdict:
    """farthest: the largest distance of a frame, in codes, and its place from 0.

    unlike, doubts: places from 0 of frames that do not look like their pictures, and of
    those that look like their neighbour's. found: what is wrong with all of them, by the test
    that found it; faults: the same in sentences alone.
    """

    farthest: float
    farthest_at: int
    unlike: tuple[int, ...]
    doubts: tuple[int, ...]
    found: Mapping[Fault, tuple[str, ...]]

    @property
    def faults(self) -> tuple[str, ...]:
        return tuple(words for found in self.found.values() for words in found)


def sketch_of_rgb(planes: Sequence[Plane]) -> Sketch:
    """The same of planes of R, G and B, by sums that are near luma and chroma.

    planes: uint8, or uint16 whose codes fill all bits. Whole blocks are summed up, not pixels.
    """
    steps = 1 if planes[0].dtype == np.uint8 else 257
    (red, green, blue), each = sums_of(planes, ACROSS, DOWN)
    luma = fine_means(red + green + green + blue, 4 * steps * each)
    (red, green, blue), each = sums_of(planes, ACROSS // 4, DOWN // 4)
    middle = 256 * steps * each
    cb, cr = (fine_means(one + middle - green, 2 * steps * each) for one in (blue, red))
    return luma, cb, cr


def sums_of(planes: Sequence[Plane], across: int, down: int) -> tuple[list[Sums], int]:
    """The block sums of R, G and B, and how many pixels a block has."""
    both = [block_sums(plane, across, down) for plane in planes[:3]]
    return [sums for sums, _ in both], both[0][1]


def sketch(planes: Sequence[Plane]) -> Sketch:
    """The block means of three or four planes, in steps of 1/256 code."""
    luma = block_means(planes[0], ACROSS, DOWN)
    return (luma, *(block_means(plane, ACROSS // 4, DOWN // 4) for plane in planes[1:]))


def block_means(plane: Plane, across: int, down: int) -> NDArray[np.uint16]:
    """(down, across) means; a picture smaller than the grid has a block a pixel."""
    sums, each = block_sums(plane, across, down)
    return fine_means(sums, each * steps_in_code(plane))


def block_sums(plane: Plane, across: int, down: int) -> tuple[Sums, int]:
    """(down, across) sums, and the pixels of a block."""
    height, width = plane.shape
    across, down = min(across, width), min(down, height)
    wide, tall = width // across, height // down
    # What is left over at the right and below, less than a block, is not looked at.
    cut = plane[: tall * down, : wide * across]
    # Summed in the smallest type that holds it: twice as fast.
    small = np.uint16 if plane.dtype == np.uint8 and tall <= FULL_LINES else np.uint32
    lines = np.add.reduce(cut.reshape(down, tall, wide * across), axis=1, dtype=small)
    return np.add.reduce(lines.reshape(down, across, wide), axis=2, dtype=np.uint64), wide * tall


def fine_means(sums: Sums, each: int) -> NDArray[np.uint16]:
    """Sums of so many steps to means, in steps of 1/256 code of 8 bits."""
    means = np.minimum((sums * FINE + each // 2) // each, 65_535)
    return np.asarray(means, np.uint16)


def steps_in_code(plane: Plane) -> int:
    """How many steps of a plane make one of 8 bits."""
    return 1 if plane.dtype == np.uint8 else 4


def grids(sketches: Sequence[Sketch], plane: int) -> Grid:
    return np.stack([one[plane] for one in sketches]).astype(np.float32) / np.float32(FINE)


def distance(one: Sketch, other: Sketch) -> float:
    """Root of the mean square difference of luma, in codes."""
    away = (one[0].astype(np.float32) - other[0].astype(np.float32)) / np.float32(FINE)
    return rms(away)


def rms(values: NDArray[np.float32]) -> float:
    return float(np.sqrt(np.mean(np.square(values, dtype=np.float64))))


# ---- over some seconds -----------------------------------------------------------------------


@dataclass(frozen=True, slots=True, eq=False)
class SketchStretch:
    """Neighbouring frames: what was made and what was decoded; of luma, both chroma, and alpha.

    block: the pixels of one of luma, across and down. coarse, detail: see `compare_films`.
    """

    made: Grid
    seen: Grid
    made_chroma: tuple[Grid, ...]
    seen_chroma: tuple[Grid, ...]
    made_alpha: tuple[Grid, ...]  # one, or none
    seen_alpha: tuple[Grid, ...]
    block: tuple[float, float]
    coarse: Coarseness = Coarseness.FINE
    detail: float = 0.0

    @property
    def is_coarse(self) -> bool:
        return self.coarse >= Coarseness.COARSE

    @property
    def away(self) -> Grid:
        return self.seen - self.made


def contrast(made: NDArray[np.float32], seen: NDArray[np.float32]) -> float:
    """How much of the made's differences from its mean there is in the seen."""
    spread = made - made.mean()
    return float((spread * (seen - seen.mean())).sum() / max(float((spread * spread).sum()), 1e-9))


def brighter(one: SketchStretch) -> Iterator[str]:
    bias = float(one.away.mean())
    if abs(bias) > most_bias(one):
        words = "brighter" if bias > 0 else "darker"
        yield f"The pictures are {words} than the reel's, by {abs(bias):.1f} codes."


def most_bias(one: SketchStretch) -> float:
    if one.coarse is Coarseness.COARSEST:
        return COARSEST_BIAS
    return MOST_BIAS + (BIAS_BY_DETAIL * one.detail if one.coarse > Coarseness.FINE else 0.0)


def tinted(one: SketchStretch) -> Iterator[str]:
    for name, made, seen in zip(("blue", "red"), one.made_chroma, one.seen_chroma, strict=False):
        bias = float((seen - made).mean())
        most = COARSE_CHROMA_BIAS if one.is_coarse else MOST_CHROMA_BIAS
        if abs(bias) > most and colour_kept(one) > LEAST_COLOUR:
            words = "more" if bias > 0 else "less"
            yield f"The pictures are {words} {name} than the reel's, by {abs(bias):.1f} codes."


def colour_of(grids: tuple[Grid, ...]) -> NDArray[np.float32]:
    return np.stack(grids) - np.float32(128)


def colour_kept(one: SketchStretch) -> float:
    """How much of the colour there was is there; 1 where there was none to speak of.

    Of fine colour alone, as of noise or stripes, a codec leaves out all; in the large, where there
    is colour to be seen, it does not.
    """
    if not one.made_chroma:
        return 1.0
    made, seen = colour_of(one.made_chroma), colour_of(one.seen_chroma)
    if rms(made) < COLOURED:
        return 1.0
    kept = share_kept(made, seen)
    if kept >= LEAST_COLOUR:
        return kept
    large, large_seen = (
        np.stack([in_the_large(plane, LARGE_CHROMA) for plane in planes]) for planes in (made, seen)
    )
    is_large = rms(large) > max(COLOURED_LARGE, MOSTLY * rms(made))
    return share_kept(large, large_seen) if is_large else 1.0


def share_kept(made: NDArray[np.float32], seen: NDArray[np.float32]) -> float:
    return float((made * seen).sum() / (made * made).sum())


def swapped_colour(one: SketchStretch) -> Iterator[str]:
    if len(one.made_chroma) != 2:
        return
    made, seen = colour_of(one.made_chroma), colour_of(one.seen_chroma)
    own, other = rms(seen - made), rms(seen[::-1] - made)
    if own > COLOURED and other < own * NEIGHBOUR:
        yield "Blue and red are exchanged."
    elif colour_kept(one) < LEAST_COLOUR:
        yield "The colour of the reel's pictures is missing."


def stretched(one: SketchStretch) -> Iterator[str]:
    """Full range for limited, or the other way round.

    Of fine grain alone a codec leaves out a part, and is honest all the same; in the large, where
    something is to be seen there, it then keeps all of it, and another range does not.
    """
    if rms(one.made - one.made.mean()) < CONTRASTED:
        return
    there = contrast(one.made, one.seen)
    noise = rms(one.away - one.away.mean())
    is_fine = noise < QUIET and not one.is_coarse
    is_less = is_fine and there < LEAST_CONTRAST and not is_kept_in_the_large(one)
    if there > MOST_CONTRAST or is_less:
        yield f"The pictures have {there:.0%} of the reel's contrast: is the range another?"


def is_kept_in_the_large(one: SketchStretch) -> bool:
    """Whether there is contrast between large parts, and the seen has it."""
    made, seen = in_the_large(one.made), in_the_large(one.seen)
    return rms(made - made.mean()) >= CONTRASTED_LARGE and contrast(made, seen) >= LEAST_CONTRAST


def in_the_large(grid: Grid, side: int = LARGE) -> Grid:
    """The means of side by side blocks of each frame; the grid itself where there are few."""
    count, rows, columns = grid.shape
    if min(rows, columns) < 2 * side:
        return grid
    tall, wide = rows // side, columns // side
    whole = grid[:, : tall * side, : wide * side]
    means: Grid = whole.reshape(count, tall, side, wide, side).mean(axis=(2, 4))
    return means


def turned(one: SketchStretch) -> Iterator[str]:
    own = rms(one.away)
    for words, made in (
        ("mirrored", one.made[:, :, ::-1]),
        ("upside down", one.made[:, ::-1]),
        ("turned by 180 degrees", one.made[:, ::-1, ::-1]),
    ):
        if own > QUIET and rms(one.seen - made) < own * NEIGHBOUR:
            yield f"The pictures are {words}."
            return


def moved(one: SketchStretch) -> Iterator[str]:
    """Beside their place.

    A small shift is the slope of the picture times the way: fitted by least squares.
    """
    if min(one.made.shape[1:]) < 4:
        return
    down, across = (np.gradient(one.made, axis=axis) for axis in (1, 2))
    inner = (slice(None), slice(1, -1), slice(1, -1))
    away = (one.away - one.away.mean())[inner].ravel().astype(np.float64)
    slopes = np.stack([across[inner].ravel() / one.block[0], down[inner].ravel() / one.block[1]])
    square = slopes.astype(np.float64) @ slopes.T
    if np.linalg.det(square) <= 1e-6:
        return
    way = -np.linalg.solve(square, slopes @ away)
    left = away + way @ slopes
    is_explained = float(left @ left) < (1 - EXPLAINED) * float(away @ away)
    is_quiet = float(np.sqrt(np.mean(left * left))) < STILL
    if is_explained and is_quiet and float(np.hypot(*way)) > MOST_SHIFT:
        yield f"The pictures are shifted by {way[0]:.1f} and {way[1]:.1f} pixels."


def late(one: SketchStretch) -> Iterator[str]:
    """All of them a frame early or late: the difference is the way of the film in time."""
    if len(one.made) < 5:
        return
    step = (one.made[2:] - one.made[:-2]).astype(np.float64) / 2
    away = (one.away - one.away.mean())[1:-1].astype(np.float64)
    square = float((step * step).sum())
    if square < 1e-6:
        return
    lag = float((away * step).sum()) / square
    left = away - lag * step
    is_explained = float((left * left).sum()) < (1 - EXPLAINED) * float((away * away).sum())
    if is_explained and LATE < abs(lag) < LATEST:
        words = "late" if lag < 0 else "early"
        yield f"The pictures come {words}, by about a frame."


def otherwise_clear(one: SketchStretch) -> Iterator[str]:
    for made, seen in zip(one.made_alpha, one.seen_alpha, strict=True):
        away = float(np.abs(seen - made).max())
        if away > MOST_ALPHA:
            yield f"The alpha is not that of the reel's pictures: {away:.0f} codes from it."


Fault = Callable[[SketchStretch], Iterator[str]]
FAULTS: tuple[Fault, ...] = (
    *(brighter, tinted, swapped_colour, stretched, turned, moved, late),
    otherwise_clear,
)


# ---- the film --------------------------------------------------------------------------------


def compare_films(
    made: Sequence[Sketch],
    decoded: Mapping[int, Sketch],
    size: tuple[int, int],
    *,
    coarse: Coarseness = Coarseness.FINE,
    least_step: float = LEAST_STEP,
    detail: float = 0.0,
) -> Verdict:
    """What a decoded film says beside its pictures; size: of its frames, in pixels.

    coarse: the quality: how far an honest encode may be from its pictures follows from it.
    detail: how much fine detail there is within blocks, rms in codes.
    least_step: how far apart, in codes, neighbours are whose order can be judged.
    """
    places = [at for at in range(len(made)) if at in decoded]
    if coarse > Coarseness.FINE:
        least_step = max(least_step, GRAIN * detail / math.sqrt(pixels_of_block(size)))
    away = np.array([distance(decoded[at], made[at]) for at in places])
    faults: dict[Fault, tuple[str, ...]] = {}
    unlike: list[int] = []
    for start in range(0, len(places), WINDOW):
        # The last stretch is as long as the others, where the film is.
        part = places[max(0, min(start, len(places) - WINDOW)) :][:WINDOW]
        stretch = stretch_of(
            [made[at] for at in part],
            [decoded[at] for at in part],
            size,
            coarse=coarse,
            detail=detail,
        )
        for fault in FAULTS:
            faults[fault] = faults.get(fault) or tuple(fault(stretch))  # the first that is seen
        usual = float(np.median(away[start : start + WINDOW]))
        odd = partial(is_odd, usual=usual, noise=noise_of(size), coarse=coarse)
        unlike += [
            at
            for at, far in zip(places[start : start + WINDOW], away[start:], strict=False)
            if odd(far, made[at])
        ]
    farthest = int(away.argmax()) if len(away) else 0
    return Verdict(
        float(away[farthest]) if len(away) else 0.0,
        places[farthest] if places else 0,
        tuple(unlike),
        tuple(
            at
            for at in places
            if coarse < Coarseness.COARSE and is_neighbour(made, decoded[at], at, least_step)
        ),
        {fault: words for fault, words in faults.items() if words},
    )


def noise_of(size: tuple[int, int]) -> float:
    """How much more noise the blocks of small frames keep: they are means of fewer pixels."""
    return max(1.0, min(MOST_NOISE, ENOUGH / math.sqrt(pixels_of_block(size))))


def pixels_of_block(size: tuple[int, int]) -> int:
    return size[0] // min(ACROSS, size[0]) * (size[1] // min(DOWN, size[1]))


def is_odd(far: float, made: Sketch, *, usual: float, noise: float, coarse: Coarseness) -> bool:
    """Whether a frame is farther from its picture than any encode, or than its like.

    usual: how far its like are. noise: see `noise_of`. A picture with much in it costs more than
    plain ones around it, but never so much as another picture would be away.
    """
    if coarse >= Coarseness.COARSE:
        return far > (4 if coarse is Coarseness.COARSEST else 2) * FARTHEST * noise
    luma = made[0].astype(np.float32) / np.float32(FINE)
    other = min(OTHER * noise, MOST_OTHER) * rms(luma - luma.mean())
    if far > max(FARTHEST * noise, other if noise > 1 else 0.0):
        return True
    return far > max(FAR * noise, ODD * usual, other)


def stretch_of(
    made: Sequence[Sketch],
    seen: Sequence[Sketch],
    size: tuple[int, int],
    *,
    coarse: Coarseness,
    detail: float,
) -> SketchStretch:
    planes = range(len(made[0]))
    chroma, alpha = planes[1:3], planes[3:]
    down, across = made[0][0].shape
    return SketchStretch(
        grids(made, 0),
        grids(seen, 0),
        tuple(grids(made, plane) for plane in chroma),
        tuple(grids(seen, plane) for plane in chroma),
        tuple(grids(made, plane) for plane in alpha),
        tuple(grids(seen, plane) for plane in alpha),
        (size[0] / across, size[1] / down),
        coarse,
        detail,
    )


def is_neighbour(made: Sequence[Sketch], seen: Sketch, at: int, least_step: float) -> bool:
    """Whether a frame is much nearer to the picture before or after than to its own.

    Only where the two pictures are as far apart as it is from its own: else it is noise.
    """
    own = distance(seen, made[at])
    if own < least_step:
        return False
    return any(
        distance(seen, made[near]) ** 2 < NEIGHBOUR * own**2
        and distance(made[at], made[near]) > APART * own
        for near in (at - 1, at + 1)
        if 0 <= near < len(made)
    )
