"""Whatever was delivered, measured: a folder of frames, an animated picture, a movie."""

from __future__ import annotations

from pathlib import Path

from waxseal.core.progress import CancelToken, Report, silent
from waxseal.core.seal.measure.file_facts import Look, Measured
from waxseal.core.seal.measure.measure_animated import is_animation, measure_animation
from waxseal.core.seal.measure.measure_frames import measure_frames
from waxseal.core.seal.measure.measure_movie import measure_movie

__all__ = ["measure_anything"]


def measure_anything(
    path: Path,
    *,
    look: Look | None = None,
    report: Report = silent,
    token: CancelToken | None = None,
) -> Measured:
    """Decode all of it. look: called with each frame of a movie.

    Raises UnreadableInput, Cancelled.
    """
    if path.is_dir():
        return measure_frames(path, report=report, token=token)
    if is_animation(path):
        return measure_animation(path, report=report, token=token)
    return measure_movie(path, look=look, report=report, token=token)
