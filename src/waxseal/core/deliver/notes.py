"""What is done to the pictures and the sound on the way that somebody should know, in sentences."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from pathlib import Path

from waxseal.core.deliver.codecs import Codec, codec_named
from waxseal.core.deliver.naming import container_of
from waxseal.core.deliver.settings import sound_of, stretch_of
from waxseal.core.job.mastering import mastering_of
from waxseal.core.job.model import Alpha, Delivery, Health, Origin, Size, StandIn
from waxseal.core.picture.framing import framing_words, is_framed_whole
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.recipe import Pick
from waxseal.core.plan.timeline import Timeline
from waxseal.core.seal.lightlevels import LightLevels
from waxseal.core.timing.matching import conversion_words
from waxseal.core.timing.ranges import FrameRange, write_frames
from waxseal.core.timing.rates import rate_words
from waxseal.core.words import names_words, plain

__all__ = ["light_notes", "notes_on", "replaced_notes", "stand_in_notes"]

STOOD_IN = {
    StandIn.HOLD: "the frame before stands in",
    StandIn.NEAREST: "the nearest frame stands in",
    StandIn.BLACK: "black stands in",
    StandIn.STOP: "nothing stands in",
}


def notes_on(timeline: Timeline, delivery: Delivery) -> tuple[str, ...]:
    """Raises JobError for a codec that is not known, SoundError."""
    codec = codec_named(delivery.codec)
    return (
        *lut_notes(delivery, codec),
        *alpha_notes(timeline, delivery),
        *source_notes(timeline),
        *framing_notes(timeline),
        *size_notes(delivery.size or timeline.size, codec),
        *reframing_notes(timeline, delivery),
        *rate_notes(timeline, delivery),
        *sound_notes(timeline, delivery),
    )


def lut_notes(delivery: Delivery, codec: Codec) -> Iterator[str]:
    if delivery.lut and not codec.takes_codes:
        yield f"{codec.name} carries light: {plain(Path(delivery.lut).name)} is left out."


def alpha_notes(timeline: Timeline, delivery: Delivery) -> Iterator[str]:
    """Where alpha is not kept, what is clear is filled with the ground."""
    if delivery.alpha is not Alpha.NONE:
        if timeline.job.reel.behind:
            yield "Alpha is kept: the picture behind is left out."
        return
    clear = [
        part.sequence.name
        for part in timeline.shots
        if part.sequence.reading.alpha.value is not Alpha.NONE
    ]
    if clear and not timeline.job.reel.behind:
        yield (
            f"The alpha of {names_words(list(dict.fromkeys(clear)))} is not delivered: "
            f"what is clear shows the ground, {timeline.job.reel.ground}."
        )


def source_notes(timeline: Timeline) -> Iterator[str]:
    # (What is laid says at which rate its passes and mattes are read.)
    laid = {part.laid.source for part in (*timeline.shots, *timeline.overlays)}
    for source in timeline.job.sequences:
        if source.id not in timeline.used:
            continue
        rate = source.reading.rate
        is_moving = source.id in laid and source.kind != "still"
        if rate.origin is Origin.GUESS and is_moving:
            yield f"The rate of {source.name} is a guess: {rate_words(rate.value)}."
        if source.health is Health.MIXED:
            yield f"{source.name} is mixed: {source.findings[0].what}."


def framing_notes(timeline: Timeline) -> Iterator[str]:
    frame = (timeline.size.width, timeline.size.height)
    for part in timeline.shots:
        size, shot = part.sequence.shown_size, part.laid
        shape = (size.width, size.height)
        is_enlarged = size.width < frame[0]
        is_whole = is_framed_whole(shape, frame, shot.framing, shot.placing)
        if size != timeline.size and (is_enlarged or not is_whole):
            words = framing_words(shape, frame, shot.framing, shot.placing)
            yield f"{part.sequence.name}, {size}: {words}."


def reframing_notes(timeline: Timeline, delivery: Delivery) -> Iterator[str]:
    if delivery.size is not None and delivery.size != timeline.size:
        reel, frame = ((one.width, one.height) for one in (timeline.size, delivery.size))
        words = framing_words(reel, frame, delivery.framing)
        yield f"The reel, {timeline.size}, in {delivery.size} {words}."


def rate_notes(timeline: Timeline, delivery: Delivery) -> Iterator[str]:
    stretch = stretch_of(timeline, delivery)
    words = conversion_words(stretch.reel_rate, stretch.rate, stretch.reel.count)
    if words:
        rates = f"{rate_words(stretch.reel_rate)} → {rate_words(stretch.rate)}"
        yield f"The reel is shown at another rate, {rates}: {words}."


def size_notes(size: Size, codec: Codec) -> Iterator[str]:
    width, height = codec.layout.stored_size(size.width, size.height)
    if (width, height) != (size.width, size.height):
        yield (
            f"{size} becomes {width} × {height}: the codec needs even sides, "
            "so the last column or row is repeated."
        )


def sound_notes(timeline: Timeline, delivery: Delivery) -> Iterator[str]:
    job, container = timeline.job, container_of(delivery)
    if not container.sounds:
        for laid in job.reel.sounds:
            name = job.sound(laid.source).name
            yield f"{container.name} carries no sound: {name} is left out."
        return
    plan = sound_of(timeline, delivery)
    if plan is not None:
        yield from plan.notes


def light_notes(mastering: str, light: LightLevels | None) -> Iterator[str]:
    """Where a film is brighter than the display that it was judged on. mastering: see Delivery."""
    display = mastering_of(mastering)
    if display is not None and light is not None and light[0] > display.peak:
        yield (
            f"The film reaches {light[0]} cd/m², and the display that it was judged on shows "
            f"{display.peak:g}: nobody has seen how what is brighter looks."
        )


def stand_in_notes(planned: Programme, frames: FrameRange) -> tuple[str, ...]:
    """Which frames something else stood in for, a sentence for each source."""
    return tuple(
        f"{missing.sequence.name}: {STOOD_IN[missing.sequence.reading.stand_in.value]} "
        f"for {write_frames(missing.frames)}."
        for missing in planned.missing(frames)
    )


def replaced_notes(planned: Programme, replaced: Iterable[Pick]) -> tuple[str, ...]:
    """Which frames were replaced while they were delivered, a sentence for each source."""
    frames: dict[str, set[int]] = defaultdict(set)
    for pick in replaced:
        frames[pick.source].add(pick.frame)
    return tuple(
        f"{planned.timeline.sources[source].name}: {write_frames(numbers)} "
        f"{'was' if len(numbers) == 1 else 'were'} replaced while the delivery was made: "
        "deliver again to have the new in it."
        for source, numbers in frames.items()
    )
