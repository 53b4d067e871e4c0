"""Which frames a shot shows, one after the other, before any rate is converted. Exact."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from waxseal.core.errors import WrongUse

__all__ = ["MOST", "frames_in_order"]

MOST = 10_000_000  # frames of one shot


@lru_cache(maxsize=256)
def frames_in_order(
    first: int,
    last: int,
    *,
    without: tuple[tuple[int, int], ...] = (),
    holds: tuple[tuple[int, int], ...] = (),
    backwards: bool = False,
    to_and_fro: bool = False,
    times: int = 1,
) -> Sequence[int]:
    """The frames first..last in the order they are shown.

    Pieces left out, then frames held, then backwards, then to and fro (neither
    end twice), then again. Raises WrongUse where nothing is left, or too much.
    """
    frames: Sequence[int] = range(first, last + 1)
    if without:
        frames = [n for n in frames if not any(low <= n <= high for low, high in without)]
        if not frames:
            raise WrongUse("Every frame of the shot is left out: leave one in.")
    if holds:
        often = dict(holds)
        if sum(often.get(n, 1) for n in frames) > MOST:
            raise WrongUse(f"A shot has at most {MOST} frames: hold fewer.")
        frames = [n for n in frames for _ in range(often.get(n, 1))]
    if backwards:
        frames = frames[::-1]
    if (to_and_fro or times > 1) and len(frames) * 2 * times > MOST:
        raise WrongUse(f"A shot has at most {MOST} frames: repeat it less often.")
    if to_and_fro:
        frames = [*frames, *frames[-2:0:-1]]
    return frames if times == 1 else list(frames) * times
