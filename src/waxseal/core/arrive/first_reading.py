"""How a source is read to begin with: what its file says, else the job's habit, else a guess."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from functools import lru_cache

from waxseal.core.frames.headers import Format, Header
from waxseal.core.frames.headers.colour_metadata import StatedColour
from waxseal.core.job.layers import chosen_picture
from waxseal.core.job.model import (
    Alpha,
    Colour,
    ColourReference,
    Habits,
    Order,
    Origin,
    Reading,
    WithOrigin,
    usual_primaries,
)

__all__ = ["first_reading"]

GUESSED_RATE = Fraction(24)


def first_reading(header: Header | None, habits: Habits) -> Reading:
    """What the file says, else the job's habit, else a guess that stays marked."""
    alike = replace(header, size_bytes=0) if header is not None else None
    return reading_of(alike, habits)


@lru_cache(maxsize=256)
def reading_of(header: Header | None, habits: Habits) -> Reading:
    """As first_reading; made once for all that are alike, as most of a large folder are."""
    if header is not None and header.rate is not None:
        rate: WithOrigin[Fraction] = WithOrigin(value=header.rate, origin=Origin.WRITTEN)
    elif habits.rate is not None:
        rate = WithOrigin(value=habits.rate, origin=Origin.HABIT)
    else:
        rate = WithOrigin(value=GUESSED_RATE, origin=Origin.GUESS)
    # EXR is scene-linear with associated alpha by its standard; the others say so by custom.
    linear = header is not None and (
        header.format is Format.EXR or header.depth in ("half", "float")
    )
    written = header.chromaticities if header is not None else None
    shape = header.pixel_shape if header is not None else None
    stated = header.stated if header is not None and not linear else None
    honoured = stated if stated is not None and stated.colour is not None else None
    if honoured is not None and honoured.chromaticities is not None:
        written = honoured.chromaticities
    colour = Colour.LINEAR if linear else Colour.SRGB
    is_log = header is not None and header.is_log
    alpha = header.alpha if header else Alpha.NONE
    is_custom = alpha is not Alpha.NONE and header is not None and header.format is not Format.EXR
    if is_custom and habits.alpha is not None:
        alpha = habits.alpha
    told = colour_told(header, honoured, colour, is_log=is_log)
    customary = habits.primaries if told.value is Colour.LINEAR else None
    return Reading(
        rate=rate,
        part=part_told(header),
        order=WithOrigin(value=Order.FORWARD, origin=Origin.HABIT),
        alpha=WithOrigin(value=alpha, origin=Origin.HABIT if is_custom else Origin.WRITTEN),
        colour=told,
        chromaticities=WithOrigin(
            value=written or customary or usual_primaries(told.value),
            origin=Origin.WRITTEN if written else Origin.HABIT,
        ),
        stand_in=WithOrigin(value=habits.stand_in, origin=Origin.HABIT),
        pixel_shape=WithOrigin(
            value=shape or Fraction(1), origin=Origin.WRITTEN if shape else Origin.HABIT
        ),
        space=WithOrigin(value=honoured.space if honoured else "", origin=Origin.WRITTEN),
        referred=WithOrigin(value=ColourReference.GRAPHICS, origin=Origin.WRITTEN)
        if honoured is not None and honoured.is_of_display
        else None,
    )


def part_told(header: Header | None) -> WithOrigin[str]:
    """By its name where there are several, so that no frame shows another without a word."""
    if header is None or header.format is not Format.EXR or not header.parts:
        return WithOrigin(value="", origin=Origin.HABIT)
    chosen = chosen_picture(header.parts)
    if len(header.parts) == 1 and not chosen.is_guess:
        return WithOrigin(value="", origin=Origin.HABIT)
    origin = Origin.GUESS if chosen.is_guess else Origin.WRITTEN
    return WithOrigin(value=chosen.part.name, origin=origin, why=chosen.why)


def colour_told(
    header: Header | None, honoured: StatedColour | None, usual: Colour, *, is_log: bool
) -> WithOrigin[Colour]:
    """Only EXR is scene-linear by its standard; floats of other formats are so by custom."""
    if is_log:
        return WithOrigin(value=Colour.FILM_LOG, origin=Origin.WRITTEN)
    if honoured is not None and honoured.colour is not None:
        why = f"the file states {honoured.words}"
        return WithOrigin(value=honoured.colour, origin=Origin.WRITTEN, why=why)
    is_exr = header is not None and header.format is Format.EXR
    return WithOrigin(value=usual, origin=Origin.WRITTEN if is_exr else Origin.HABIT)
