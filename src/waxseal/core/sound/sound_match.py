"""Whether a sound is the one that was mixed, or late, inverted, exchanged, silent, another.

Compared by samples, a stretch of some seconds at a time. How far a codec takes a sound from its
mix is measured, by what the codec makes of the same mix here: noise loses half its waveform, a
tone next to nothing. What is farther than that gets its name by correlation, where noise cancels
out.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, next_fast_len, rfft

from waxseal.core.progress import CancelToken
from waxseal.core.sound.sample_types import Samples

__all__ = ["Fault", "SoundFault", "compare_sounds"]

STEP_SECONDS, LONG_STEPS = 0.1, 3  # silence that is so long is a fault
STRETCH_SECONDS, FARTHEST_SECONDS = 8, 1
SILENT, AUDIBLE = 10 ** (-80 / 20), 10 ** (-60 / 20)  # rms, of full scale
LOST = 10 ** (-30 / 20)  # of the level that there should be
EXACT_STEP = 1.01 / (1 << 15)  # what writing with 16 bits rounds by, and a little
SAME = 1e-3  # of full scale: what decoders of one stream differ by
LATE_SAMPLES = 2
LEVEL_DB = 0.4
NOISE_DB = 10.0  # more noise than the codec makes here: another encoder of it may be coarser
CLEAR_DB = 30.0  # noise that is farther below the sound counts as none
LESS_ALIKE = 0.2  # than a correlation with what the codec makes: another sound
NEARER = 0.01  # how much more alike another place has to be
CROSSED = 0.1  # how much more alike the other channel has to be
AS_NEAR = 0.995  # of the best correlation: a tone is like itself a period later

Wave = NDArray[np.float64]


class Fault(StrEnum):
    SILENT = "silent"
    EXTRA = "extra"
    OTHER = "other"
    INVERTED = "inverted"
    SWAPPED = "swapped"
    SHIFTED = "shifted"
    LEVEL = "level"
    NOISE = "noise"


@dataclass(frozen=True, slots=True)
class SoundFault:
    """What is wrong from a time on. by: seconds late, or dB louder; 0 where that means nothing."""

    kind: Fault
    at_seconds: float
    by: float = 0.0
    channel: int | None = None

    @property
    def words(self) -> str:
        where = f"From {self.at_seconds:.1f} s the sound" if self.at_seconds else "The sound"
        if self.channel is not None:
            where += f" in channel {self.channel + 1}"
        return f"{where} {self._predicate}"

    @property
    def _predicate(self) -> str:
        match self.kind:
            case Fault.SILENT:
                return "is silent, but the reel's is not."
            case Fault.EXTRA:
                return "is heard, but the reel is silent there."
            case Fault.OTHER:
                return "is another than the reel's."
            case Fault.INVERTED:
                return "is inverted: its polarity is that of the reel turned round."
            case Fault.SWAPPED:
                return "has its channels exchanged."
            case Fault.SHIFTED:
                words = "late" if self.by > 0 else "early"
                return f"is {abs(self.by):.4f} s {words}."
            case Fault.LEVEL:
                words = "louder" if self.by > 0 else "quieter"
                return f"is {abs(self.by):.1f} dB {words} than the reel's."
            case Fault.NOISE:
                return "differs from the reel's by more than its codec changes."


def compare_sounds(
    made: Iterable[Samples],
    heard: Iterable[Samples],
    sample_rate: int,
    *,
    coded: Iterable[Samples] | None,
    token: CancelToken,
) -> tuple[SoundFault, ...]:
    """Compare what was mixed with what a file gives back, both from the same instant on.

    made, heard: (count, channels) float32, ±1, of one rate and as many channels.
    coded: what the file's codec makes of the mix here; None where it loses nothing but what 16 or
        24 bits round.
    Returns the first fault of each kind, in the order of time. Raises Cancelled.
    """
    far = FARTHEST_SECONDS * sample_rate
    whole, around = BlockReader(made), BlockReader(heard, before=far)
    reference = BlockReader(coded) if coded is not None else None
    found: dict[tuple[Fault, int | None], SoundFault] = {}
    count = 0
    while len(one := whole.take(STRETCH_SECONDS * sample_rate)):
        token.check()
        seen = around.look(count, len(one) + 2 * far)
        like = reference.look(count, len(one)) if reference is not None else None
        for fault in faults_in(one, seen, like, sample_rate, count / sample_rate):
            found.setdefault((fault.kind, fault.channel), fault)
        count += len(one)
    return tuple(sorted(found.values(), key=lambda fault: fault.at_seconds))


class BlockReader:
    """Samples out of blocks, in stretches that may overlap."""

    def __init__(self, blocks: Iterable[Samples], before: int = 0) -> None:
        """before: silence in front of the first."""
        self._blocks = iter(blocks)
        self._before = before
        self._rest: Samples | None = None
        self._start = 0  # of the rest, in samples from the silence on

    def take(self, count: int) -> Wave:
        """The next ones; fewer at the end."""
        self._fill(count)
        rest = self._rest
        if rest is None:
            return np.zeros((0, 1))
        taken, self._rest = rest[:count], rest[count:]
        return taken.astype(np.float64)

    def look(self, start: int, count: int) -> Wave:
        """So many from a place on; silence behind the end. Places only grow."""
        self._fill(start - self._start + count)
        rest = self._rest
        if rest is None:
            return np.zeros((count, 1))
        self._rest, self._start = rest[start - self._start :], start
        seen = self._rest[:count].astype(np.float64)
        return np.pad(seen, ((0, count - len(seen)), (0, 0)))

    def _fill(self, count: int) -> None:
        parts = [] if self._rest is None else [self._rest]
        there = sum(map(len, parts))
        while there < count and (block := next(self._blocks, None)) is not None:
            if self._before:
                parts.append(np.zeros((self._before, block.shape[1]), np.float32))
                there, self._before = there + self._before, 0
            parts.append(block)
            there += len(block)
        if parts:
            self._rest = np.concatenate(parts)


def faults_in(
    made: Wave, around: Wave, coded: Wave | None, sample_rate: int, seconds: float
) -> Iterator[SoundFault]:
    """Of one stretch.

    around: what is heard, as much longer on both sides as a sound may be off.
    """
    far = (len(around) - len(made)) // 2
    same = around[far : far + len(made)]
    if rms(made) < SILENT:
        if rms(same) > AUDIBLE:
            yield SoundFault(Fault.EXTRA, seconds)
        return
    usual = made if coded is None else coded
    lost = list(silences(usual, same, sample_rate, seconds))
    if lost:
        yield from lost
        return
    step = EXACT_STEP if coded is None else SAME
    if same.shape == usual.shape and np.abs(same - usual).max() <= step:
        return
    known = likeness(made, usual)
    if coded is not None and is_as_near(likeness(made, same), known):
        return
    best, lag = best_lag(made, around)
    if made.shape[1] == 2 and around.shape[1] == 2:
        crossed, crossed_lag = best_lag(made[:, ::-1], around)
        if abs(crossed) > abs(best) + CROSSED:
            yield SoundFault(Fault.SWAPPED, seconds)
            made, usual, best, lag = made[:, ::-1], usual[:, ::-1], crossed, crossed_lag
            known = likeness(made, usual)
    if abs(best) < known.correlation - LESS_ALIKE:
        yield SoundFault(Fault.OTHER, seconds)
        return
    if best < 0:
        yield SoundFault(Fault.INVERTED, seconds)
    in_place = likeness(made, same).correlation
    is_late = abs(lag) > (0 if coded is None else LATE_SAMPLES)
    if is_late and abs(best) > abs(in_place) + NEARER:
        yield SoundFault(Fault.SHIFTED, seconds, lag / sample_rate)
    else:
        lag = 0
    seen = around[far + lag : far + lag + len(made)]
    yield from level_faults(likeness(made, seen * np.sign(best)), known, seconds)


def silences(usual: Wave, same: Wave, sample_rate: int, seconds: float) -> Iterator[SoundFault]:
    """Where what should be heard is not, for a while: all channels, or some of them."""
    step = round(STEP_SECONDS * sample_rate)
    count, channels = len(usual) // step, min(usual.shape[1], same.shape[1])
    if not count:
        return

    def levels(wave: Wave) -> Wave:
        parts = wave[: count * step, :channels].reshape(count, step, channels)
        return np.asarray(np.sqrt((parts * parts).mean(axis=1)))

    wanted, there = levels(usual), levels(same)
    is_lost = (wanted > AUDIBLE) & (there < LOST * wanted)
    starts = [first_run(is_lost[:, at], LONG_STEPS) for at in range(channels)]
    lost = [at for at, start in enumerate(starts) if start is not None]
    heard = [at for at in range(channels) if (wanted[:, at] > AUDIBLE).any()]
    if lost and lost == heard:
        at = min(start for start in starts if start is not None)
        yield SoundFault(Fault.SILENT, round(seconds + at * STEP_SECONDS, 3))
        return
    for channel in lost:
        start = starts[channel] or 0
        yield SoundFault(Fault.SILENT, round(seconds + start * STEP_SECONDS, 3), channel=channel)


def first_run(flags: NDArray[np.bool_], length: int) -> int | None:
    """Where the first run of so many that are set begins; None without one."""
    run = 0
    for at, flag in enumerate(flags):
        run = run + 1 if flag else 0
        if run == length:
            return at - length + 1
    return None


@dataclass(frozen=True, slots=True)
class WaveLikeness:
    """How like one wave is to another, in place.

    gains: of each channel, as a factor; None where the first is silent. noise_db: what is left of
    the first once its gain is taken out, below it.
    """

    correlation: float
    gains: tuple[float | None, ...]
    noise_db: float


def likeness(made: Wave, seen: Wave) -> WaveLikeness:
    products = (made * seen).sum(axis=0)
    own, other = (made * made).sum(axis=0), (seen * seen).sum(axis=0)
    floor = len(made) * AUDIBLE**2
    gains = tuple(
        float(product / energy) if energy > floor else None
        for product, energy in zip(products, own, strict=True)
    )
    factors = np.array([1.0 if gain is None else gain for gain in gains])
    left = rms(seen - made * factors)
    whole = float(np.sqrt(own.sum() * other.sum()))
    return WaveLikeness(
        float(products.sum()) / max(whole, 1e-12),
        gains,
        -20 * float(np.log10(max(left, 1e-9) / max(rms(made), 1e-9))),
    )


def is_as_near(found: WaveLikeness, known: WaveLikeness) -> bool:
    return not list(level_faults(found, known, 0.0))


def level_faults(found: WaveLikeness, known: WaveLikeness, seconds: float) -> Iterator[SoundFault]:
    """found: of what is heard; known: of what the codec makes; both beside the mix."""
    levels: list[float | None] = []
    for channel, (gain, usual) in enumerate(zip(found.gains, known.gains, strict=True)):
        if gain is None or usual is None or usual <= 0:
            continue
        if gain < LOST * usual:
            yield SoundFault(Fault.SILENT, seconds, channel=channel)
            levels.append(None)
            continue
        levels.append(round(20 * float(np.log10(gain / usual)), 2))
        if abs(levels[-1] or 0.0) > LEVEL_DB and None not in levels:
            alone = channel if len(levels) > 1 and abs(levels[0] or 0.0) <= LEVEL_DB else None
            yield SoundFault(Fault.LEVEL, seconds, levels[-1] or 0.0, alone)
    if None not in levels and found.noise_db < min(known.noise_db - NOISE_DB, CLEAR_DB):
        yield SoundFault(Fault.NOISE, seconds)


def best_lag(made: Wave, around: Wave) -> tuple[float, int]:
    """The correlation that is farthest from 0, −1..1, and the samples by which it is late.

    Of all channels together. In place, where that is nearly as good as anywhere.
    """
    count, far = len(made), (len(around) - len(made)) // 2
    size = next_fast_len(len(around), real=True)
    products = np.zeros(2 * far + 1)
    energies = np.zeros(2 * far + 1)
    for channel in range(min(made.shape[1], around.shape[1])):
        one, other = made[:, channel], around[:, channel]
        both = irfft(np.conj(rfft(one, size)) * rfft(other, size), size)
        products += both[: 2 * far + 1]
        squares = np.concatenate([[0.0], np.cumsum(other * other)])
        energies += squares[count:] - squares[: 2 * far + 1]
    own = float((made * made).sum())
    alike = products / np.sqrt(np.maximum(own * energies, 1e-9 * own * own))
    near = np.flatnonzero(np.abs(alike) >= AS_NEAR * np.abs(alike).max()) - far
    lag = int(near[np.abs(near).argmin()])
    if lag:  # around there the very best
        left, right = max(-far, lag - LATE_SAMPLES), min(far, lag + LATE_SAMPLES)
        lag = left + int(np.abs(alike[left + far : right + far + 1]).argmax())
    return float(alike[lag + far]), lag


def rms(values: Wave) -> float:
    return float(np.sqrt(np.mean(values * values))) if values.size else 0.0
