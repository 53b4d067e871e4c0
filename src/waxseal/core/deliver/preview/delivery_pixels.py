"""Pictures in a delivery's own codes: what the reel gives, and what a file shows."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from waxseal.core.arrive.listing import list_paths
from waxseal.core.deliver.preview.file_view import BESIDE_TIMES, Pair, Show
from waxseal.core.errors import FrameError, UnreadableInput
from waxseal.core.frames.decode_ahead import decode
from waxseal.core.frames.isolated import run_isolated
from waxseal.core.frames.movies import movie_facts, read_movie_frame
from waxseal.core.job.model import GRAPHICS_WHITES, Alpha, Space
from waxseal.core.picture.colour.colour_spaces import display_to_graphics
from waxseal.core.picture.light.light_store import LightStore
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Target
from waxseal.core.picture.transfer_tables import encode_srgb
from waxseal.core.plan.recipe import Recipe
from waxseal.core.text_format import plain as plain_words

__all__ = [
    "Codes",
    "ViewedPair",
    "codes_made",
    "frames_in",
    "hold",
    "in_size",
    "read_codes",
    "screen_of",
]

NEAR_RATE = Fraction(1, 500)  # of a rate: what a container's coarse times make of it
SHOULDER = 0.7  # of a screen's white: from there on high range is drawn in
WEAVE = (104.0, 112.0)  # codes of the two threads under what is clear

Codes = NDArray[np.float32]  # (height, width, 3 or 4): R', G', B', A; 0..255, whatever the depth


@dataclass(frozen=True, slots=True, eq=False)
class ViewedPair:
    """A pair whose values are looked at. read: None without a file."""

    pair: Pair
    made: Codes
    read: Codes | None

    def at(self, x: int, y: int) -> tuple[tuple[float, ...], tuple[float, ...]] | None:
        """The codes of a pixel, of the reel and of the file (empty); None outside the frame."""
        tall, wide = self.made.shape[:2]
        if not (0 <= x < wide and 0 <= y < tall):
            return None
        there = self.read[y, x] if self.read is not None else ()
        return tuple(map(float, self.made[y, x])), tuple(map(float, there))


def hold(pair: Pair) -> ViewedPair:
    """Both in all their pixels. Raises FrameError, JobError."""
    there = read_beside(pair) if pair.file is not None else None
    return ViewedPair(pair, codes_made(pair.recipe, pair.target), there)


def screen_of(pair: Pair, show: Show, width: int, height: int) -> NDArray[np.uint8]:
    """B, G, R, 255 for the screen; for BOTH the reel's picture above the file's.

    Raises FrameError, JobError.
    """
    panels: list[Codes] = []
    if show is not Show.FILE:
        panels.append(codes_made(pair.recipe, pair.target))
    if show is not Show.REEL:
        panels.append(read_beside(pair))
    alpha = pair.target.alpha
    if show is Show.DIFFERENCE:
        panels, alpha = [difference(*panels) * BESIDE_TIMES], Alpha.NONE
    elif pair.target.space.is_high_range:
        panels = [fit_range(one, pair.target.space) for one in panels]
    return np.concatenate([for_screen(one, width, height, alpha) for one in panels])


def read_beside(pair: Pair) -> Codes:
    """What the file shows, in the delivery's size. Raises FrameError."""
    if pair.file is None:
        raise FrameError("not there yet: nothing has been made")
    path, number = Path(pair.file.path), pair.frame
    if not path.is_dir():
        number = file_frame(number, pair.rate, run_isolated(movie_facts, path).rate)
    codes = read_codes(path, number, untagged=pair.untagged)
    return in_size(codes, pair.target.width, pair.target.height)


def codes_made(recipe: Recipe, target: Target, store: LightStore | None = None) -> Codes:
    return as_codes(np.dstack(make(recipe, target, store=store).planes))


def file_frame(frame: int, rate: Fraction, file_rate: Fraction) -> int:
    """The number of a file's frame, from 1, at the time of a delivery's."""
    if abs(file_rate - rate) <= NEAR_RATE * rate:
        return frame
    return int((frame - 1) * file_rate / rate) + 1


