"""What of a source is another than the reel's, and what follows from it, in sentences."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from waxseal.core.job.model import Job, Origin, Sequence, Sound
from waxseal.core.job.pass_mismatches import misfits
from waxseal.core.job.soundtracks import frames_of, rate_by_sound
from waxseal.core.timing.ranges import write_frames
from waxseal.core.timing.rate_matching import conversion_words
from waxseal.core.timing.rates import rate_words

__all__ = ["reel_differences", "sound_against"]


def reel_differences(job: Job, source: Sequence) -> tuple[str, ...]:
    """Also what does not fit in stacks. Empty where all is as the reel and the stacks need it."""
    against_reel = differences(job, source) if job.reel.shots else ()
    return (*against_reel, *stack_differences(job, source))


def stack_differences(job: Job, source: Sequence) -> Iterator[str]:
    for odd in misfits(job).values():
        if source.id in (odd.sequence.id, odd.stack.id):
            yield (
                f"{odd.sequence.name} {write_frames(odd.frames)} is {odd.why}: render it again, "
                "or leave it out of the stack."
            )


def differences(job: Job, source: Sequence) -> Iterator[str]:
    rate, reel_rate = source.reading.rate.value, job.reel_rate
    if source.kind != "still" and rate != reel_rate:
        words = conversion_words(rate, reel_rate, source.range.count)
        yield f"The reel runs at {rate_words(reel_rate)}: {words}."
    size, reel_size = source.shown_size, job.reel_size
    if source.found.format and size != reel_size:
        shape = "" if size == source.found.size else f" shown as {size}"
        yield f"The reel is {reel_size}, this {source.found.size}{shape}."


def sound_against(job: Job, sound: Sound) -> str:
    """How long a sound is beside the frames that it belongs to; empty where there are none."""
    frames = frames_of(job, sound)
    if frames is None:
        return ""
    rate = frames.reading.rate.value
    fitting = rate_by_sound(frames, sound)
    if fitting == rate and frames.reading.rate.origin is Origin.GUESS:
        return f"as long as {frames.name} at {rate_words(rate)}"
    more = sound.seconds - Fraction(frames.range.count) / rate
    if abs(more) < 1 / rate / 2:
        return f"as long as {frames.name}"
    words = "longer" if more > 0 else "shorter"
    return f"{float(abs(more)):.2f} s {words} than {frames.name}"
