"""A sound on the reel lined up with its picture: its claps with the flashes of what is shown."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

from waxseal.core.arrive.decode_check import lights_of
from waxseal.core.arrive.measure_cache import MeasureCache
from waxseal.core.job.model import LaidSound
from waxseal.core.plan.sound_spans import sound_at
from waxseal.core.plan.timeline import Part, Timeline
from waxseal.core.progress import CancelToken
from waxseal.core.sound.clap_finder import ClapsAndFlashes, claps_in, flashes_in, lined_up
from waxseal.core.sound.sample_types import Samples
from waxseal.core.sound.sound_files import read_blocks

__all__ = ["line_up", "line_up_words"]


def line_up(
    timeline: Timeline, laid: LaidSound, memory: MeasureCache | None, token: CancelToken
) -> ClapsAndFlashes:
    """How far a sound is behind the picture where it lies now, in seconds of the reel.

    memory: of frames that have been looked at closely; the others are decoded.
    Raises SoundError, Cancelled.
    """
    sound = timeline.job.sound(laid.source)
    blocks = read_blocks(Path(sound.path), start=0, block=sound.sample_rate)
    there = claps_in(checked(blocks, token), sound.sample_rate)
    begins = begins_of(timeline, laid)
    claps = [float(begins) + one / float(sound.speed) for one in there]
    parts = [timeline.part_of(laid.shot)] if laid.shot else list(timeline.shots)
    lights: dict[str, dict[int, float]] = {}
    for part in parts:
        if part.sequence.id not in lights:
            lights[part.sequence.id] = lights_of(part.sequence, memory=memory, token=token)
    flashes = sorted(one for part in parts for one in flashes_of(part, lights[part.sequence.id]))
    return lined_up(claps, flashes)


def checked(blocks: Iterator[Samples], token: CancelToken) -> Iterator[Samples]:
    for block in blocks:
        token.check()
        yield block


def begins_of(timeline: Timeline, laid: LaidSound) -> Fraction:
    """The second of the reel at which the first sample of a sound is heard, or would be."""
    if laid.bound:
        part = timeline.part_of(laid.shot)
        start = Fraction(part.first - 1) / timeline.rate
        return start - sound_at(part.sequence, laid, part.frames[0])
    before = timeline.part_of(laid.shot).first - 1 if laid.shot else 0
    return (before + laid.at - 1) / timeline.rate - laid.head


def flashes_of(part: Part, lights: dict[int, float]) -> Iterator[float]:
    """The seconds of the reel at which a shot flashes. lights: of its source's frames."""
    frames = sorted(lights)
    for place in flashes_in([lights[frame] for frame in frames]):
        shown = part.where(frames[place])
        if shown is not None:
            yield float(Fraction(shown - 1) / part.rate)


def line_up_words(found: ClapsAndFlashes, rate: Fraction) -> str:
    """What was found, in a sentence."""
    if not found.claps:
        return "No clap is in the sound: line it up by eye and by ear."
    if not found.flashes:
        return "Nothing flashes in the picture: line it up by eye and by ear."
    if found.late is None:
        return "No clap is near a flash: bring them within a second of each other first."
    frames = abs(found.late) * float(rate)
    side = "earlier" if found.late > 0 else "later"
    return f"It is now heard {frames:.2f} frames {side}: its clap is with the flash."
