"""What noise does not change in a film: its tones, its colour, and how sharp it is.

Worked out over a stretch of frames beside the pictures that they were made from. How far a codec
takes a film from them is not assumed: it is measured on the same frames, and what is farther than
that is a fault.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from waxseal.core.seal.frame_sketches import FINE, Sketch

__all__ = [
    "NO_LOSS",
    "Character",
    "Detail",
    "character_faults",
    "character_of",
    "detail_of",
    "made_detail",
]

Codes = NDArray[np.float32]  # (height, width, 3 or 4): R', G', B', A; 0..255

BINS = 16  # of luma, as many codes of 8 bits wide
LEAST_SHARE = 0.004  # of all blocks: less is not enough to judge a tone by
TONE, CHROMA = 1.2, 1.2  # codes of 8 bits, beyond what the codec does
MOVED = 0.6  # of that detail: so much is there, but elsewhere
SHARP = 0.8  # of what the codec leaves of fine detail
LEAST_DETAIL = 0.05  # codes, rms: less is no detail
WEIGHTS = np.array([0.25, 0.5, 0.25], np.float32)  # near luma, whatever the primaries

Detail = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class Character:
    """tones: the mean distance of what is seen from what was made, in codes, by the tone's bin.

    chroma: of blue and red. sharpness: how much of the made detail is there; None where there is
    hardly any. energy: how much detail there is at all, beside what was made.
    """

    tones: Mapping[int, float]
    chroma: tuple[float, ...]
    sharpness: float | None
    energy: float = 1.0


NO_LOSS = Character({}, (), None)


def detail_of(made: Codes, seen: Codes) -> Detail:
    """What `character_of` needs of a frame's detail: how much of the made there is in the seen, how
    much was made, and how much there is. Noise that a codec or anybody adds is no made detail.
    """
    one, other = fine(made), fine(seen)
    return float((one * other).mean()), float((one * one).mean()), float((other * other).mean())


def made_detail(detail: Detail) -> float:
    """How much fine detail was made: rms, in codes of 8 bits."""
    return math.sqrt(detail[1])


def fine(codes: Codes) -> Codes:
    luma = np.ascontiguousarray(codes[..., :3] @ WEIGHTS)
    return np.asarray(luma - cv2.blur(luma, (3, 3)), np.float32)


def character_of(
    made: Sequence[Sketch], seen: Sequence[Sketch], details: Sequence[Detail]
) -> Character:
    """Of some frames. made, seen: their sketches, in one order. details: of `detail_of`."""
    before = np.concatenate([one[0].ravel() for one in made]).astype(np.float32) / FINE
    away = np.concatenate([one[0].ravel() for one in seen]).astype(np.float32) / FINE - before
    bins = np.minimum(before * (BINS / 256), BINS - 1).astype(np.intp)
    counts = np.bincount(bins, minlength=BINS)
    sums = np.bincount(bins, weights=away, minlength=BINS)
    least = LEAST_SHARE * len(before)
    tones = {at: float(sums[at] / counts[at]) for at in range(BINS) if counts[at] > least}
    chroma = tuple(
        (mean_of(seen, plane) - mean_of(made, plane)) / FINE
        for plane in range(1, min(3, len(made[0])))
    )
    both, own, there = (float(sum(one)) for one in zip(*details, strict=True))
    if own <= len(details) * LEAST_DETAIL**2:
        return Character(tones, chroma, None)
    return Character(tones, chroma, both / own, there / own)


def mean_of(sketches: Sequence[Sketch], plane: int) -> float:
    return float(np.mean([one[plane].mean() for one in sketches]))


def character_faults(found: Character, allowed: Character = NO_LOSS) -> Iterator[str]:
    """What is farther from the pictures than what is allowed, in sentences."""
    off = {at: away - allowed.tones.get(at, 0.0) for at, away in found.tones.items()}
    far = {at: away for at, away in off.items() if abs(away) > TONE}
    if far:
        yield tone_words(off, far)
    for name, at in (("blue", 0), ("red", 1)):
        if at >= len(found.chroma):
            continue
        usual = allowed.chroma[at] if at < len(allowed.chroma) else 0.0
        away = found.chroma[at] - usual
        if abs(away) > CHROMA:
            words = "more" if away > 0 else "less"
            yield f"The pictures are {words} {name} than the reel's, by {abs(away):.1f} codes."
    if found.sharpness is not None:
        usual = 1.0 if allowed.sharpness is None else allowed.sharpness
        # (Of what is hardly there, less than nothing may be left: then that is usual.)
        if found.sharpness < usual - (1 - SHARP) * abs(usual):
            share = max(0.0, found.sharpness / usual) if usual > 0 else 0.0
            if found.energy > MOVED * usual:
                yield "The fine detail is not where it is in the reel's pictures: are they shifted?"
                return
            yield (
                f"The pictures are softer than the reel's: {share:.0%} of the fine detail is there "
                "that this codec keeps."
            )


def tone_words(off: Mapping[int, float], far: Mapping[int, float]) -> str:
    """One sentence for a shift of all tones, another for a curve."""
    values = list(off.values())
    spread = max(values) - min(values)
    if len(far) == len(off) and spread < TONE:
        away = float(np.mean(values))
        words = "brighter" if away > 0 else "darker"
        return f"The pictures are {words} than the reel's, by {abs(away):.1f} codes."
    at = max(far, key=lambda one: abs(far[one]))
    code = round((at + 0.5) * 256 / BINS)
    return (
        f"The tones are not the reel's: around code {code} they are {far[at]:+.1f} codes off. "
        "Is the gamma or the range another?"
    )
