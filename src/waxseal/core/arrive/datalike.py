"""Whether what is taken for the picture of an EXR is data, by its pixels.

Names say it mostly; a layer that nobody named after what it holds is looked at. Rules of our
own, no source: directions have the length one, and light is not below nothing.
"""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.arrive.arrival import file_identity
from waxseal.core.errors import FrameError
from waxseal.core.frames.decode_ahead import decode
from waxseal.core.job.layers import Chosen, chosen_picture, is_picture
from waxseal.core.job.model import (
    Alpha,
    Finding,
    FindingKind,
    Origin,
    Part,
    Sequence,
    WithOrigin,
    change,
)

__all__ = ["data_seen", "with_part_seen"]

LEAST = 200  # pixels that are not black, below which nothing can be concluded
ABOUT = 256  # pixels a side that are looked at
DIRECTIONS, LENGTH = 0.97, 0.02  # the share of them with a length of one, and how nearly
VARIED = 0.05  # deviation of what is not all one colour
NEGATIVE, BELOW = 0.2, 0.1  # the share that is below nothing, by so much of the brightest
MOST_LAYERS = 8  # that are decoded to find the one that is a picture


def data_seen(values: NDArray[Any]) -> str:
    """Why the values of a layer, (height, width, 3 or 4), can be no colours; empty where they can.

    The rest of a sentence that begins with the layer.
    """
    height, width = values.shape[:2]
    few = values[:: max(1, height // ABOUT), :: max(1, width // ABOUT), :3].astype(np.float64)
    few = few.reshape(-1, 3)
    few = few[np.isfinite(few).all(axis=1) & few.any(axis=1)]
    if len(few) < LEAST or not few.std(axis=0).max() > VARIED:
        return ""
    for directions in (few, few * 2 - 1):  # as they are, or brought into 0 to 1
        length = np.linalg.norm(directions, axis=1)
        if float((np.abs(length - 1) < LENGTH).mean()) >= DIRECTIONS:
            return "holds directions, as normals are, and no colours"
    brightest = float(np.percentile(np.abs(few), 99))
    share = float((few.min(axis=1) < -BELOW * brightest).mean())
    if share >= NEGATIVE:
        return f"is below nothing in {share:.0%} of its pixels, as light never is"
    return ""


@lru_cache(maxsize=10_000)
def data_in(path: Path, frame: int, part: str, _identity: str) -> str:
    """The same of a layer of a file; empty where it cannot be read."""
    try:
        return data_seen(decode(path, frame=frame, part=part).values)
    except FrameError:
        return ""


def with_part_seen(sequence: Sequence) -> Sequence:
    """The source with another of its layers, where the pixels of the one taken are no picture.

    What the user said stays. Where there is nothing else in the files it is a finding.
    """
    told = sequence.reading.part
    is_named = sequence.belongs is not None and sequence.belongs.kind.is_data
    if sequence.found.format != "EXR" or told.origin is Origin.SAID or is_named:
        return sequence
    path, frame = first_whole(sequence)
    if path is None:
        return sequence

    def why_data(part: str) -> str:
        return data_in(path, frame, part, file_identity(path))

    parts = sequence.found.parts
    if not parts:
        why = why_data(told.value)
        return with_finding(sequence, frame, path, why) if why else sequence
    chosen = next((one for one in parts if one.name == told.value), None)
    is_sure = told.origin is not Origin.GUESS and not why_data(told.value)
    if chosen is None or is_sure or not is_picture(chosen):
        return sequence
    candidates = [one for one in parts if is_picture(one)][:MOST_LAYERS]
    pictures = [one for one in candidates if not why_data(one.name)]
    if len(pictures) == len(candidates):
        return sequence
    if not pictures:
        guessed = change(told, origin=Origin.GUESS, why=f"it {why_data(told.value)}")
        return change(sequence, reading=change(sequence.reading, part=guessed))
    return with_part(sequence, chosen_picture(pictures))


def first_whole(sequence: Sequence) -> tuple[Path, int] | tuple[None, int]:
    """A file of the source that can be read, and its number."""
    unreadable = sequence.unreadable
    for first, last in sequence.files.runs:
        for frame in range(first, last + 1):
            if frame not in unreadable:
                return sequence.files.path_of(frame), frame
    return None, 0


def with_part(sequence: Sequence, chosen: Chosen) -> Sequence:
    reading, part = sequence.reading, chosen.part
    origin = Origin.GUESS if chosen.is_guess else Origin.WRITTEN
    told = WithOrigin[str](value=part.name, origin=origin, why=chosen.why)
    if reading.alpha.origin is not Origin.SAID:
        alpha = WithOrigin[Alpha](value=alpha_of(part), origin=reading.alpha.origin)
        reading = change(reading, alpha=alpha)
    return change(sequence, reading=change(reading, part=told))


def alpha_of(part: Part) -> Alpha:
    """EXR is premultiplied by its standard."""
    return Alpha.PREMULTIPLIED if part.has_alpha else Alpha.NONE


def with_finding(sequence: Sequence, frame: int, path: Path, why: str) -> Sequence:
    what = f"its picture {why}: is it a pass of data?"
    finding = Finding(kind=FindingKind.DATA, frame=frame, file=path.name, what=what)
    findings = (*sequence.found.findings, finding)
    return change(sequence, found=change(sequence.found, findings=findings))
