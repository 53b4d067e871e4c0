"""The reel's sounds in time: which, from where, how loud, exactly as long as the picture."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from waxseal.core.errors import SoundError
from waxseal.core.job.model import Job, Sound
from waxseal.core.timing.ranges import FrameRange
from waxseal.core.words import counted

__all__ = ["Level", "Placed", "SoundPlan", "sound_plan"]

KEPT_RATES = (44_100, 48_000)  # delivered as they are; every other becomes 48 kHz
CHANNELS = (1, 2, 6)


@dataclass(frozen=True, slots=True)
class Placed:
    """A sound on the reel.

    at: the sample of the reel where it begins, at the plan's rate.
    head: samples of its own, at its own rate, that are left out at its beginning.
    gain: a factor.
    """

    sound: Sound
    at: int = 0
    head: int = 0
    gain: float = 1.0


@dataclass(frozen=True, slots=True)
class Level:
    """What is done to all sounds together. gain: in dB; ceiling: of the true peak, in dBTP."""

    gain: float = 0.0
    ceiling: float | None = None


@dataclass(frozen=True, slots=True)
class SoundPlan:
    """The sound of a range of the reel: samples start..start+count at one rate."""

    sample_rate: int
    channels: int
    start: int
    count: int
    placed: tuple[Placed, ...]
    level: Level = Level()

    def seconds_over(self, one: Placed) -> Fraction:
        """How much longer a sound is than the picture; less than 0 where it is shorter."""
        heard = (one.sound.samples - one.head) / one.sound.heard_rate
        return heard + Fraction(one.at - self.start - self.count, self.sample_rate)

    @property
    def notes(self) -> tuple[str, ...]:
        """What the listener should know, in sentences."""
        notes = []
        for one in self.placed:
            over, speed = float(self.seconds_over(one)), one.sound.speed
            if speed != 1:
                words = "faster" if speed > 1 else "slower"
                notes.append(f"The sound runs {abs(float(speed) - 1):.2%} {words}, as its frames.")
            if one.sound.sample_rate != self.sample_rate:
                rate = one.sound.sample_rate
                notes.append(f"The sound is resampled from {rate} Hz to {self.sample_rate} Hz.")
            if over > 0:
                notes.append(f"The sound is {over:.3f} s longer: its tail is cut.")
            elif over < 0:
                notes.append(f"The sound is {-over:.3f} s shorter: silence follows to the end.")
        return tuple(notes)


def sound_plan(
    job: Job,
    frames: FrameRange,
    rate: Fraction,
    rates: tuple[int, ...] = (),
    *,
    seconds: Fraction | None = None,
) -> SoundPlan | None:
    """The sound of these reel frames (from 1), to the sample; None if there is none.

    rates: the sample rates that its codec takes; empty for any. seconds: how long it lasts,
    where that is not as long as the frames.
    Raises SoundError for a number of channels that is not delivered.
    """
    if not job.reel.sounds:
        return None
    placed = tuple(Placed(job.sound(laid.source)) for laid in job.reel.sounds)
    for one in placed:
        if one.sound.channels not in CHANNELS:
            raise SoundError(
                f"{one.sound.name} has {counted(one.sound.channels, 'channel')}: "
                "give the sound as mono, stereo or 5.1.",
                path=Path(one.sound.path),
            )
    first = placed[0].sound.sample_rate
    sample_rate = first if first in (rates or KEPT_RATES) else 48_000
    start, stop = (round(frame * sample_rate / rate) for frame in (frames.first - 1, frames.last))
    if seconds is not None:
        stop = start + round(seconds * sample_rate)
    channels = max(one.sound.channels for one in placed)
    return SoundPlan(sample_rate, channels, start, stop - start, placed)
