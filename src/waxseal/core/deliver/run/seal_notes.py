"""Notes on a finished film, in sentences: what is known only once it is made."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator

from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import FrameError
from waxseal.core.job.mastering import mastering_of
from waxseal.core.job.model import Space, StandIn
from waxseal.core.picture.inspection.out_of_range import beyond
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.recipe import Pick
from waxseal.core.plan.recipe_range import Film
from waxseal.core.seal.expected import LightLevels
from waxseal.core.seal.measure.file_facts import Measured
from waxseal.core.text_format import counted
from waxseal.core.timing.ranges import FrameRange, write_frames

__all__ = ["beyond_notes", "light_notes", "peak_notes", "replaced_notes", "stand_in_notes"]

LOOKED_AT = 8  # frames
LEAST_SHARE = 0.001  # of pixels
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
            f"The film reaches {light[0]} cd/m², and the mastering display shows "
            f"{display.peak:g}: nobody has seen how the brighter parts look."
        )


def beyond_notes(film: Film, form: ResolvedFormat) -> Iterator[str]:
    """What of a wider colour or range a destination cannot show, and what becomes of it.

    Of some frames of the film, evenly spread; nothing where one has gone meanwhile.
    """
    readings = [source.reading for source in film.timeline.used_sequences]
    is_wide = any(one.is_wide for one in readings)
    has_high_range = any(one.has_high_range for one in readings)
    if form.space is Space.LINEAR or not (is_wide or has_high_range):
        return
    count = min(LOOKED_AT, film.frames.count)
    places = [film.frames.first + at * film.frames.count // count for at in range(count)]
    try:
        found = beyond([film.recipe(frame) for frame in places], form.target)
    except FrameError:
        return
    of = f"of the pixels of {counted(count, 'frame')} that were looked at"
    if is_wide and found.coloured >= LEAST_SHARE:
        yield (
            f"{found.coloured:.1%} {of} have colours that {form.space} cannot show: each of their "
            "channels is cut off where it ends."
        )
    if has_high_range and found.bright >= LEAST_SHARE:
        most = "its brightest" if form.space.is_high_range else "white"
        yield f"{found.bright:.1%} {of} are brighter than {form.space} goes: they become {most}."


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
