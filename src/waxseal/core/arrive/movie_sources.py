"""A movie as a source: its frames by number, its rate as written, what is odd about it."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

from pydantic import ValidationError

from waxseal.core.errors import FrameError
from waxseal.core.frames.isolated import run_isolated
from waxseal.core.frames.movies import MovieFacts, movie_facts
from waxseal.core.job.model import (
    Alpha,
    Colour,
    Files,
    Finding,
    FindingKind,
    Found,
    Order,
    Origin,
    Reading,
    Sequence,
    Size,
    StandIn,
    WithOrigin,
    change,
    sentence_of,
    usual_primaries,
)
from waxseal.core.job.primaries import PRIMARIES
from waxseal.core.text_format import plain
from waxseal.core.timing.rates import rate_words

__all__ = ["examine_movie", "movie_source"]

# ITU-T H.273: transfer characteristics, and primaries.
DISPLAY = frozenset({1, 6, 14, 15})
LINEAR, SRGB, PQ, HLG = 8, 13, 16, 18
COLOURS = {LINEAR: Colour.LINEAR, SRGB: Colour.SRGB, PQ: Colour.PQ, HLG: Colour.HLG}
TAGGED = {9: PRIMARIES["BT.2020"], 12: PRIMARIES["P3"]}
UNTAGGED = 2
READ_WITH = {PQ: (UNTAGGED, 9, 12), HLG: (UNTAGGED, 9)}  # the primaries that high range comes in
WHOLE_SHARE = 0.995  # of the promised length: containers round it


def movie_source(path: Path) -> Sequence:
    """Raises FrameError where it cannot be opened."""
    facts = run_isolated(movie_facts, path)
    try:
        return Sequence(
            kind="movie",
            id="s0",
            name=plain(path.stem),
            files=files_of(path, facts),
            found=found_in(facts, path.name),
            reading=reading_of(facts),
        )
    except ValidationError as error:
        what = f"damaged: it claims what no movie has ({sentence_of(error)})"
        raise FrameError(what, path=path) from None


def examine_movie(sequence: Sequence) -> Sequence:
    """The same source from its file as it is now; one that is gone or broken is damaged."""
    path = sequence.files.path_of(1)
    try:
        facts = run_isolated(movie_facts, path)
    except FrameError as error:
        broken = Finding(kind=FindingKind.DAMAGED, frame=1, file=path.name, what=str(error))
        return change(sequence, found=change(sequence.found, findings=(broken,)))
    return change(sequence, files=files_of(path, facts), found=found_in(facts, path.name))


def files_of(path: Path, facts: MovieFacts) -> Files:
    return Files(
        folder=str(path.parent),
        prefix=path.stem,
        suffix=path.suffix,
        padding=0,
        runs=((1, facts.frames),),
    )


def found_in(facts: MovieFacts, file: str) -> Found:
    return Found(
        format=facts.container,
        codec=facts.codec,
        size=Size(width=facts.width, height=facts.height),
        channels=("R", "G", "B", "A") if facts.has_alpha else ("R", "G", "B"),
        depth="uint8" if facts.bits == 8 else "uint16",
        findings=tuple(
            Finding(kind=kind, frame=frame, file=file, what=what)
            for kind, frame, what in oddities(facts)
        ),
    )


def oddities(facts: MovieFacts) -> Iterator[tuple[FindingKind, int, str]]:
    if facts.is_cut:
        what = f"cut short: about {facts.share:.0%} of the movie's length is there"
        yield FindingKind.DAMAGED, facts.frames, what
    elif facts.share < WHOLE_SHARE:
        longer = 1 / facts.share - 1
        what = f"the movie states a length that is {longer:.0%} longer than its frames last"
        yield FindingKind.HELD, facts.frames, what
    if facts.uneven and not facts.is_cut:  # a cut loses frames among its last ones
        what = (
            "the frame rate changes from here on (variable rate): "
            f"{rate_words(facts.rate)} a second on average"
        )
        yield FindingKind.UNEVEN, facts.uneven, what
    if facts.is_interlaced:
        yield FindingKind.FIELDS, 1, "the movie is interlaced: every frame holds two fields"
    if facts.transfer in (PQ, HLG) and facts.primaries not in READ_WITH[facts.transfer]:
        name = COLOURS[facts.transfer]
        what = f"its colour is {name} with primaries that are not read: choose its colour"
        yield FindingKind.HIGH_RANGE, 1, what


def reading_of(facts: MovieFacts) -> Reading:
    colour, origin = Colour.BT709, Origin.HABIT
    if facts.transfer in DISPLAY:
        origin = Origin.WRITTEN
    elif facts.transfer in COLOURS:
        colour, origin = COLOURS[facts.transfer], Origin.WRITTEN
    tagged = TAGGED.get(facts.primaries)
    return Reading(
        rate=WithOrigin(
            value=facts.rate, origin=Origin.WRITTEN if facts.is_constant else Origin.GUESS
        ),
        order=WithOrigin(value=Order.FORWARD, origin=Origin.HABIT),
        alpha=WithOrigin(
            value=Alpha.STRAIGHT if facts.has_alpha else Alpha.NONE,
            origin=Origin.HABIT if facts.has_alpha else Origin.WRITTEN,
        ),
        colour=WithOrigin(value=colour, origin=origin),
        chromaticities=WithOrigin(
            value=tagged or usual_primaries(colour),
            origin=Origin.WRITTEN if tagged else Origin.HABIT,
        ),
        stand_in=WithOrigin(value=StandIn.STOP, origin=Origin.HABIT),
        pixel_shape=WithOrigin(
            value=facts.pixel_shape,
            origin=Origin.HABIT if facts.pixel_shape == Fraction(1) else Origin.WRITTEN,
        ),
    )
