"""What is heard at each moment of the reel: (timeline, range) to pieces of sounds.

A bound sound belongs to the frames of its shot. Each stretch of frames that are shown one after
the other gives one piece, which begins with its first frame: so the sound is trimmed, moved,
turned and left out with its picture, to the sample.
"""

from __future__ import annotations

from collections.abc import Iterator
from collections.abc import Sequence as Ordered
from dataclasses import dataclass, replace
from fractions import Fraction

from waxseal.core.errors import SoundError
from waxseal.core.job.model import LaidSound, Retimed, Shot, Sound, change
from waxseal.core.plan.sound_notes import layout_notes, sound_notes
from waxseal.core.plan.sound_spans import (
    Span,
    heard_between,
    is_silent,
    origin_of,
    runs_heard,
    sound_at,
    span_of,
)
from waxseal.core.plan.timeline import Part, Timeline
from waxseal.core.sound.layouts import check_channels
from waxseal.core.sound.mix_plan import Ducked, Slope, SoundPiece, SoundPlan
from waxseal.core.timing.ranges import FrameRange

__all__ = ["pieces_of", "sound_plan"]

KEPT_RATES = (44_100, 48_000)  # delivered as they are; every other becomes 48 kHz
MOST_TIMES = 100_000  # that a sound is heard again


def sound_plan(
    timeline: Timeline,
    frames: FrameRange,
    rates: tuple[int, ...] = (),
    *,
    seconds: Fraction | None = None,
    channels: int = 0,
) -> SoundPlan | None:
    """The sound of these reel frames (from 1), to the sample; None if none is heard there.

    rates: the sample rates that its codec takes; empty for any. seconds: how long it lasts,
    where that is not as long as the frames. channels: 0 for as many as its sounds have.
    Raises SoundError for a number of channels that is not delivered.
    """
    job, rate = timeline.job, timeline.rate
    first, stop = Fraction(frames.first - 1) / rate, Fraction(frames.last) / rate
    heard = [one for one in job.reel.sounds if is_heard(timeline, one, frames)]
    if not heard:
        return None
    sounds = [job.sound(one.source) for one in heard]
    for sound in sounds:
        check_channels(sound.channels, sound.name)
    sample_rate = common_rate([one.sample_rate for one in sounds], rates)
    start, end = round(first * sample_rate), round(stop * sample_rate)
    if seconds is not None:
        end = start + round(seconds * sample_rate)
    pieces = [
        piece
        for one in heard
        for piece in pieces_of(timeline, one, sample_rate)
        if piece.at < end and piece.end > start
    ]
    pieces.sort(key=lambda piece: piece.at)
    there = max(one.channels for one in sounds)
    channels = channels or there
    return SoundPlan(
        sample_rate,
        channels,
        start,
        end - start,
        tuple(pieces),
        notes=(
            *sound_notes(timeline, heard, sample_rate, frames),
            *layout_notes(there, channels),
        ),
    )


def is_heard(timeline: Timeline, laid: LaidSound, frames: FrameRange) -> bool:
    """Whether some of a sound may be heard in a range of the reel."""
    if laid.bound:
        part = timeline.part_of(laid.shot)
        return part.first <= frames.last and part.last >= frames.first
    span = span_of(timeline, laid)
    if span is None:
        return False
    is_before_end = span.first * timeline.rate < frames.last
    return is_before_end and span.last * timeline.rate > frames.first - 1


def common_rate(there: Ordered[int], rates: tuple[int, ...]) -> int:
    """The rate that all sounds have, where it can be kept; else 48 kHz."""
    known = set(there)
    only = known.pop() if len(known) == 1 else 0
    return only if only in (rates or KEPT_RATES) else 48_000


def pieces_of(timeline: Timeline, laid: LaidSound, sample_rate: int) -> Iterator[SoundPiece]:
    """Where a sound is heard on the reel, and which of it."""
    sound = timeline.job.sound(laid.source)
    slopes: tuple[Slope, ...] = ()
    if laid.bound:
        part = timeline.part_of(laid.shot)
        is_whole = laid.at == 1 and not laid.head and not laid.tail
        if is_whole and part.is_plain:
            pieces = plain_pieces(part, laid, sound, sample_rate)
        else:
            pieces = bound_pieces(part, laid, sound, sample_rate)
        slopes = tuple(join_slopes(timeline, part, sample_rate))
    else:
        span = span_of(timeline, laid)
        pieces = free_pieces(laid, sound, span, sample_rate) if span is not None else iter(())
    factor = 10 ** (laid.gain / 20) if laid.gain else 1.0
    ducked = Ducked(laid.under, laid.duck) if laid.under and laid.duck else None
    made = list(pieces)
    if not made:
        return
    slopes = (*slopes, *fade_slopes(laid, made[0].at, made[-1].end, sample_rate))
    if factor == 1 and not laid.pan and not slopes and ducked is None:
        yield from made
        return
    for piece in made:
        yield replace(piece, gain=factor, pan=laid.pan, slopes=slopes, ducked=ducked)


def free_pieces(laid: LaidSound, sound: Sound, span: Span, rate: int) -> Iterator[SoundPiece]:
    low, high = round(laid.head * rate), round((sound.seconds - laid.tail) * rate)
    at, end = round(span.first * rate), round(span.last * rate)
    if high <= low:
        return
    if end - at > MOST_TIMES * (high - low):
        raise SoundError(
            f"{sound.name} is too short to be heard again and again: lay a longer one."
        )
    for begins in range(at, end, high - low):
        yield SoundPiece(laid.id, sound, begins, min(high - low, end - begins), low)


