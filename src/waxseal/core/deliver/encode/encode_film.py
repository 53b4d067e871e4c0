"""The encode: decoding, pictures and the encoder overlap, and all of it stays deterministic.

A function of a film and a form. It changes neither: frames that cannot be read
come back by name, and the caller decides what stands in for them.
Nothing here knows of processes (see `process.worker`).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from waxseal.core.deliver.encode.encode_state import HERE, EncodeOptions, EncodeState
from waxseal.core.deliver.encode.prefetch import PictureOrder, Prefetch, Unreadable
from waxseal.core.deliver.encode.writers import write_film
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import FrameError
from waxseal.core.job.model import Quality
from waxseal.core.plan.recipe_range import Recipes
from waxseal.core.progress import CancelToken, Report

__all__ = ["Encoded", "encode"]


@dataclass(frozen=True, slots=True, eq=False)
class Encoded:
    """What was put into a file.

    marks: one of each frame, to compare the decoded file with.
    sizes, keys: of its segments, see EncodeState. segments_kept: how many had been encoded before.
    remarks: sentences on how it went, see EncodeState.
    stream: the digest of the pictures as they were encoded; empty where each frame is a file.
    unreadable: the frames that kept it from being whole; empty where it is.
    """

    marks: tuple[Any, ...]
    stream: str = ""
    sizes: Mapping[int, int] = field(default_factory=dict)
    segments_kept: int = 0
    keys: tuple[str, ...] = ()
    remarks: tuple[str, ...] = ()
    unreadable: tuple[Unreadable, ...] = ()


def encode(
    film: Recipes,
    form: ResolvedFormat,
    partial: Path,
    report: Report,
    token: CancelToken,
    *,
    stage: str = "encoding",
    who: EncodeOptions = HERE,
    qualities: Mapping[int, Quality] | None = None,
) -> Encoded:
    """Write a film to `partial`, whole, in its form.

    stage: what it is called while it runs. who: encodes it. qualities: see EncodeState.
    Where a frame cannot be read nothing usable is left there, and all such frames
    are named. Raises FrameError where none can be named, JobError for a colour that
    cannot be worked out, FFmpegError and OSError where the file cannot be written,
    Cancelled.
    """
    work = EncodeState(film, form, report, token, stage=stage, who=who, qualities=qualities)
    try:
        stream = write_film(partial, work)
    except FrameError:
        unreadable = unreadable_in(work)
        if not unreadable:
            raise  # readable by now, yet the file is not whole: never taken for done
        return Encoded((), unreadable=unreadable)
    marks = tuple(work.marks[place] for place in range(film.frames.count))
    remarks = tuple(dict.fromkeys(work.remarks))
    return Encoded(marks, stream, work.sizes, work.segments_kept, tuple(work.keys), remarks)


def unreadable_in(work: EncodeState) -> tuple[Unreadable, ...]:
    """Those of the frames that were not made."""
    film = work.film
    supply = Prefetch([PictureOrder(film, work.form.target, work.comparison.mark)])
    first = film.frames.first
    try:
        left = (frame for frame in film.frames if frame - first not in work.marks)
        return supply.unreadable_in(left, work.token)
    finally:
        supply.close()
