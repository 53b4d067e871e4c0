"""The rows of frames, rate and length."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from fractions import Fraction

from waxseal.core.deliver.containers import Container
from waxseal.core.deliver.format.delivery_settings import stretch_of
from waxseal.core.deliver.match.match_row import Matched, Row, State, first_of, joined, listed
from waxseal.core.errors import WrongUse
from waxseal.core.job.frame_states import FrameState
from waxseal.core.job.model import Delivery, Health, Origin, Sequence
from waxseal.core.job.pass_mismatches import Misfit, misfits
from waxseal.core.job.sources import sparse_sentence
from waxseal.core.plan.join_spans import joins_words
from waxseal.core.plan.needed_frames import Missing
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.timeline import Timeline
from waxseal.core.text_format import counted, names_words, plain
from waxseal.core.timing.parse_length import parse_frames
from waxseal.core.timing.ranges import write_frames
from waxseal.core.timing.rate_matching import conversion_words
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import Counting, seconds_words, to_timecode

__all__ = [
    "frames",
    "guessed_part_sentence",
    "has_guessed_rate",
    "length",
    "rate",
    "sources_lacking",
]


def frames(m: Matched) -> Row:
    reel, shown = m.stretch.reel, m.expected.frames
    there = sum(len(part.frames_asked(reel.first, reel.last)) for part in m.parts)
    done, state = [], State.SAME
    if reel.count < m.timeline.length:
        done.append(f"frames {reel} of {m.timeline.length}")
    words = conversion_words(m.stretch.reel_rate, m.stretch.rate, reel.count)
    if words:
        done.append(words)
    if done or there != reel.count:
        state = State.CHANGED
    if there != reel.count and not words:
        done.append(f"{there} source frames become {reel.count}")
    done += joins_words(m.timeline.joins_in(reel))
    mixed = [one for one in m.timeline.used_sequences if one.health is Health.MIXED]
    notes = tuple(f"{one.name} is mixed: {one.findings[0].what}." for one in mixed)
    guessed = [one for one in m.timeline.used_sequences if one.is_part_guessed]
    notes += tuple(map(guessed_part_sentence, guessed))
    done += [f"which picture of {one.name} is shown is a guess" for one in guessed]
    notes += tuple(
        short_join_words(m.timeline, number)
        for number in m.timeline.short_joins
        if m.timeline.shots[number].first in reel
    )
    reasons = (*sparse_reasons(m), *missing_reasons(m))
    if reasons or guessed:
        state = State.DECIDE
    sources, words = counted(there, "frame"), joined(", ".join(done), *reasons)
    own = {part.sequence.reading.rate.value for part in m.parts if part.sequence.kind != "still"}
    to_reel = f"to {rate_words(m.timeline.rate)}" if own - {m.timeline.rate} else ""
    to_file = "" if m.stretch.rate == m.stretch.reel_rate else f"to {rate_words(m.stretch.rate)}"
    return Row(
        *("frames", sources, f"{reel.count}", f"{shown}", words, state),
        notes,
        reasons,
        to_reel=to_reel,
        to_file=to_file,
    )


def guessed_part_sentence(source: Sequence) -> str:
    """What is shown of files in which several can be the picture, or none."""
    told = source.reading.part
    names = names_words([part.name or "the one without a name" for part in source.found.parts])
    return f"{source.name} holds {names}: {told.why}. “{told.value}” is shown; that is a guess."


def short_join_words(timeline: Timeline, number: int) -> str:
    part, join = timeline.shots[number], timeline.job.reel.shots[number].join
    what = f"The {join.kind} before shot {number + 1}, {part.sequence.name},"
    room = timeline.join_length(number)
    if not room:
        return f"{what} is a cut: one of the shots is too short."
    return (
        f"{what} is {counted(room, 'frame')} long "
        f"in place of {join.length}: the shots are too short for more."
    )


def missing_reasons(m: Matched) -> tuple[str, ...]:
    """A sentence for each source with frames that are not there and may not be stood in for."""
    odd = misfits(m.timeline.job)
    return tuple(
        apart_sentence(missing)
        if missing.is_apart and not missing.sequence.is_moved
        else missing_sentence(missing.sequence, missing.frames, odd.get(missing.sequence.id))
        for missing in m.planned.missing(m.stretch.reel)
        if not missing.is_stood_in
    )


def sources_lacking(planned: Programme, delivery: Delivery) -> tuple[str, ...]:
    """The ids of sources with frames missing that something could stand in for. Raises JobError."""
    reel = stretch_of(planned.timeline, delivery).reel
    return tuple(
        one.sequence.id
        for one in planned.missing(reel)
        if not one.is_stood_in and not one.sequence.is_moved
    )


def sparse_reasons(m: Matched) -> Iterator[str]:
    """Sources of which so little is there that their range is asked about."""
    for one in m.timeline.used_sequences:
        if one.is_sparse:
            yield sparse_sentence(one)


def apart_sentence(missing: Missing) -> str:
    """Of what belongs to a picture and has other numbers than it."""
    sequence, asked = missing.sequence, missing.frames
    return (
        f"{sequence.full_name} has {write_frames(sequence.files.range)}, and {write_frames(asked)} "
        f"{'is' if len(asked) == 1 else 'are'} asked for: none of its frames belongs to the "
        "picture. Render it with the picture's numbers, or choose a stand-in."
    )


def missing_sentence(
    sequence: Sequence, frames: frozenset[int], misfit: Misfit | None = None
) -> str:
    """misfit: those of its frames that do not fit the stack that they are a pass of."""
    states = sequence.unusable
    if FrameState.LOST in states:
        return (
            f"{sequence.full_name} is lost: it is not where it was, "
            f"{plain(sequence.files.folder)}. Find its files elsewhere, or bring them back."
        )
    told = {  # the runs of what is missing may stand for millions
        state: frozenset(frame for frame in frames if frame in runs)
        for state, runs in states.items()
        if state is not FrameState.MISSING
    }
    known = frozenset[int]().union(*told.values())
    odd = frames & misfit.frames - known if misfit is not None else frozenset[int]()
    gone = frames - known - odd
    parts = [
        f"{write_frames(those)} {'is' if len(those) == 1 else 'are'} {state}"
        for state, those in ((FrameState.MISSING, gone), *told.items())
        if those
    ]
    if odd and misfit is not None:
        parts.append(f"{write_frames(odd)} {'is' if len(odd) == 1 else 'are'} {misfit.why}")
    if frames == told.get(FrameState.NOT_READ):
        act = "convert"
    else:
        act = "wait for" if frames == told.get(FrameState.ARRIVING) else "render"
    again = " again" if act == "render" else ""
    return (
        f"{counted(len(frames), 'frame')} of {sequence.full_name} cannot be used "
        f"({', '.join(parts)}): {act} {'it' if len(frames) == 1 else 'them'}{again}, "
        "or choose a stand-in."
    )


def rate(m: Matched) -> Row:
    moving = [part for part in m.parts if part.sequence.kind != "still"]
    rates = [part.sequence.reading.rate.value for part in moving]
    done = []
    for part in moving:
        own = part.sequence.reading.rate.value * part.laid.timing.speed
        words = conversion_words(own, m.timeline.rate, len(part.frames))
        if words:
            done.append(f"{part.sequence.name} {words}")
    notes = []
    again = conversion_words(m.stretch.reel_rate, m.stretch.rate, m.stretch.reel.count)
    if again:
        done.append(f"the reel {again}")
        both = f"{rate_words(m.stretch.reel_rate)} → {rate_words(m.stretch.rate)}"
        notes.append(f"The reel is shown at another rate, {both}: {again}.")
    state = State.CHANGED if done else State.SAME
    laid = [part.sequence for part in (*m.parts, *m.overlays)]
    guessed = {one.id: one for one in laid if has_guessed_rate(one)}.values()
    if guessed:
        done.append(f"the rate of {listed(one.name for one in guessed)} is a guess")
        state = State.DECIDE
    for one in guessed:
        notes.append(f"The rate of {one.name} is a guess: {rate_words(one.reading.rate.value)}.")
    troubles = (
        m.container.rate_trouble(m.expected.rate),
        timecode_trouble(m.timeline, m.delivery, m.container),
    )
    reasons = tuple(one for one in troubles if one)
    return Row(
        "rate",
        listed(rate_words(one) for one in rates) or "stills",
        rate_words(m.timeline.rate),
        rate_words(m.expected.rate),
        first_of([*done, *reasons]),
        State.DECIDE if reasons else state,
        tuple(notes),
        reasons,
    )


def has_guessed_rate(source: Sequence) -> bool:
    """Whether a source plays at a rate that nobody has said."""
    return source.kind != "still" and source.reading.rate.origin is Origin.GUESS


def timecode_trouble(timeline: Timeline, delivery: Delivery, container: Container) -> str:
    """Why a file cannot begin with a timecode; empty where it can, or need not."""
    text = delivery.timecode
    if not text:
        return ""
    if not container.has_timecode:
        return f"{container.name} carries no timecode: leave it out."
    rate = delivery.rate or timeline.rate
    try:
        frame = parse_frames(text, rate)
    except WrongUse as error:
        return str(error)
    counting = Counting.DROP if ";" in text else Counting.NON_DROP
    if to_timecode(frame, rate, counting) != text:
        return f"There is no timecode {text} at {rate_words(rate)} fps: choose another."
    return ""


def length(m: Matched) -> Row:
    counts: Counter[Fraction] = Counter()
    for part in m.parts:
        counts[part.sequence.reading.rate.value] += len(part.frames)
    seconds = sum((Fraction(count) / rate for rate, count in counts.items()), Fraction(0))
    there = m.stretch.reel.count / m.stretch.reel_rate
    file = m.expected.frames / m.expected.rate
    return Row(
        "length",
        f"{float(seconds):.3f} s",
        seconds_words(m.stretch.reel.count, m.stretch.reel_rate),
        seconds_words(m.expected.frames, m.expected.rate),
        "" if file == there else f"{float(file - there):+.3f} s: whole frames",
        State.SAME if file == there else State.CHANGED,
    )
