"""MP4: one stream of pictures, a sound beside it where there is one."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from waxseal.core.deliver.codecs.aac import AAC
from waxseal.core.deliver.containers.container import Container
from waxseal.core.progress import CancelToken, Report
from waxseal.core.words import plain

if TYPE_CHECKING:
    from waxseal.core.deliver.containers.movie import MovieWriter
    from waxseal.core.deliver.form import Form
    from waxseal.core.seal.measure.facts import Look, Measured

__all__ = ["MP4"]


def write(path: Path, form: Form) -> MovieWriter:
    from waxseal.core.deliver.containers.movie import MovieWriter

    # The index in front, so that it plays while it is loaded.
    return MovieWriter(path, form, "mp4", {"movflags": "+faststart"})


def measure(
    path: Path, *, look: Look | None, expected_frames: int, report: Report, token: CancelToken
) -> Measured:
    from waxseal.core.seal.measure.movies import measure_movie

    return measure_movie(
        path, look=look, expected_frames=expected_frames, report=report, token=token
    )


def path_trouble(path: Path, _form: Form, *, overwrite: bool) -> str:
    if path.is_dir():
        return f"{plain(path.name)} is a folder: choose another name."
    if path.exists() and not overwrite:
        return f"{plain(path.name)} is there already: choose another name, or overwrite it."
    return ""


MP4 = Container(
    name="MP4",
    suffix=".mp4",
    sound=AAC,
    has_boxes=True,
    open=write,
    measure=measure,
    path_trouble=path_trouble,
)
