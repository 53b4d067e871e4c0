"""Frames of sources as they are read: alone, or put together from passes."""

from __future__ import annotations

from collections.abc import Mapping

from waxseal.core.job.model import BT709, Colour, Operation, Reading, Sequence, Stack
from waxseal.core.plan.filestates import state_of
from waxseal.core.plan.pass_frames import LIGHT, Shows
from waxseal.core.plan.recipe import Layer, PassPick, Pick, Placement, Read, Recipe

__all__ = ["pick_of", "pick_passes", "read_as", "source_recipe"]


def read_as(reading: Reading, part: str = "") -> Read:
    """How frames are read; another part of their files where one is asked for."""
    lut = reading.lut.value
    is_raw = reading.colour.value is Colour.RAW  # no colour, whatever its file says
    chromaticities = BT709 if is_raw else reading.chromaticities.value
    return Read(
        alpha=reading.alpha.value,
        colour=reading.colour.value,
        chromaticities=chromaticities,
        part=part or reading.part.value,
        matte=reading.matte.value,
        space=reading.space.value,
        lut=state_of(lut) if lut else None,
    )


def pick_of(sequence: Sequence, frame: int, *, part: str = "", read: Read | None = None) -> Pick:
    """A frame of a source as it is read; read: where that has been worked out already."""
    read = read or read_as(sequence.reading, part)
    return Pick(state_of(sequence.files.path_of(frame)), frame, read, sequence.id)


def pick_passes(
    stack: Stack,
    frame: int,
    sources: Mapping[str, Sequence],
    shown: Shows = lambda _sequence, frame: frame,
) -> tuple[PassPick, ...]:
    """The passes of a stack at one frame that are on and there; none where none gives light.

    shown: which frame of a source is shown for the one that is asked for.
    """
    picks = []
    for one in stack.passes:
        sequence = sources[one.source]
        number = shown(sequence, frame) if one.on else None
        is_idle = one.operation is Operation.MULTIPLY and one.amount == 0
        if number is None or is_idle:
            continue
        pick = pick_of(sequence, number, part=one.part)
        gain = one.gain * 2.0**one.exposure
        times = pick_of(sequence, number, part=one.times) if one.times else None
        how = (one.tint, one.amount, one.inverted, one.soften)
        picks.append(PassPick(pick, one.operation, gain, *how, times))
    # Factors alone would dim full light, where the light that they are for is not there.
    had_light = any(one.on and one.operation in LIGHT for one in stack.passes)
    has_light = any(one.operation in LIGHT for one in picks)
    return tuple(picks) if has_light or not had_light else ()


def source_recipe(sequence: Sequence, frame: int) -> Recipe:
    """One frame of a source by itself, at its own size over black: for cards and for looking."""
    shape = Placement(pixel_shape=sequence.reading.pixel_shape.value)
    size = sequence.shown_size
    layer = Layer(pick_of(sequence, frame), shape, is_graphics=sequence.reading.is_graphics)
    return Recipe(size.width, size.height, "#000000", programme=layer)
