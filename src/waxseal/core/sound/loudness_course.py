"""How loud a mix is from its start to its end, and what a close look at it finds."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from waxseal.core.progress import CancelToken
from waxseal.core.sound.level_meter import QUIETEST, Levels, Meter
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.sound.mix_plan import SoundPlan
from waxseal.core.sound.sound_findings import SoundFinding, SoundScan

__all__ = ["STEPS_A_SECOND", "LoudnessCourse", "course_of"]

STEPS_A_SECOND = 10  # as often as EBU Tech 3341 wants a meter to be read


@dataclass(frozen=True, slots=True)
class LoudnessCourse:
    """momentary: LUFS over the 0.4 s up to each tenth of a second. integrated: LUFS of all.
    true_peak: dBTP. findings: in seconds of the mix.
    """

    momentary: tuple[float, ...]
    integrated: float
    true_peak: float
    findings: tuple[SoundFinding, ...]

    @property
    def points(self) -> Iterator[tuple[float, float]]:
        """Seconds of the mix, at the end of what was measured, and how loud it was there."""
        for number, level in enumerate(self.momentary, start=1):
            yield number / STEPS_A_SECOND, level

    @property
    def is_silent(self) -> bool:
        return self.true_peak <= QUIETEST


def course_of(plan: SoundPlan, token: CancelToken) -> LoudnessCourse:
    """Mix a plan and measure it. Raises SoundError, Cancelled."""
    looking = SoundScan(plan.sample_rate)
    levels = list(measured(plan, looking, token))
    end = levels[-1] if levels else Levels(())
    return LoudnessCourse(
        tuple(one.momentary for one in levels), end.integrated, end.true_peak, looking.findings()
    )


def measured(plan: SoundPlan, looking: SoundScan, token: CancelToken) -> Iterator[Levels]:
    """The levels at the end of each step; `looking` takes each as well."""
    meter = Meter(plan.sample_rate, plan.channels)
    for block in mix_blocks(plan, plan.sample_rate // STEPS_A_SECOND):
        token.check()
        looking.take(block)
        yield meter.take(block)
