"""What a listener should know of the reel's sounds, in sentences."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction

from waxseal.core.job.model import LaidSound, Retimed
from waxseal.core.plan.sound_spans import is_silent, origin_of, runs_heard, span_of
from waxseal.core.plan.timeline import Part, Timeline
from waxseal.core.sound.layouts import LAYOUTS
from waxseal.core.text_format import names_words
from waxseal.core.timing.frame_runs import Run
from waxseal.core.timing.ranges import FrameRange

__all__ = ["layout_notes", "place_words", "sound_notes"]

Template = tuple[str, str]  # of one sound, of several; {who} are their names


def sound_notes(
    timeline: Timeline, laid: Sequence[LaidSound], sample_rate: int, frames: FrameRange
) -> Iterator[str]:
    """Each sentence once, for all that it is true of. laid: those heard in `frames`."""
    names: dict[Template, list[str]] = {}
    for one in laid:
        name = timeline.job.sound(one.source).name
        for template in templates_of(timeline, one, sample_rate):
            told = names.setdefault(template, [])
            if name not in told:
                told.append(name)
    is_only = len({one.source for one in laid}) == 1
    for (one_words, many_words), told in names.items():
        who = "The sound" if is_only else names_words(told)
        yield (one_words if len(told) == 1 else many_words).format(who=who)
    yield from length_notes(timeline, laid, frames, is_only=is_only)


def layout_notes(there: int, channels: int) -> Iterator[str]:
    """What is made of the layout of channels."""
    if channels != there:
        how = "mixed down" if channels < there else "spread"
        yield f"The sound is {how} from {LAYOUTS[there]} to {LAYOUTS[channels]}."


def place_words(timeline: Timeline, laid: LaidSound) -> str:
    """Where a sound is and how loud; empty for one from the reel's start as it is."""
    job = timeline.job
    name = job.sound(laid.source).name
    at = f"{float(laid.at):.3f}".rstrip("0").rstrip(".")
    if laid.bound:
        where = f"with {timeline.part_of(laid.shot).sequence.name}"
    elif laid.shot:
        where = f"from frame {at} of {timeline.part_of(laid.shot).sequence.name}"
    else:
        where = f"from frame {at}" if laid.at != 1 else ""
    gain = f"{laid.gain:+g} dB".replace("-", "−") if laid.gain else ""
    under = None
    if laid.under:
        under = next((one for one in job.reel.sounds if one.id == laid.under), None)
    ducks = f"under {job.sound(under.source).name}" if under is not None else ""
    said = ", ".join(one for one in (where, gain, ducks) if one)
    return f"{name} {said}" if said else ""


def templates_of(timeline: Timeline, laid: LaidSound, sample_rate: int) -> Iterator[Template]:
    sound = timeline.job.sound(laid.source)
    if sound.damage:
        yield (
            f"{{who}} is not whole: {sound.damage}. It is used all the same.",
            f"{{who}} are not whole: {sound.damage}. They are used all the same.",
        )
    if sound.speed != 1:
        words = "faster" if sound.speed > 1 else "slower"
        more = f"{abs(float(sound.speed) - 1):.2%} {words}"
        yield (
            f"{{who}} runs {more}, as its frames do.",
            f"{{who}} run {more}, as their frames do.",
        )
    if sound.sample_rate != sample_rate:
        how = f"resampled from {sound.sample_rate} Hz to {sample_rate} Hz"
        yield f"{{who}} is {how}.", f"{{who}} are {how}."
    if laid.bound:
        yield from follows(timeline, laid)


def follows(timeline: Timeline, laid: LaidSound) -> Iterator[Template]:
    """What a bound sound does with its frames."""
    part = timeline.part_of(laid.shot)
    runs = list(runs_heard(part))
    if part.is_plain:
        yield from ends(timeline, laid, part, runs)
        return
    if any(run.step == 0 for run, _ in runs):
        yield ("{who} is silent while a frame is held.", "{who} are silent while a frame is held.")
    if any(run.step < 0 for run, _ in runs):
        if laid.turned:
            yield (
                "{who} is heard backwards, as its frames are shown.",
                "{who} are heard backwards, as their frames are shown.",
            )
        else:
            yield (
                "{who} is left out where its frames run backwards.",
                "{who} are left out where their frames run backwards.",
            )
    for speed in dict.fromkeys(speed for run, speed in runs if speed != 1 and run.step):
        at = f"{float(speed):.4%}".rstrip("%").rstrip("0").rstrip(".") + " %"
        if laid.retimed is Retimed.OUT:
            yield (
                f"{{who}} is left out: its frames are shown at {at} of their speed.",
                f"{{who}} are left out: their frames are shown at {at} of their speed.",
            )
            continue
        pitch = "kept" if laid.retimed is Retimed.PITCH else "changed with it"
        yield (
            f"{{who}} runs at {at} of its speed, as its frames do, its pitch {pitch}.",
            f"{{who}} run at {at} of their speed, as their frames do, their pitch {pitch}.",
        )
    yield from ends(timeline, laid, part, runs)


def ends(
    timeline: Timeline, laid: LaidSound, part: Part, runs: Sequence[tuple[Run, Fraction]]
) -> Iterator[Template]:
    """Whether a bound sound is longer or shorter than its frames, by half a frame or more."""
    sound = timeline.job.sound(laid.source)
    reading = float(part.sequence.reading.rate.value)
    there = sound.samples / float(sound.heard_rate) - float(laid.tail)
    begins = float(laid.head) - float(laid.at - 1) / reading
    origin, last = origin_of(part.sequence), part.sequence.whole_range.last
    wanted = max(
        (
            begins + (run.lowest - origin + run.count) / reading
            for run, speed in runs
            if not is_silent(laid, run, speed)
        ),
        default=0.0,
    )
    more = there - begins - (last + 1 - origin) / reading
    if more * reading * 2 > 1 and any(run.shows(last) for run, _ in runs):
        yield (
            f"{{who}} is {float(more):.3f} s longer than its frames: its tail is cut.",
            f"{{who}} are {float(more):.3f} s longer than their frames: their tails are cut.",
        )
    less = wanted - there
    if less * reading * 2 > 1:
        yield (
            f"{{who}} is {float(less):.3f} s shorter than its frames: silence follows.",
            f"{{who}} are {float(less):.3f} s shorter than their frames: silence follows.",
        )


def length_notes(
    timeline: Timeline, laid: Sequence[LaidSound], frames: FrameRange, *, is_only: bool
) -> Iterator[str]:
    """What the end of the range cuts off free sounds, and how long it is silent there."""
    end = Fraction(frames.last) / timeline.rate
    silent_from = Fraction(0)
    free = [one for one in laid if not one.bound]
    for one in free:
        span = span_of(timeline, one)
        if span is None:
            continue
        silent_from = max(silent_from, span.last)
        over = span.first + span.whole - end
        if not one.loops and over > 0:
            who = "The sound" if is_only else timeline.job.sound(one.source).name
            yield f"{who} is {float(over):.3f} s longer: its tail is cut."
    if len(free) == len(laid) and silent_from < end:
        less = float(end - silent_from)
        if len(laid) == 1:
            yield f"The sound is {less:.3f} s shorter: silence follows to the end."
        else:
            yield f"The sounds end {less:.3f} s before the picture: silence follows to the end."
