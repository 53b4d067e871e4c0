"""The samples of a plan: its sounds read, resampled, placed and added up."""

from __future__ import annotations

import math
from collections import OrderedDict, defaultdict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from waxseal.core.job.model import SoundCurve
from waxseal.core.sound.channel_mixing import mixing
from waxseal.core.sound.ducking import Ducking
from waxseal.core.sound.mix_plan import Slope, SoundPiece, SoundPlan
from waxseal.core.sound.sample_types import Samples
from waxseal.core.sound.sound_source import SampleSource, heard_sound, played

__all__ = ["Mixer", "mix_blocks"]

MOST_OPEN = 24  # sounds
CELL = 1 << 18  # samples: pieces are looked for in stretches of some seconds


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
    from waxseal.core.sound.limiter import limited  # SciPy: only where it is needed

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
    mixer = Mixer(plan)
    try:
        for at in range(plan.start, plan.start + plan.count, block):
            yield mixer.read(at, min(block, plan.start + plan.count - at))
    finally:
        mixer.close()


class Mixer:
    """Reads the mix of a plan from any sample of the reel on; the same wherever it begins."""

    def __init__(self, plan: SoundPlan) -> None:
        self._plan = plan
        self._open: OrderedDict[object, SampleSource] = OrderedDict()
        self._cells: dict[int, list[int]] = defaultdict(list)  # pieces by when they are heard
        for number, piece in enumerate(plan.pieces):
            for cell in range(piece.at // CELL, piece.end // CELL + 1):
                self._cells[cell].append(number)
        alone = replace(plan, pieces=tuple(replace(one, ducked=None) for one in plan.pieces))
        unders = {one.ducked.under for one in plan.pieces if one.ducked is not None}
        self._ducking = {
            under: Ducking(self._alone(alone, under), plan.sample_rate) for under in unders
        }

    def read(self, at: int, count: int) -> Samples:
        """Samples at..at+count of the reel, at the plan's rate. Raises SoundError."""
        mixed = np.zeros((count, self._plan.channels), np.float32)
        for piece in self._pieces_near(at, count):
            first, stop = max(at, piece.at), min(at + count, piece.end)
            if first < stop:
                mixed[first - at : stop - at] += self._part(piece, first, stop - first)
        return mixed

    def _pieces_near(self, at: int, count: int) -> Iterator[SoundPiece]:
        """Those that may be heard there, in their order."""
        cells = range(at // CELL, (at + count) // CELL + 1)
        near = {number for cell in cells for number in self._cells.get(cell, ())}
        return (self._plan.pieces[number] for number in sorted(near))

    def close(self) -> None:
        while self._open:
            self._open.popitem()[1].close()
        for ducking in self._ducking.values():
            ducking.close()

    def _alone(self, plan: SoundPlan, laid: str) -> Mixer:
        return Mixer(replace(plan, pieces=tuple(one for one in plan.pieces if one.laid == laid)))

    def _part(self, piece: SoundPiece, at: int, count: int) -> Samples:
        """What a piece adds: its samples in the plan's channels, as loud as they are there."""
        into = at - piece.at
        heard = self._heard(piece)
        if piece.run is not None:
            samples = heard.read(piece.head + into, count)
        elif piece.is_backwards:
            samples = heard.read(piece.head - into - count + 1, count)[::-1]
        else:
            samples = heard.read(piece.head + into, count)
        factors = mixing(piece.sound.channels, self._plan.channels, piece.gain, piece.pan)
        if factors is not None:
            samples = samples @ factors.T
        for slope in piece.slopes:
            if at < slope.first + slope.count if slope.rises else at + count > slope.first:
                samples = samples * slope_gains(slope, at, count)[:, None]
        if piece.ducked is not None:
            ducking = self._ducking[piece.ducked.under]
            samples = samples * ducking.gains(at, count, piece.ducked.by)[:, None]
        return samples

    def _heard(self, piece: SoundPiece) -> SampleSource:
        rate = self._plan.sample_rate

        def sound() -> SampleSource:
            return self._opened(piece.sound, lambda: heard_sound(piece.sound, rate))

        if piece.run is None:
            return sound()
        key = (piece.sound, piece.run, piece.speed, piece.is_backwards)
        return self._opened(key, lambda: played(sound, piece, rate))

    def _opened(self, key: object, make: Callable[[], SampleSource]) -> SampleSource:
        if key not in self._open:
            self._open[key] = make()
            while len(self._open) > MOST_OPEN:
                self._open.popitem(last=False)[1].close()
        self._open.move_to_end(key)
        return self._open[key]


def slope_gains(slope: Slope, at: int, count: int) -> NDArray[np.float32]:
    """The factors of samples at..at+count of the reel."""
    through = (np.arange(at, at + count) - slope.first + 0.5) / max(1, slope.count)
    through = np.clip(through, 0, 1)
    if not slope.rises:
        through = 1 - through
    if slope.curve is SoundCurve.POWER:
        through = np.sin(through * (math.pi / 2))
    elif slope.curve is SoundCurve.SOFT:
        through = (1 - np.cos(through * math.pi)) / 2
    return through.astype(np.float32)