def plain_pieces(part: Part, laid: LaidSound, sound: Sound, rate: int) -> Iterator[SoundPiece]:
    """The same as `bound_pieces` in whole numbers, for most sounds of a reel of thousands."""
    at, end = sample_at(part.first - 1, part.rate, rate), sample_at(part.last, part.rate, rate)
    shown = part.frames[0] - origin_of(part.sequence)
    shift = sample_at(shown - (part.first - 1), part.rate, rate)
    at, end = max(at, -shift), min(end, heard_samples(sound, rate) - shift)
    if end > at:
        yield SoundPiece(laid.id, sound, at, end - at, at + shift)


def sample_at(frames: int, rate: Fraction, sample_rate: int) -> int:
    """The same as `round(frames * sample_rate / rate)`, many times as fast."""
    whole, rest = divmod(frames * sample_rate * rate.denominator, rate.numerator)
    half = 2 * rest - rate.numerator
    return whole + (half > 0 or (half == 0 and whole % 2))


def heard_samples(sound: Sound, rate: int) -> int:
    """How many samples a sound has at a rate."""
    if sound.speed == 1:
        return sound.samples if sound.sample_rate == rate else round(sound.seconds * rate)
    return round(sound.seconds * rate)


def bound_pieces(part: Part, laid: LaidSound, sound: Sound, rate: int) -> Iterator[SoundPiece]:
    """One for each run of its frames that can be heard."""
    reading = part.sequence.reading.rate.value
    start, end = heard_between(part)
    runs = list(runs_heard(part))
    for number, (run, speed) in enumerate(runs):
        if is_silent(laid, run, speed):
            continue
        at = start + Fraction(run.index) / part.speed
        until = start + Fraction(run.index + run.length) / part.speed
        until = end if number == len(runs) - 1 else min(until, end)
        piece = SoundPiece(laid.id, sound, 0, 0, is_backwards=run.step < 0, speed=speed)
        of = sound_at(part.sequence, laid, run.lowest)
        moment = SoundMoment(
            at, until, of, of + run.count / reading, laid.head, sound.seconds - laid.tail
        )
        if speed == 1:
            made = as_it_is(piece, moment, rate)
        elif laid.retimed is Retimed.PITCH:
            made = pitch_kept(piece, moment, rate)
        else:
            made = as_it_is(with_speed(piece), moment.times(speed), rate)
        if made.count > 0:
            yield made


@dataclass(frozen=True, slots=True)
class SoundMoment:
    """When frames are shown and what of their sound belongs to them, in seconds.

    at, until: of the reel. of, to: of the sound. low, high: what of the sound is kept.
    """

    at: Fraction
    until: Fraction
    of: Fraction
    to: Fraction
    low: Fraction
    high: Fraction

    def times(self, speed: Fraction) -> SoundMoment:
        """The same of a sound that is heard so many times as fast."""
        of, to, low, high = (one / speed for one in (self.of, self.to, self.low, self.high))
        return SoundMoment(self.at, self.until, of, to, low, high)


def with_speed(piece: SoundPiece) -> SoundPiece:
    faster = change(piece.sound, speed=piece.sound.speed * piece.speed)
    return replace(piece, sound=faster, speed=Fraction(1))


def as_it_is(piece: SoundPiece, moment: SoundMoment, rate: int) -> SoundPiece:
    """The samples one by one: which of them is heard depends on nothing but the distance
    from sound to picture, so that shots that are split go on without a seam.
    """
    at, end = round(moment.at * rate), round(moment.until * rate)
    low, high = round(moment.low * rate), round(moment.high * rate)
    if piece.is_backwards:
        mirror = round((moment.to + moment.at) * rate) - 1  # a sample and its place add up to it
        at, end = max(at, mirror - high + 1), min(end, mirror - low + 1)
        return replace(piece, at=at, count=end - at, head=mirror - at)
    shift = round((moment.of - moment.at) * rate)
    at, end = max(at, low - shift), min(end, high - shift)
    return replace(piece, at=at, count=end - at, head=at + shift)


def pitch_kept(piece: SoundPiece, moment: SoundMoment, rate: int) -> SoundPiece:
    """The whole run at another speed."""
    of, to = max(moment.of, moment.low), min(moment.to, moment.high)
    late = moment.to - to if piece.is_backwards else of - moment.of
    at = moment.at + late / piece.speed
    until = min(moment.until, at + (to - of) / piece.speed)
    run = (round(of * rate), round(to * rate))
    return replace(
        piece, at=round(at * rate), count=round(until * rate) - round(at * rate), run=run
    )


def join_slopes(timeline: Timeline, part: Part, rate: int) -> Iterator[Slope]:
    """Both sounds of a dissolve cross at equal power, over its frames."""
    if not isinstance(part.laid, Shot) or not timeline.has_joins:
        return
    number = timeline.number_of(part.laid.id)
    own = timeline.joins[number]
    following = timeline.joins[number + 1] if number + 1 < len(timeline.joins) else None

    def sample(frame: int) -> int:
        return round((frame - 1) * rate / timeline.rate)

    if own is not None and own.overlaps:
        first = sample(part.first)
        yield Slope(first, sample(part.first + own.after) - first, rises=True)
    if following is not None and following.overlaps:
        first = sample(part.last + 1 - following.before)
        yield Slope(first, sample(part.last + 1) - first, rises=False)


def fade_slopes(laid: LaidSound, at: int, end: int, rate: int) -> Iterator[Slope]:
    rise, fall = (round(one.seconds * rate) for one in (laid.fade_in, laid.fade_out))
    if rise:
        yield Slope(at, rise, rises=True, curve=laid.fade_in.curve)
    if fall:
        yield Slope(end - fall, fall, rises=False, curve=laid.fade_out.curve)
