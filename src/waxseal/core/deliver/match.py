"""The match table of a delivery: what the sources are, what the reel is, what the file will be.

Row by row, from the timeline and the delivery, and in words what is done in between.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from fractions import Fraction

from waxseal.core.deliver.codecs import Codec, codec_named
from waxseal.core.deliver.codecs.levels import least_level
from waxseal.core.deliver.containers import Container
from waxseal.core.deliver.naming import container_of
from waxseal.core.deliver.settings import bytes_of, has_subjects, sound_of, stretch_of, target_of
from waxseal.core.errors import SoundError
from waxseal.core.job.model import (
    Alpha,
    Bitrate,
    Colour,
    Delivery,
    Origin,
    Sequence,
    Size,
    colour_words,
)
from waxseal.core.picture.framing import framing_words, is_framed_whole
from waxseal.core.plan.film import Stretch
from waxseal.core.plan.recipe import MIDDLE
from waxseal.core.plan.timeline import Part, Timeline
from waxseal.core.sound.timeline import SoundPlan
from waxseal.core.timing.matching import conversion_words
from waxseal.core.timing.rates import rate_words
from waxseal.core.timing.timecode import seconds_words
from waxseal.core.words import bytes_words, counted, names_words, numbered

__all__ = ["Row", "State", "has_guessed_rate", "match"]

MOST_NAMED = 3  # shots that a row speaks of one by one


class State(StrEnum):
    SAME = "same"
    CHANGED = "changed"
    DECIDE = "needs a decision"
    LOST = "lost"


@dataclass(frozen=True, slots=True)
class Row:
    """what: the name of the row. done: what is done on the way, in words; empty for nothing."""

    what: str
    sources: str
    reel: str
    file: str
    done: str = ""
    state: State = State.SAME


@dataclass(frozen=True, slots=True)
class Matched:
    """What the rows are made from."""

    timeline: Timeline
    delivery: Delivery
    codec: Codec
    container: Container
    stretch: Stretch

    @property
    def parts(self) -> tuple[Part, ...]:
        """The shots that the delivery shows."""
        shown = self.stretch.reel
        return tuple(
            part
            for part in self.timeline.shots
            if part.first <= shown.last and part.last >= shown.first
        )

    @property
    def sources(self) -> tuple[Sequence, ...]:
        return tuple({part.sequence.id: part.sequence for part in self.parts}.values())

    @property
    def size(self) -> Size:
        width, height = target_of(self.timeline.size, self.delivery).stored_size
        return Size(width=width, height=height)


def match(timeline: Timeline, delivery: Delivery) -> tuple[Row, ...]:
    """The rows of a delivery. Raises JobError for settings that make no file."""
    codec, stretch = codec_named(delivery.codec), stretch_of(timeline, delivery)
    matched = Matched(timeline, delivery, codec, container_of(delivery), stretch)
    return tuple(row(matched) for row in ROWS)


def listed(words: Iterable[str]) -> str:
    """Each once, and how many more there are."""
    return names_words(list(dict.fromkeys(words)))


# ---- the rows --------------------------------------------------------------------------------


def frames(m: Matched) -> Row:
    there = sum(
        len(part.frames_asked(m.stretch.reel.first, m.stretch.reel.last)) for part in m.parts
    )
    done, state = [], State.SAME
    if m.stretch.reel.count < m.timeline.length:
        done.append(f"frames {m.stretch.reel} of {m.timeline.length}")
    words = conversion_words(m.stretch.reel_rate, m.stretch.rate, m.stretch.reel.count)
    if words:
        done.append(words)
    if done or there != m.stretch.reel.count:
        state = State.CHANGED
    if there != m.stretch.reel.count and not words:
        done.append(f"{there} of the sources' frames make {m.stretch.reel.count}")
    sources = counted(there, "frame")
    return Row(
        *("frames", sources, f"{m.stretch.reel.count}", f"{m.stretch.shown.count}"),
        ", ".join(done),
        state,
    )


def rate(m: Matched) -> Row:
    moving = [part for part in m.parts if part.sequence.kind != "still"]
    rates = [part.sequence.reading.rate for part in moving]
    done = []
    for part in moving:
        own = part.sequence.reading.rate.value * part.laid.timing.speed
        words = conversion_words(own, m.timeline.rate, len(part.frames))
        if words:
            done.append(f"{part.sequence.name} {words}")
    again = conversion_words(m.stretch.reel_rate, m.stretch.rate, m.stretch.reel.count)
    if again:
        done.append(f"the reel {again}")
    state = State.CHANGED if done else State.SAME
    guessed = [part.sequence.name for part in moving if has_guessed_rate(part.sequence)]
    if guessed:
        done.append(f"the rate of {listed(guessed)} is a guess")
        state = State.DECIDE
    return Row(
        "rate",
        listed(rate_words(one.value) for one in rates) or "stills",
        rate_words(m.timeline.rate),
        rate_words(m.stretch.rate),
        first_of(done),
        state,
    )


def has_guessed_rate(source: Sequence) -> bool:
    """Whether a source plays at a rate that nobody has said."""
    return source.kind != "still" and source.reading.rate.origin is Origin.GUESS


def size(m: Matched) -> Row:
    done = []
    reel, frame = m.timeline.size, m.delivery.size or m.timeline.size
    for part in m.parts:
        shape = (part.sequence.shown_size.width, part.sequence.shown_size.height)
        whole = (reel.width, reel.height)
        framing, placing = part.laid.framing, part.laid.placing
        if shape != whole or not is_framed_whole(shape, whole, framing, placing):
            done.append(f"{part.sequence.name} {framing_words(shape, whole, framing, placing)}")
    if frame != reel:
        words = framing_words(
            (reel.width, reel.height), (frame.width, frame.height), m.delivery.framing
        )
        done.append(f"the reel {words}{subject_words(m)}")
    if m.size != frame:
        done.append("the codec needs even sides")
    return Row(
        "size",
        listed(str(one.shown_size) for one in m.sources),
        str(reel),
        str(m.size),
        first_of(done),
        State.CHANGED if done else State.SAME,
    )


def subject_words(m: Matched) -> str:
    """Which shots say themselves what is kept of them."""
    if not has_subjects(m.delivery):
        return ""
    own = [one for one in m.timeline.job.reel.shots if one.subject != MIDDLE]
    count = len(m.timeline.job.reel.shots)
    return f"; what is kept is chosen for {len(own)} of {counted(count, 'shot')}" if own else ""


def pixel_shape(m: Matched) -> Row:
    shapes = [one.reading.pixel_shape.value for one in m.sources]
    is_odd = any(one != 1 for one in shapes)
    return Row(
        "pixel shape",
        listed(shape_words(one) for one in shapes) or "1",
        "1",
        "1",
        "made square" if is_odd else "",
        State.CHANGED if is_odd else State.SAME,
    )


def shape_words(shape: Fraction) -> str:
    return f"{float(shape):.4g}"


def colour(m: Matched) -> Row:
    way, delivery = m.timeline.job.reel.colour, m.delivery
    target = target_of(m.timeline.size, delivery)
    bits = "half float" if not m.codec.takes_codes else f"{target.layout.depth} bits"
    done = [] if not m.codec.takes_codes else [f"view {way.view}"]
    if delivery.lut:
        done.append("through a LUT" if m.codec.takes_codes else "the LUT is left out")
    if delivery.dither:
        done.append("dithered")
    if delivery.mastering:
        done.append(f"said to be judged on {delivery.mastering}")
    own = delivery.space.value if m.codec.takes_codes else f"scene-linear {way.working}"
    is_same = all(source_colour(one) == own for one in m.sources)
    return Row(
        "colour",
        listed(source_colour(one) for one in m.sources),
        f"{way.working}",
        f"{own}, {bits}",
        ", ".join(done) if not is_same or delivery.lut else "",
        State.SAME if is_same and not delivery.lut else State.CHANGED,
    )


def source_colour(source: Sequence) -> str:
    reading = source.reading
    if reading.colour.value is Colour.OWN:
        return reading.space.value
    return colour_words(reading.colour.value, reading.chromaticities.value)


def alpha(m: Matched) -> Row:
    reel = m.timeline.job.reel
    clear = [one for one in m.sources if one.reading.alpha.value is not Alpha.NONE]
    sources = listed(f"{one.reading.alpha.value}" for one in clear) or "none"
    kept = m.delivery.alpha
    if kept is not Alpha.NONE:
        is_same = all(one.reading.alpha.value is kept for one in clear) and bool(clear)
        done = "" if is_same else f"made {kept}" if clear else "opaque everywhere"
        state = State.SAME if is_same else State.CHANGED
        if reel.behind:
            out = "the picture behind is left out"
            done, state = f"{done}; {out}" if done else out, State.CHANGED
        return with_guess(Row("alpha", sources, "kept", f"{kept}", done, state), clear)
    if not clear:
        return Row("alpha", sources, "none", "none")
    if reel.behind:
        done = "laid over what is behind"
        row = Row("alpha", sources, "over a picture", "none", done, State.CHANGED)
        return with_guess(row, clear)
    ground = f"the ground, {reel.ground}"
    why = "" if m.codec.alphas else f": {m.codec.name} carries none"
    done = f"what is clear shows {ground}{why}"
    return Row("alpha", sources, ground, "none", done, State.LOST)


def with_guess(row: Row, clear: list[Sequence]) -> Row:
    """A row of alpha where how it is read is a guess: somebody has to look."""
    guessed = [one.name for one in clear if one.reading.alpha.origin is Origin.GUESS]
    if not guessed:
        return row
    words = f"how the alpha of {listed(guessed)} is read is a guess"
    done = f"{row.done}; {words}" if row.done else words
    return replace(row, done=done, state=State.DECIDE)


def sound(m: Matched) -> Row:
    job = m.timeline.job
    laid = [job.sound(one.source) for one in job.reel.sounds]
    if not laid:
        return Row("sound", "none", "none", "none")
    words = listed(f"{one.name} {hertz(one.sample_rate)}" for one in laid)
    codec = m.container.sound_codec(m.delivery.sound_codec)
    if codec is None:
        done = f"{m.container.name} carries no sound"
        return Row("sound", words, counted(len(laid), "sound"), "none", done, State.LOST)
    try:
        plan = sound_of(m.timeline, m.delivery)
    except SoundError as error:
        return Row("sound", words, counted(len(laid), "sound"), "–", str(error), State.DECIDE)
    if plan is None:
        return Row("sound", words, "none", "none")
    notes = " ".join((*plan.notes, *level_words(m.delivery)))
    return Row(
        "sound",
        words,
        channels_words(plan),
        f"{codec.name}, {hertz(plan.sample_rate)}",
        notes,
        State.CHANGED if notes else State.SAME,
    )


def level_words(delivery: Delivery) -> Iterator[str]:
    if delivery.loudness is not None:
        yield f"It is made {numbered(delivery.loudness, 1)} LUFS loud."
    if delivery.true_peak is not None:
        yield f"Its peaks are held under {numbered(delivery.true_peak, 1)} dBTP."


def hertz(rate: int) -> str:
    return f"{rate / 1000:g} kHz"


def channels_words(plan: SoundPlan) -> str:
    return {1: "mono", 2: "stereo", 6: "5.1"}.get(plan.channels, str(plan.channels))


def length(m: Matched) -> Row:
    seconds = Fraction(0)
    for part in m.parts:
        own = part.sequence.reading.rate.value
        seconds += Fraction(len(part.frames)) / own
    there = m.stretch.reel.count / m.stretch.reel_rate
    file = m.stretch.shown.count / m.stretch.rate
    return Row(
        "length",
        f"{float(seconds):.3f} s",
        seconds_words(m.stretch.reel.count, m.stretch.reel_rate),
        seconds_words(m.stretch.shown.count, m.stretch.rate),
        "" if file == there else f"{float(file - there):+.3f} s: whole frames",
        State.SAME if file == there else State.CHANGED,
    )


def file_size(m: Matched) -> Row:
    about, most = bytes_of(m.timeline, m.delivery), m.delivery.most_bytes
    words = f"up to about {bytes_words(about)}"
    if isinstance(m.delivery.quality, Bitrate):
        words = f"about {bytes_words(about)}"
    level = least_level(m.codec.facts.codec, m.size, m.stretch.rate)
    if level:
        words += f", {m.codec.name} level {level}"
    if not most:
        return Row("file size", "", "", words)
    done = f"at most {bytes_words(most)}"
    if about <= most:
        return Row("file size", "", "", words, done)
    if m.codec.grades:
        done += ": the quality is lowered until it fits, where that is needed"
        return Row("file size", "", "", words, done, State.CHANGED)
    return Row("file size", "", "", words, f"{done}: it may be refused", State.DECIDE)


def first_of(words: list[str]) -> str:
    """The first few, and how many more there are."""
    shown = list(dict.fromkeys(words))
    more = len(shown) - MOST_NAMED
    return "; ".join(shown[:MOST_NAMED]) + (f"; and {more} more" if more > 0 else "")


ROWS: tuple[Callable[[Matched], Row], ...] = (
    *(frames, rate, size, pixel_shape, colour, alpha, sound, length, file_size),
)