def read_codes(file: Path, number: int, *, untagged: int) -> Codes:
    """A frame of a movie, or of a folder of frames, from 1. Raises FrameError.

    untagged: the matrix of what names none: it is taken for what the delivery has.
    """
    if not file.is_dir():
        return as_codes(run_isolated(read_movie_frame, file, number, untagged=untagged))
    frames = frames_in(file)
    if not 1 <= number <= len(frames):
        raise FrameError(f"not there: the folder has {len(frames)} frames", path=file)
    return as_codes(decode(frames[number - 1]).values)


def frames_in(file: Path) -> list[Path]:
    """The files of a folder of frames; none for a movie."""
    return listed(file, file.stat().st_mtime_ns) if file.is_dir() else []


@lru_cache(maxsize=8)
def listed(folder: Path, _changed_ns: int) -> list[Path]:
    found = list_paths([folder]).sequences
    if not found:
        raise UnreadableInput(f"{plain_words(folder)} holds no frames.", path=folder)
    files = found[0][1].files_in(folder)
    return [files.path_of(number) for number in found[0][1].numbers]


def as_codes(values: NDArray[np.generic]) -> Codes:
    """In codes of 8 bits, whatever the depth."""
    steps = 257.0 if values.dtype == np.uint16 else 1.0
    codes: Codes = values.astype(np.float32) / np.float32(steps)
    return codes if codes.ndim == 3 else codes[..., None].repeat(3, axis=2)


def in_size(codes: Codes, width: int, height: int) -> Codes:
    """A file's picture in the delivery's size; a column or row that only pads it is left out."""
    tall, wide = codes.shape[:2]
    if 0 <= tall - height <= 1 and 0 <= wide - width <= 1:
        whole: Codes = codes[:height, :width]
        return whole
    return np.asarray(cv2.resize(codes, (width, height), interpolation=cv2.INTER_AREA), np.float32)


def difference(one: Codes, other: Codes) -> Codes:
    """How far apart, in codes; alpha, where both have it, as grey on top."""
    channels = min(one.shape[2], other.shape[2])
    away: Codes = np.abs(one[..., :channels] - other[..., :channels])
    return np.maximum(away[..., :3], away[..., 3:]) if channels == 4 else away


def fit_range(codes: Codes, space: Space) -> Codes:
    """Codes of a high range for an ordinary screen, whose white is that of graphics.

    What comes near to it or is brighter is drawn in below it, so that highlights still differ.
    """
    light = np.ascontiguousarray(codes[..., :3]) / np.float32(255)
    display_to_graphics(space, GRAPHICS_WHITES[0]).apply(light)
    room = 1 - SHOULDER
    beyond = np.maximum(light - SHOULDER, 0)
    drawn = np.minimum(light, SHOULDER) + room * (1 - np.exp(-beyond / room))
    shown = encode_srgb(np.clip(drawn, 0, 1)) * np.float32(255)
    return np.asarray(np.concatenate([shown, codes[..., 3:]], axis=2), np.float32)


def for_screen(codes: Codes, width: int, height: int, alpha: Alpha) -> NDArray[np.uint8]:
    """Codes as they are, at a size on the screen; a weave is under what is clear."""
    if codes.shape[:2] != (height, width):
        codes = np.asarray(cv2.resize(codes, (width, height), interpolation=cv2.INTER_AREA))
    if codes.shape[2] == 4 and alpha is not Alpha.NONE:
        there = codes[..., 3:] / np.float32(255)
        colour = codes[..., :3] * there if alpha is Alpha.STRAIGHT else codes[..., :3]
        codes = colour + weave(width, height) * (1 - there)
    screen = np.full((height, width, 4), 255, np.uint8)
    screen[..., :3] = np.rint(np.clip(codes[..., 2::-1], 0, 255))
    return screen


def weave(width: int, height: int) -> Codes:
    """The pattern that shows through where a picture is clear: (height, width, 1), in codes."""
    rows, columns = np.arange(height)[:, None] // 2, np.arange(width)[None, :] // 2
    threads = np.where((rows + columns) % 2 == 0, *WEAVE)
    return np.asarray(threads[..., None], np.float32)
