"""The sound of a range of the reel as a value: pieces of sounds, exactly as long as the picture."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from waxseal.core.job.model import Sound, SoundCurve

__all__ = ["Ducked", "MixLevel", "Slope", "SoundPiece", "SoundPlan"]


@dataclass(frozen=True, slots=True)
class Slope:
    """From silence to the whole, or back, in samples of the reel at the plan's rate.

    first: the first sample that it changes. count: how many. Before a rise, and after a fall,
    there is silence.
    """

    first: int
    count: int
    rises: bool
    curve: SoundCurve = SoundCurve.POWER


@dataclass(frozen=True, slots=True)
class Ducked:
    """One sound is quieter by so many dB while another, of the reel, is heard."""

    under: str
    by: float


@dataclass(frozen=True, slots=True)
class SoundPiece:
    """A stretch of one sound on the reel. All positions are in samples at the plan's rate.

    laid: the sound of the reel that it is of, by its id.
    at, count: the samples of the reel that it fills.
    head: of the sound, as it is heard at the plan's rate, the first sample that is heard; of
        one heard backwards the last of those that are, counted from its start.
    is_backwards: whether its samples are heard from the last to the first.
    speed: how many times as fast it is, its pitch kept. `run` is then the first and the last
        sample of what is heard faster or slower (`run[1]` is not heard), and `head` counts
        what that is made into.
    gain: a factor; pan: from -1 to 1.
    """

    laid: str
    sound: Sound
    at: int
    count: int
    head: int = 0
    is_backwards: bool = False
    speed: Fraction = Fraction(1)
    run: tuple[int, int] | None = None
    gain: float = 1.0
    pan: float = 0.0
    slopes: tuple[Slope, ...] = ()
    ducked: Ducked | None = None

    @property
    def end(self) -> int:
        """The sample of the reel after its last."""
        return self.at + self.count


@dataclass(frozen=True, slots=True)
class MixLevel:
    """What is done to all sounds together. gain: in dB; ceiling: of the true peak, in dBTP."""

    gain: float = 0.0
    ceiling: float | None = None


@dataclass(frozen=True, slots=True)
class SoundPlan:
    """The sound of a range of the reel: samples start..start+count at one rate.

    pieces: in the order in which they begin. notes: what the listener should know, in sentences.
    """

    sample_rate: int
    channels: int
    start: int
    count: int
    pieces: tuple[SoundPiece, ...]
    level: MixLevel = MixLevel()
    notes: tuple[str, ...] = ()
