"""The samples of a plan: its sounds read, resampled, placed and added up."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path

import numpy as np
import soxr

from waxseal.core.errors import SoundError
from waxseal.core.sound.files import read_blocks
from waxseal.core.sound.samples import Samples
from waxseal.core.sound.timeline import Placed, SoundPlan
from waxseal.core.words import plain

__all__ = ["mix_blocks"]

CHUNK = 1 << 16  # samples read at a time


def mix_blocks(plan: SoundPlan, block: int) -> Iterator[Samples]:
    """The samples of a plan, block by block; silence where no sound is.

    Yields (block, channels) float32, full scale ±1; the last one is what is
    left. Raises SoundError.
    """
    mixed, level = added(plan, block), plan.level
    if level.gain:
        factor = np.float32(10 ** (level.gain / 20))
        mixed = (one * factor for one in mixed)
    if level.ceiling is None:
        yield from mixed
        return
    from waxseal.core.sound.limiting import limited  # SciPy: only where it is needed

    yield from blocks_of(limited(mixed, level.ceiling, plan.sample_rate), block)


def blocks_of(parts: Iterable[Samples], block: int) -> Iterator[Samples]:
    """The same samples, so many at a time."""
    rest: list[Samples] = []
    waiting = 0
    for part in parts:
        rest.append(part)
        waiting += len(part)
        if waiting >= block:
            whole = np.concatenate(rest)
            for at in range(0, waiting - block + 1, block):
                yield whole[at : at + block]
            rest = [whole[waiting - waiting % block :]]
            waiting %= block
    if waiting:
        yield np.concatenate(rest)


def added(plan: SoundPlan, block: int) -> Iterator[Samples]:
    """The sounds of a plan added up, as they are."""
    tracks = [Track(one, plan) for one in plan.placed]
    left = plan.count
    while left > 0:
        count = min(block, left)
        mixed = tracks[0].take(count)
        for track in tracks[1:]:
            mixed = mixed + track.take(count)
        yield mixed
        left -= count


class Track:
    """One placed sound, from the plan's start on."""

    def __init__(self, placed: Placed, plan: SoundPlan) -> None:
        if placed.sound.channels != plan.channels:
            raise SoundError(
                f"{plain(placed.sound.name)} has other channels than the sounds beside it: "
                "give them all as mono, or all as stereo.",
                path=Path(placed.sound.path),
            )
        self._gain = np.float32(placed.gain)
        silence = max(0, placed.at - plan.start)  # before it begins
        self._rest = np.zeros((silence, plan.channels), np.float32)
        self._parts = read_placed(placed, plan)

    def take(self, count: int) -> Samples:
        """The next samples; silence after the sound's end."""
        while len(self._rest) < count:
            part = next(self._parts, None)
            if part is None:
                missing = count - len(self._rest)
                part = np.zeros((missing, self._rest.shape[1]), np.float32)
            elif self._gain != 1:
                part = part * self._gain
            self._rest = np.concatenate([self._rest, part])
        taken, self._rest = self._rest[:count], self._rest[count:]
        return taken


def read_placed(placed: Placed, plan: SoundPlan) -> Iterator[Samples]:
    """A sound's samples at the plan's rate, from where the plan begins or the sound does."""
    path, sound = Path(placed.sound.path), placed.sound
    skip = max(0, plan.start - placed.at)
    if sound.heard_rate == plan.sample_rate:
        yield from read_blocks(path, start=placed.head + skip, block=CHUNK)
        return
    # From the sound's very start, so that a range sounds as it does in the whole.
    stream = soxr.ResampleStream(
        float(sound.heard_rate),
        plan.sample_rate,
        sound.channels,
        dtype="float32",
        quality="VHQ",
    )
    read = placed.head
    for part in read_blocks(path, start=placed.head, block=CHUNK):
        read += len(part)
        turned = stream.resample_chunk(part, last=read >= sound.samples)
        yield turned[skip:]
        skip = max(0, skip - len(turned))
