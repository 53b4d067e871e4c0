"""The reel's sound as samples: from the reel's start, exactly as long as the picture."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from waxseal.core.errors import SoundError
from waxseal.core.job.model import Job, Sound
from waxseal.core.sound.files import read_blocks
from waxseal.core.timing.ranges import FrameRange
from waxseal.core.words import counted

if TYPE_CHECKING:
    from waxseal.core.sound.files import Samples

__all__ = ["SoundPlan", "sound_blocks", "sound_plan"]

KEPT_RATES = (44_100, 48_000)  # delivered as they are; every other becomes 48 kHz
CHANNELS = (1, 2, 6)
CHUNK = 1 << 16  # samples read at a time


@dataclass(frozen=True, slots=True)
class SoundPlan:
    """The sound of a range of the reel: which, from where, how long.

    start, count: samples of the delivery at its sample_rate.
    """

    sound: Sound
    sample_rate: int
    start: int
    count: int

    @property
    def seconds_over(self) -> Fraction:
        """How much longer the sound is than the picture; less than 0 where it is shorter."""
        heard = Fraction(self.sound.samples, self.sound.sample_rate)
        return heard - Fraction(self.start + self.count, self.sample_rate)

    @property
    def notes(self) -> tuple[str, ...]:
        """What the listener should know, in sentences."""
        said = []
        over = float(self.seconds_over)
        if self.sound.sample_rate != self.sample_rate:
            said.append(f"The sound is resampled from {self.sound.sample_rate} Hz to 48 000 Hz.")
        if over > 0:
            said.append(f"The sound is {over:.3f} s longer: its tail is cut.")
        elif over < 0:
            said.append(f"The sound is {-over:.3f} s shorter: silence to the end.")
        return tuple(said)


def sound_plan(job: Job, frames: FrameRange, rate: Fraction) -> SoundPlan | None:
    """The sound of these reel frames (from 1), to the sample; None where there is none.

    Raises SoundError for channels that AAC has no layout for.
    """
    if not job.reel.sounds:
        return None
    sound = job.sound(job.reel.sounds[0].source)
    if sound.channels not in CHANNELS:
        raise SoundError(
            f"{sound.name} has {counted(sound.channels, 'channel')}: "
            "give the sound as mono, stereo or 5.1.",
            path=Path(sound.path),
        )
    sample_rate = sound.sample_rate if sound.sample_rate in KEPT_RATES else 48_000
    start, stop = (round(frame * sample_rate / rate) for frame in (frames.first - 1, frames.last))
    return SoundPlan(sound, sample_rate, start, stop - start)


def sound_blocks(plan: SoundPlan, block: int) -> Iterator[Samples]:
    """The samples of a plan, block by block, silence behind the sound's end.

    Yields (block, channels) float32, full scale ±1; the last one is what is
    left. Raises SoundError.
    """
    import numpy as np

    left, rest = plan.count, np.zeros((0, plan.sound.channels), np.float32)
    heard = resampled(plan) if plan.sound.sample_rate != plan.sample_rate else as_recorded(plan)
    for part in heard:
        rest = np.concatenate([rest, part])
        while len(rest) >= block and left >= block:
            yield rest[:block]
            rest, left = rest[block:], left - block
    while left > 0:
        count = min(block, left)
        silence = np.zeros((max(0, count - len(rest)), plan.sound.channels), np.float32)
        yield np.concatenate([rest[:count], silence])
        rest, left = rest[count:], left - count


def as_recorded(plan: SoundPlan) -> Iterator[Samples]:
    return read_blocks(Path(plan.sound.path), start=plan.start, block=CHUNK)


def resampled(plan: SoundPlan) -> Iterator[Samples]:
    """From the sound's very start, so that a range sounds as it does in the whole."""
    import soxr

    stream = soxr.ResampleStream(
        plan.sound.sample_rate,
        plan.sample_rate,
        plan.sound.channels,
        dtype="float32",
        quality="VHQ",
    )
    skip, read = plan.start, 0
    for part in read_blocks(Path(plan.sound.path), start=0, block=CHUNK):
        read += len(part)
        turned = stream.resample_chunk(part, last=read >= plan.sound.samples)
        yield turned[skip:]
        skip = max(0, skip - len(turned))
