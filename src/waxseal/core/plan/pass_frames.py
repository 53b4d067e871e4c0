"""Which frames belong together: of a shot, its passes, and the mattes and depth that steer it.

A frame that stands in for another brings what belongs to it: a picture and its matte are
always of one moment.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

from waxseal.core.job.model import Operation, Sequence, StackPass

__all__ = ["LIGHT", "Shows", "helper_number", "passes_shown", "picture_number"]

LIGHT = (Operation.SUM, Operation.OVER)
Shows = Callable[[Sequence, int], int | None]  # see `StandIns.shown`


def passes_shown(sequence: Sequence) -> tuple[StackPass, ...]:
    """The passes that a source is put together from; none where it is shown as it is."""
    stack = sequence.stack
    return tuple(one for one in stack.passes if one.on) if stack is not None and stack.on else ()


def picture_number(
    sequence: Sequence, frame: int, sources: Mapping[str, Sequence], shown: Shows
) -> int | None:
    """The number of the picture that is shown for a frame of a source; None for nothing.

    Of passes some may be there and some be stood in for: what belongs to them goes with those
    that are there.
    """
    passes = passes_shown(sequence)
    if not passes:
        return shown(sequence, frame)
    giving = [one for one in passes if one.operation in LIGHT] or passes
    asked = (shown(sources[one.source], frame) for one in giving)
    numbers = [number for number in asked if number is not None]
    if not numbers:
        return None
    return frame if frame in numbers else numbers[0]


def helper_number(helper: Sequence, of: Sequence | None, number: int) -> int:
    """The number of a helper's frame that belongs to a frame of a source, or of the reel (None).

    A still belongs to every frame. The frames of movies are counted, not numbered: where either
    is one, the first belongs to the first. All others have the same numbers.
    """
    if helper.kind == "still":
        return helper.files.range.first
    is_counted = helper.kind == "movie" or (of is not None and of.kind == "movie")
    if not is_counted:
        return number
    first = of.files.range.first if of is not None else 1
    return helper.files.range.first + number - first
