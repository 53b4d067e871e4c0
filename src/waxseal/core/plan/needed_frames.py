"""Which frames of which sources a stretch of the reel needs, and which of them are missing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from waxseal.core.job.finish_settings import Finish
from waxseal.core.job.model import Sequence
from waxseal.core.plan.pass_frames import helper_number, passes_shown, picture_number
from waxseal.core.plan.stand_ins import StandIns
from waxseal.core.plan.timeline import Part, Timeline
from waxseal.core.timing.ranges import FrameRange

__all__ = ["Missing", "frame_behind", "missing_frames", "needed_frames"]


@dataclass(frozen=True, slots=True)
class Missing:
    """Frames of a source that are asked for and cannot be shown themselves.

    is_stood_in: whether something else is shown for them. is_apart: whether none of all that
    are asked for is among its numbers, of a source that belongs to another.
    """

    sequence: Sequence
    frames: frozenset[int]
    is_stood_in: bool
    is_apart: bool = False


def needed_frames(
    timeline: Timeline, stand_ins: StandIns, frames: FrameRange
) -> dict[str, set[int]]:
    """The frames of each source, by its id, that these reel frames are made from.

    Of what belongs to a picture, those that belong to what is shown for it.
    """
    needed: dict[str, set[int]] = defaultdict(set)
    reel = timeline.job.reel
    for part in timeline.parts_in(frames):
        if part.sequence.is_sparse:
            continue  # asked about first: its frames may be millions
        asked = part.frames_asked(frames.first, frames.last)
        mixed = asked | part.frames_following(frames.first, frames.last)
        for source in sources_shown(part):
            needed[source] |= mixed
        if any(part.laid.finish.working_helpers):
            shown = {
                picture_number(part.sequence, frame, timeline.sources, stand_ins.shown)
                for frame in mixed
            }
            numbers = {number for number in shown if number is not None}
            add_helpers(needed, timeline, part.laid.finish, part.sequence, numbers)
    add_helpers(needed, timeline, reel.finish, None, frames)
    if reel.behind:
        behind = timeline.sources[reel.behind]
        needed[behind.id] |= {frame_behind(behind, n, timeline) for n in frames}
    return needed


def sources_shown(part: Part) -> Iterable[str]:
    """The source of a part, or the passes that it is put together from."""
    if part.sequence.stack is None or not part.sequence.stack.on:
        return (part.sequence.id,)
    return [one.source for one in passes_shown(part.sequence)]


def add_helpers(
    needed: dict[str, set[int]],
    timeline: Timeline,
    finish: Finish,
    of: Sequence | None,
    frames: Iterable[int],
) -> None:
    for helper in finish.working_helpers:
        sequence = timeline.sources[helper.source]
        needed[sequence.id] |= {helper_number(sequence, of, frame) for frame in frames}


def frame_behind(behind: Sequence, reel_frame: int, timeline: Timeline) -> int:
    """The frame of the picture behind, which runs at its own rate, again and again."""
    rate, reel = behind.reading.rate.value, timeline.rate
    index = (reel_frame - 1) * rate.numerator * reel.denominator
    index //= rate.denominator * reel.numerator
    span = behind.range
    return span.first + index % span.count


def missing_frames(
    timeline: Timeline, stand_ins: StandIns, frames: FrameRange
) -> tuple[Missing, ...]:
    """What these reel frames need and do not have, a value for each source."""
    found = []
    laid = {part.laid.source for part in (*timeline.shots, *timeline.overlays)}
    for source, needed in needed_frames(timeline, stand_ins, frames).items():
        sequence = timeline.sources[source]
        missing = stand_ins.missing(sequence, needed)
        if missing:
            is_stood_in = stand_ins.can_stand_in(sequence)
            has = sequence.files.range
            is_apart = source not in laid and not any(frame in has for frame in needed)
            found.append(Missing(sequence, frozenset(missing), is_stood_in, is_apart))
    return tuple(found)
