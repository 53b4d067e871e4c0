"""Writes a film into its container, and measures what was written."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple, Protocol

from waxseal.core.deliver.encode.encode_state import EncodeState
from waxseal.core.deliver.encode.writers.animated_writer import write_animated
from waxseal.core.deliver.encode.writers.frame_folder import write_folder
from waxseal.core.deliver.encode.writers.movie_writer import write_movie
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.progress import CancelToken, Report
from waxseal.core.seal.measure.file_facts import Look, Measured
from waxseal.core.seal.measure.measure_animated import measure_animation
from waxseal.core.seal.measure.measure_frames import measure_frames
from waxseal.core.seal.measure.measure_movie import measure_movie

__all__ = ["measure_film", "write_film"]


class Measure(Protocol):
    def __call__(
        self,
        path: Path,
        /,
        *,
        look: Look | None,
        expected_frames: int,
        report: Report,
        token: CancelToken,
    ) -> Measured: ...


class Way(NamedTuple):
    write: Callable[[Path, EncodeState], str]
    measure: Measure


MOVIE = Way(write_movie, measure_movie)
OTHERS = {
    "APNG": Way(write_animated, measure_animation),
    "frames": Way(write_folder, measure_frames),
}


def way_of(form: ResolvedFormat) -> Way:
    return OTHERS.get(form.container, MOVIE)


def write_film(path: Path, work: EncodeState) -> str:
    """Encode a film at a path that nobody else knows yet.

    Returns the digest of its pictures as they were encoded; empty where each is a file.
    Raises FrameError, FFmpegError, OSError, Cancelled.
    """
    return way_of(work.form).write(path, work)


def measure_film(
    path: Path,
    form: ResolvedFormat,
    *,
    look: Look,
    expected_frames: int,
    report: Report,
    token: CancelToken,
) -> Measured:
    """Decode all that was written. look: called with each frame's place and its planes.

    Raises UnreadableInput, Cancelled.
    """
    return way_of(form).measure(
        path, look=look, expected_frames=expected_frames, report=report, token=token
    )
