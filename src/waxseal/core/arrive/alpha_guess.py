"""How alpha is meant, from the pixels: straight, premultiplied, or over a matte colour.

A format's custom is right most of the time; here is what speaks against it.
Rules of our own, no source: in premultiplied pictures no colour is brighter
than its alpha; over a matte, what is clear has the matte's colour, and what
is half clear is between that and the picture.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.errors import FrameError
from waxseal.core.frames.decode_ahead import decode
from waxseal.core.job.model import Alpha, Origin, Sequence, WithOrigin, change

__all__ = ["AlphaSeen", "alpha_seen", "with_alpha_seen"]

# Of 1.0: a code or two of 8-bit, which rounding may move a value by.
ROUNDING = 2.5 / 255
LEAST = 200  # half-clear pixels below which nothing can be concluded
FEW, MANY = 0.002, 0.02  # shares of them that speak against, and for
UNIFORM = 3 / 255  # how far clear pixels may be from one matte colour
TRIES = 3
DEPTHS = ("uint8", "uint16")  # display-encoded ones


@dataclass(frozen=True, slots=True)
class AlphaSeen:
    """why: the evidence, as the rest of a sentence. matte: `#rrggbb`."""

    alpha: Alpha
    matte: str
    why: str


def alpha_seen(values: NDArray[Any]) -> AlphaSeen | None:
    """What the pixels of one frame say; None where they say nothing clear.

    values: (height, width, 4) uint8 or uint16, display-encoded.
    """
    light = values.reshape(-1, 4).astype(np.float32) / np.float32(np.iinfo(values.dtype).max)
    colour, alpha = light[:, :3], light[:, 3]
    half = (alpha > 0.05) & (alpha < 0.95)
    count = int(np.count_nonzero(half))
    if count < LEAST:
        return None
    partial, cover = colour[half], alpha[half]
    brighter = float((partial.max(axis=1) > cover + ROUNDING).mean())
    matte = matte_colour(colour[alpha == 0])
    if matte is not None and matte.max() > ROUNDING:
        front = partial - (1 - cover[:, None]) * matte
        outside = (front < -ROUNDING) | (front > cover[:, None] + ROUNDING)
        if float(outside.any(axis=1).mean()) <= FEW:
            code = "#" + "".join(f"{round(float(one) * 255):02x}" for one in matte)
            why = f"{count} half-clear pixels lie between the picture and {code}"
            return AlphaSeen(Alpha.PREMULTIPLIED, code, why)
    if brighter >= MANY:
        why = f"in {brighter:.0%} of {count} half-clear pixels the colour is brighter than alpha"
        return AlphaSeen(Alpha.STRAIGHT, "#000000", why)
    if brighter <= FEW and follows(partial, cover):
        why = f"in none of {count} half-clear pixels is the colour brighter than alpha"
        return AlphaSeen(Alpha.PREMULTIPLIED, "#000000", why)
    return None


def follows(partial: NDArray[np.float32], cover: NDArray[np.float32]) -> bool:
    """Whether colour grows with alpha as premultiplied colour does; a dark picture tells nothing.

    The brightest colours at each step of alpha come near it or keep a share of
    it; straight ones are as bright where alpha is small.
    """
    brightest = partial.max(axis=1)
    thin, thick = cover < 0.35, cover > 0.65
    if np.count_nonzero(thin) < LEAST // 4 or np.count_nonzero(thick) < LEAST // 4:
        return False
    low, high = np.percentile(brightest[thin], 90), np.percentile(brightest[thick], 90)
    return bool(high > 0.15 and low < 0.6 * high)


def matte_colour(clear: NDArray[np.float32]) -> NDArray[np.float32] | None:
    """The one colour of what is clear; None where there are several, or too few pixels."""
    if len(clear) < LEAST:
        return None
    middle = np.median(clear, axis=0)
    return middle if float((np.abs(clear - middle) <= UNIFORM).all(axis=1).mean()) > 0.99 else None


def with_alpha_seen(sequence: Sequence) -> Sequence:
    """The source with another reading of alpha, where its pixels speak against the custom.

    Looks at a few frames at most. What the user said, and what a standard
    fixes (EXR), stays.
    """
    reading = sequence.reading
    is_seen = bool(reading.alpha.why) or reading.alpha.origin is Origin.SAID
    is_fixed = is_seen or sequence.found.format == "EXR"
    if is_fixed or reading.alpha.value is Alpha.NONE or sequence.found.depth not in DEPTHS:
        return sequence
    for frame in frames_to_try(sequence):
        try:
            path = sequence.files.path_of(frame)
            pixels = decode(path, frame=frame, part=reading.part.value)
        except FrameError:
            continue
        seen = alpha_seen(pixels.values) if pixels.has_alpha else None
        if seen is None:
            continue
        if (seen.alpha, seen.matte) == (reading.alpha.value, reading.matte.value):
            told = change(reading.alpha, why=f"frame {frame}: {seen.why}")
            return change(sequence, reading=change(reading, alpha=told))
        why = f"frame {frame}: {seen.why}"
        alpha = WithOrigin[Alpha](value=seen.alpha, origin=Origin.GUESS, why=why)
        matte = WithOrigin[str](value=seen.matte, origin=Origin.GUESS, why=why)
        return change(sequence, reading=change(reading, alpha=alpha, matte=matte))
    return sequence


def frames_to_try(sequence: Sequence) -> list[int]:
    """The middle one first: fades begin and end with nothing."""
    damaged = sequence.unreadable
    there = [
        frame
        for first, last in sequence.files.runs
        for frame in (first, (first + last) // 2, last)
        if frame not in damaged
    ]
    middle = (sequence.files.range.first + sequence.files.range.last) / 2
    return sorted(set(there), key=lambda frame: abs(frame - middle))[:TRIES]
