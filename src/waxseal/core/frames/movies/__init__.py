"""One frame of a movie, by its number from 1: exact, whatever the container says.

A pass over the packets gives the time of every frame; a frame is found by
seeking before its time and decoding until it comes. Open readers are kept, so
that frames asked for in order are decoded in order.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from av.error import FFmpegError
from numpy.typing import NDArray

from waxseal.core.errors import FrameError
from waxseal.core.frames.movies.movie_facts import MovieFacts
from waxseal.core.frames.movies.movie_pixels import rgb_of
from waxseal.core.frames.movies.movie_reader import reader_of

__all__ = ["MovieFacts", "movie_facts", "read_movie_frame"]


def movie_facts(path: Path) -> MovieFacts:
    """Raises FrameError with a sentence."""
    with gate(path):
        return reader_of(path).facts


def read_movie_frame(path: Path, frame: int, *, untagged: int = 0) -> NDArray[Any]:
    """A frame, counted from 1: (height, width, 3 or 4), uint8 or uint16. Raises FrameError.

    untagged: the matrix, by its number in ITU-T H.273, of a file that names none; 0 for what
    is usual at its size.
    """
    with gate(path, frame):
        decoded, turns = reader_of(path).frame(frame)
        values = rgb_of(decoded, untagged)
        return np.ascontiguousarray(np.rot90(values, turns)) if turns else values


class gate:  # noqa: N801 - reads as what it is: the one gate to the library
    """The library's exceptions become ours."""

    def __init__(self, path: Path, frame: int | None = None) -> None:
        self._path, self._frame = path, frame

    def __enter__(self) -> None: ...

    def __exit__(self, _kind: object, error: BaseException | None, _trace: object) -> None:
        if isinstance(error, FrameError):
            raise FrameError(str(error), path=self._path, frame=self._frame) from None
        if isinstance(error, FileNotFoundError):
            raise FrameError("not there", path=self._path, frame=self._frame) from None
        if isinstance(error, FFmpegError | OSError | ValueError | MemoryError):
            what = "damaged: it cannot be decoded"
            raise FrameError(what, path=self._path, frame=self._frame) from error
