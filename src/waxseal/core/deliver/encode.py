"""The encode: decoding, pictures and the encoder overlap, and all of it stays deterministic.

A function of a film and a form. It changes neither: frames that cannot be read
come back by name, and the caller decides what stands in for them.
Nothing here knows of processes (see `process.worker`).
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.form import Form
from waxseal.core.deliver.supply import Supply, Unreadable
from waxseal.core.errors import FrameError, WrongUse
from waxseal.core.picture.kernels.choice import KernelChoice
from waxseal.core.picture.work import work_of_film
from waxseal.core.plan.film import Recipes
from waxseal.core.progress import CancelToken, Report
from waxseal.core.speed import Speedometer

__all__ = ["Encoded", "encode"]


@dataclass(frozen=True, slots=True, eq=False)
class Encoded:
    """What was put into a file.

    marks: one of each frame, to compare the decoded file with.
    stream: the digest of the pictures as they were encoded; empty where each frame is a file.
    unreadable: the frames that kept it from being whole; empty where it is.
    """

    marks: tuple[Any, ...]
    stream: str = ""
    unreadable: tuple[Unreadable, ...] = ()


def encode(
    film: Recipes,
    form: Form,
    partial: Path,
    kernels: KernelChoice,
    report: Report,
    token: CancelToken,
) -> Encoded:
    """Write a film to `partial`, whole, in its form.

    kernels: told how much work there is; they make the pictures.
    Where a frame cannot be read nothing usable is left there, and all such frames
    are named. Raises FrameError where none can be named, JobError for a colour that
    cannot be worked out, FFmpegError and OSError where the file cannot be written,
    Cancelled.
    """
    frames = film.frames
    kernels.warm_for(work_of_film(film, form.target))
    comparison = form.comparison
    supply = Supply(film, form.target, kernels, comparison.mark)
    speed = Speedometer("encoding", frames.count)
    marks: list[Any] = []
    try:
        with CONTAINERS[form.container].open(partial, form) as writer:
            for index, reel_frame in enumerate(frames):
                token.check()
                made = supply.next_made(reel_frame)
                if writer.write(made.picture, index) != made.digest:
                    raise WrongUse(f"Frame {reel_frame} is not what the encoder was given.")
                marks.append(made.mark)
                report(speed.at(index + 1))
            writer.finish()
            stream = writer.stream
    except FrameError:
        unreadable = supply.unreadable_from(frames.first + len(marks), token)
        if not unreadable:
            raise  # readable by now, yet the file is not whole: never taken for done
        return Encoded((), unreadable=unreadable)
    finally:
        supply.close()
    return Encoded(tuple(marks), stream)
