"""Notes on a finished film, in sentences: what is known only once it is made."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator

from waxseal.core.job.mastering import mastering_of
from waxseal.core.job.model import StandIn
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.recipe import Pick
from waxseal.core.seal.expected import LightLevels
from waxseal.core.seal.measure.facts import Measured
from waxseal.core.timing.ranges import FrameRange, write_frames

__all__ = ["light_notes", "peak_notes", "replaced_notes", "stand_in_notes"]

FULL_SCALE = 0.05  # dBTP: what rounds to more than nothing
STOOD_IN = {
    StandIn.HOLD: "the frame before stands in",
    StandIn.NEAREST: "the nearest frame stands in",
    StandIn.BLACK: "black stands in",
    StandIn.STOP: "nothing stands in",
}


def light_notes(mastering: str, light: LightLevels | None) -> Iterator[str]:
    """Where a film is brighter than the display that it was judged on. mastering: see Delivery."""
    display = mastering_of(mastering)
    if display is not None and light is not None and light[0] > display.peak:
        yield (
            f"The film reaches {light[0]} cd/m², and the display that it was judged on shows "
            f"{display.peak:g}: nobody has seen how the brighter parts look."
        )


def peak_notes(measured: Measured) -> Iterator[str]:
    """Whether the sound, as its codec gives it back, is louder than a player can play it."""
    found = measured.loudness
    if found is not None and found.true_peak_dbtp > FULL_SCALE:
        yield (
            f"The sound peaks at +{found.true_peak_dbtp:.1f} dBTP and may distort when it is "
            "played: hold its true peak at −1 dBTP, or lower its level."
        )


def stand_in_notes(planned: Programme, frames: FrameRange) -> tuple[str, ...]:
    """Which frames something else stood in for, a sentence for each source."""
    return tuple(
        f"{missing.sequence.full_name}: {STOOD_IN[missing.sequence.reading.stand_in.value]} "
        f"for {write_frames(missing.frames)}."
        for missing in planned.missing(frames)
    )


def replaced_notes(planned: Programme, replaced: Iterable[Pick]) -> tuple[str, ...]:
    """Which frames were replaced while they were delivered, a sentence for each source."""
    frames: dict[str, set[int]] = defaultdict(set)
    for pick in replaced:
        frames[pick.source].add(pick.frame)
    return tuple(
        f"{planned.timeline.sources[source].full_name}: {write_frames(numbers)} "
        f"{'was' if len(numbers) == 1 else 'were'} replaced while the delivery was made: "
        "deliver again to have the new in it."
        for source, numbers in frames.items()
    )
