"""The rows of size, pixel shape, colour and alpha."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

from waxseal.core.deliver.format.delivery_settings import frame_of, has_subjects, shown_frame_of
from waxseal.core.deliver.match.match_row import Matched, Row, State, first_of, joined, listed
from waxseal.core.deliver.match.placed_sizes import Placed, most_enlarged, sizes_of
from waxseal.core.job.model import (
    Alpha,
    Colour,
    Delivery,
    Origin,
    Sequence,
    Size,
    Space,
    View,
    colour_words,
    shape_words,
)
from waxseal.core.picture.framing import framing_words, is_framed_whole
from waxseal.core.plan.recipe import MIDDLE
from waxseal.core.text_format import counted, names_words, plain

MUCH_ENLARGED = 1.5  # times, from which on it is a note

__all__ = ["alpha", "colour", "flash_trouble", "pixel_shape", "size"]


def size(m: Matched) -> Row:
    done, notes = [], []
    sizes = sizes_of(m)
    reel, frame = m.timeline.size, frame_of(m.timeline.size, m.delivery)
    shown = shown_frame_of(reel, m.delivery)
    whole = (reel.width, reel.height)
    for part in m.parts:
        own, laid = part.sequence.shown_size, part.laid
        shape = (own.width, own.height)
        words = framing_words(shape, whole, laid.framing, laid.placing)
        is_whole = is_framed_whole(shape, whole, laid.framing, laid.placing)
        if shape != whole or not is_whole:
            done.append(f"{part.sequence.name} {words}")
        if shape != whole and (own.width < reel.width or not is_whole):
            notes.append(f"{part.sequence.name}, {own}: {words}.")
    stored = Size(width=m.expected.width, height=m.expected.height)
    if stored != frame:
        notes.append(
            f"{frame} becomes {stored}: the codec needs even sides, "
            "so the last column or row is repeated."
        )
    if shown != reel:
        words = framing_words(whole, (shown.width, shown.height), m.delivery.framing)
        done.append(f"the reel {words}{subject_words(m)}")
        seen = "" if shown == frame else f", seen as {shown},"
        notes.append(f"The reel, {reel}, in {frame}{seen} {words}.")
    for what, placed in enlarged(m, sizes):
        if placed.factor > MUCH_ENLARGED:
            notes.append(f"{what} is enlarged {factor_words(placed.factor)}: it may look soft.")
    if stored != frame:
        done.append("the codec needs even sides")
    trouble = m.codec.size_trouble(frame)
    if trouble:
        done = [trouble]
    changed = State.CHANGED if done else State.SAME
    return Row(
        "size",
        listed(str(one.shown_size) for one in m.sources),
        str(reel),
        str(stored),
        first_of(done),
        State.DECIDE if trouble else changed,
        tuple(notes),
        (trouble,) if trouble else (),
        to_reel=between_words(sizes[1]) if sizes else "",
        to_file=between_words(sizes[2]) if sizes else "",
    )


def enlarged(
    m: Matched, sizes: tuple[Placed, Placed, Placed] | None
) -> Iterator[tuple[str, Placed]]:
    """What is shown larger than it is: the shot that is enlarged most, and the reel."""
    if sizes is None:
        return
    _, shot, reel = sizes
    if shot.factor > 1:
        yield m.parts[most_enlarged(m)].sequence.name, shot
    if reel.factor > 1:
        yield "The reel", reel


def factor_words(factor: float) -> str:
    return f"× {factor:.3g}"


def between_words(placed: Placed) -> str:
    return factor_words(placed.factor) if placed.factor > 1 else ""


def subject_words(m: Matched) -> str:
    """Which shots say themselves what is kept of them."""
    if not has_subjects(m.delivery):
        return ""
    own = [one for one in m.timeline.job.reel.shots if one.subject != MIDDLE]
    count = len(m.timeline.job.reel.shots)
    return f"; what is kept is chosen for {len(own)} of {counted(count, 'shot')}" if own else ""


def pixel_shape(m: Matched) -> Row:
    shapes = [one.reading.pixel_shape.value for one in m.sources]
    own = m.form.pixel_shape
    is_odd, notes = any(one != 1 for one in shapes), []
    done = "made square" if is_odd else ""
    if own != 1:
        reel = m.timeline.size
        frame, shown = frame_of(reel, m.delivery), shown_frame_of(reel, m.delivery)
        done = f"stored as {frame}, seen as {shown}"
        notes = [f"The pixels are {shape_words(own)}: {frame} pixels are seen as {shown}."]
    trouble = m.container.pixel_shape_trouble(own, m.codec)
    return Row(
        "pixel shape",
        listed(shape_words(one) for one in shapes) or "1",
        "1",
        shape_words(own),
        trouble or done,
        State.DECIDE if trouble else State.CHANGED if done else State.SAME,
        tuple(notes),
        (trouble,) if trouble else (),
    )


def colour(m: Matched) -> Row:
    way, delivery, target = m.timeline.job.reel.colour, m.delivery, m.form.target
    takes_codes = m.codec.takes_codes
    bits = f"{target.layout.depth} bits" if takes_codes else "half float"
    done, notes = [f"view {way.view}"] if takes_codes else [], []
    if delivery.lut:
        done.append("through a LUT" if takes_codes else "the LUT is left out")
        if not takes_codes:
            name = plain(Path(delivery.lut).name)
            notes.append(f"{m.codec.name} carries light: {name} is left out.")
    clear = [one.name for one in m.sources if one.reading.is_graphics and is_clear(one)]
    if clear and not takes_codes and way.view is not View.PLAIN:
        notes.append(
            f"Half-transparent parts of {listed(clear)} are mixed in scene light here, before the "
            "view: elsewhere they are mixed in the light of the display."
        )
    if delivery.dither:
        done.append("dithered")
    if delivery.mastering:
        done.append(f"mastering display {delivery.mastering}")
    own = m.form.space.value if takes_codes else f"scene-linear {way.working}"
    is_same = all(source_colour(one) == own for one in m.sources) and not delivery.lut
    reasons = tuple(colour_reasons(m))
    changed = State.SAME if is_same else State.CHANGED
    return Row(
        "colour",
        listed(source_colour(one) for one in m.sources),
        f"{way.working}",
        f"{own}, {bits}",
        joined("" if is_same else ", ".join(done), untold_light(m), *reasons),
        State.DECIDE if reasons else changed,
        tuple(notes),
        reasons,
        to_reel="" if is_same else "linear",
        to_file="" if is_same else bits.replace("half float", "half"),
    )


def is_clear(source: Sequence) -> bool:
    """Whether anything shines through it: alpha that is 1 everywhere is none."""
    return not source.found.is_opaque and source.reading.alpha.value is not Alpha.NONE


def untold_light(m: Matched) -> str:
    """What to say where a file in PQ does not state how bright the film gets; else empty."""
    if m.form.space is not Space.PQ or m.form.says_light_levels:
        return ""
    return f"{m.container.name} does not say how bright the film gets (MaxCLL, MaxFALL)"


def source_colour(source: Sequence) -> str:
    reading = source.reading
    if reading.colour.value is Colour.OWN:
        return reading.space.value
    return colour_words(reading.colour.value, reading.chromaticities.value)


def colour_reasons(m: Matched) -> Iterator[str]:
    for source in m.timeline.used_sequences:
        if source.is_of_unread_range:
            yield (
                f"{source.name} has a high range of a kind that is not read, and would be shown "
                "in other light: choose its colour on its card, or say --colour."
            )
    delivery = m.delivery
    trouble = m.container.colour_trouble(delivery.space, m.codec)
    if trouble:
        yield trouble
        return
    troubles = (
        m.container.mastering_trouble(delivery.mastering, delivery.space),
        flash_trouble(delivery),
    )
    yield from (one for one in troubles if one)


def flash_trouble(delivery: Delivery) -> str:
    """Why flashes cannot be refused in a delivery; empty where they can, or need not."""
    if not delivery.no_flashes or delivery.space.is_standard_range:
        return ""
    return (
        f"Flashes cannot be judged in {delivery.space}: the limits are for a standard range. "
        "Choose another colour, or do not have flashes refused."
    )


def alpha(m: Matched) -> Row:
    trouble = m.codec.alpha_trouble(m.delivery.alpha, m.container.name)
    row = alpha_row(m)
    if not trouble:
        return row
    return replace(row, done=trouble, state=State.DECIDE, reasons=(trouble,))


def alpha_row(m: Matched) -> Row:
    reel, kept = m.timeline.job.reel, m.form.target.alpha
    clear = [one for one in m.sources if is_clear(one)]
    sources = listed(f"{one.reading.alpha.value}" for one in clear)
    sources = sources or ("opaque" if any(one.found.is_opaque for one in m.sources) else "none")
    if kept is not Alpha.NONE:
        is_same = all(one.reading.alpha.value is kept for one in clear) and bool(clear)
        done = "" if is_same else f"made {kept}" if clear else "opaque everywhere"
        state = State.SAME if is_same else State.CHANGED
        notes: tuple[str, ...] = ()
        if reel.behind:
            out = "the picture behind is left out"
            done, state = f"{done}; {out}" if done else out, State.CHANGED
            notes = (f"Alpha is kept: {out}.",)
        return with_guess(Row("alpha", sources, "kept", f"{kept}", done, state, notes), clear)
    if not clear:
        return Row("alpha", sources, "none", "none")
    if reel.behind:
        done = "laid over what is behind"
        row = Row("alpha", sources, "over a picture", "none", done, State.CHANGED)
        return with_guess(row, clear)
    ground = f"the ground, {reel.ground}"
    filled = f"transparent areas show {ground}"
    why = "" if m.codec.alphas else f": {m.codec.name} carries none"
    names = names_words([one.name for one in clear])
    note = f"The alpha of {names} is not delivered: {filled}."
    return Row("alpha", sources, ground, "none", f"{filled}{why}", State.LOST, (note,))


def with_guess(row: Row, clear: list[Sequence]) -> Row:
    """The row of alpha, with the names of sources whose alpha is read by a guess."""
    guessed = [one.name for one in clear if one.reading.alpha.origin is Origin.GUESS]
    if not guessed:
        return row
    words = f"how the alpha of {listed(guessed)} is read is a guess"
    done = f"{row.done}; {words}" if row.done else words
    return replace(row, done=done, state=State.DECIDE)
