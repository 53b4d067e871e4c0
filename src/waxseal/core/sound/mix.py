"""The reel's sound as samples: from the reel's start, exactly as long as the picture."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from waxseal.core.errors import SoundError
from waxseal.core.job.model import Job, Sound
from waxseal.core.sound.files import read_samples
from waxseal.core.timing.ranges import FrameRange
from waxseal.core.words import counted

if TYPE_CHECKING:
    from waxseal.core.sound.files import Samples

__all__ = ["SoundPlan", "reel_samples", "sound_plan"]

KEPT_RATES = (44_100, 48_000)  # delivered as they are; every other becomes 48 kHz
CHANNELS = (1, 2, 6)


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
    def notes(self) -> tuple[str, ...]:
        """What the listener should know, in sentences."""
        said = []
        heard = Fraction(self.sound.samples, self.sound.sample_rate)
        until = Fraction(self.start + self.count, self.sample_rate)
        if self.sound.sample_rate != self.sample_rate:
            said.append(f"The sound is resampled from {self.sound.sample_rate} Hz to 48 000 Hz.")
        if heard > until:
            said.append(f"The sound is {float(heard - until):.3f} s longer: its tail is cut.")
        elif heard < until:
            said.append(f"The sound is {float(until - heard):.3f} s shorter: silence to the end.")
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


def reel_samples(plan: SoundPlan) -> Samples:
    """The samples of a plan, silence behind the sound's end.

    Returns (count, channels) float32, full scale ±1. Raises SoundError.
    """
    path = Path(plan.sound.path)
    if plan.sound.sample_rate == plan.sample_rate:
        return read_samples(path, start=plan.start, count=plan.count)
    import numpy as np
    import soxr

    # From the very start, so that a range sounds as it does in the whole.
    ratio = Fraction(plan.sound.sample_rate, plan.sample_rate)
    needed = int((plan.start + plan.count) * ratio) + 1
    heard = read_samples(path, start=0, count=min(needed, plan.sound.samples))
    resampled = soxr.resample(heard, plan.sound.sample_rate, plan.sample_rate, quality="VHQ")
    samples = np.zeros((plan.count, plan.sound.channels), np.float32)
    part = resampled[plan.start : plan.start + plan.count]
    samples[: len(part)] = part
    return samples
