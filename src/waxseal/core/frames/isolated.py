"""What may crash on a hostile file is done in a helper process, where this process has them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, Concatenate, ParamSpec, TypeVar

from waxseal.core.errors import FrameError, HelperLost
from waxseal.core.filenames import MOVIE_SUFFIXES
from waxseal.core.helpers import are_helping, run_apart

__all__ = ["run_isolated"]

P = ParamSpec("P")
R = TypeVar("R")

MOST_LOST = 10_000

# Files that a helper did not survive, as they were, and how it ended: not tried again.
_lost: dict[tuple[object, ...], str] = {}


def run_isolated(
    function: Callable[Concatenate[Path, P], R], path: Path, *args: P.args, **kwargs: P.kwargs
) -> R:
    """Something done with a file, in a helper process where this process has them.

    Raises FrameError where the helper did not survive it, and what the function raises.
    """
    if not are_helping():
        return function(path, *args, **kwargs)
    frame: Any = kwargs.get("frame")
    key = (function.__name__, *as_it_is(path), args, *kwargs.items())
    if key not in _lost:
        # A movie stays open where it was decoded last.
        affinity = str(path) if path.suffix.lower() in MOVIE_SUFFIXES else ""
        for is_last in (False, True):
            try:
                return run_apart(affinity, function, path, *args, **kwargs)
            except HelperLost as error:
                if not error.is_outside:
                    remember(key, f"damaged: {error}")
                    break
                if is_last:
                    raise FrameError(
                        f"not decoded: {error}", path=path, frame=frame, is_passing=True
                    ) from error
    raise FrameError(_lost[key], path=path, frame=frame)


def remember(key: tuple[object, ...], sentence: str) -> None:
    if len(_lost) >= MOST_LOST:
        _lost.clear()
    _lost[key] = sentence


def as_it_is(path: Path) -> tuple[str, int, int]:
    try:
        status = path.stat()
    except OSError:
        return str(path), -1, 0
    return str(path), status.st_size, status.st_mtime_ns
