"""A look at a delivery before it is made: a few frames of it, or one as a picture."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np

from waxseal.core.deliver.format.delivery_settings import film_of, shown_frame_of, target_of
from waxseal.core.deliver.format.output_path import stem_of
from waxseal.core.errors import JobError
from waxseal.core.folders import proofs_folder
from waxseal.core.frames.frame_writer import write_codes
from waxseal.core.job.finish_settings import Finish
from waxseal.core.job.model import Alpha, Delivery, Job, Shot, Space, change
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.programme import programme
from waxseal.core.plan.timeline import Timeline, timeline_of
from waxseal.core.private_folder import private_folder
from waxseal.core.text_format import plain

__all__ = ["make_poster", "make_source_poster", "proof_of", "with_proof"]

SECONDS = 1


def proof_of(delivery: Delivery, timeline: Timeline, at: int) -> Delivery:
    """A second of a delivery around a frame of the reel, in a folder of our own."""
    count = min(timeline.length, max(1, round(SECONDS * timeline.rate)))
    first = max(1, min(at - count // 2, timeline.length - count + 1))
    return change(
        delivery,
        id=f"{delivery.id}proof",
        name=f"{stem_of(delivery.name)}_proof",
        folder=str(proofs_folder()),
        range=(first, first + count - 1),
        spec="",  # a second is too short for some, and no spec takes a proof
        most_bytes=0,
        outcome=None,
    )


def with_proof(job: Job, proof: Delivery) -> Job:
    """The job that a proof is made from."""
    private_folder(Path(proof.folder))
    return change(job, deliveries=(*job.deliveries, proof))


def poster_target(target: Target) -> Target:
    """Codes of 8 bits for a picture that is looked at, framed as the delivery is."""
    has_codes = target.layout is not Layout.LIGHT and not target.space.is_high_range
    return replace(
        target,
        layout=Layout.RGB8,
        space=target.space if has_codes else Space.SRGB,
        alpha=Alpha.STRAIGHT if target.has_alpha else Alpha.NONE,
    )


def make_source_poster(job: Job, delivery: Delivery, source: str, frame: int) -> Path:
    """Write a frame of a source beside a delivery, as it would be there, without any finish.

    source: its id; it need not be on the reel. frame: the file's own number.
    Raises JobError, FrameError.
    """
    sequence = job.sequence(source)
    if not sequence.files.has(frame):
        there = sequence.files.range
        raise JobError(f"{sequence.name} has no frame {frame}: choose one of {there}.")
    name = f"{stem_of(delivery.name)}_{sequence.name}".replace("/", "_")
    return write_poster(reel_of(job, source, frame), delivery, 1, f"{name}_{frame:04d}")


def reel_of(job: Job, source: str, frame: int) -> Job:
    """A job whose reel is one frame of a source, in the frame that the reel has."""
    shot = Shot(id="poster", source=source, first=frame, last=frame)
    alone = change(job.reel, shots=(shot,), overlays=(), sounds=(), finish=Finish(), marked=None)
    if job.reel.shots:
        timeline = timeline_of(job)
        alone = change(alone, size=timeline.size, rate=timeline.rate)
    return change(job, reel=alone)


def make_poster(job: Job, delivery: Delivery, reel_frame: int) -> Path:
    """Write a frame of the reel beside a delivery, as it will be there: a PNG of its own name.

    Raises JobError, FrameError.
    """
    return write_poster(job, delivery, reel_frame, f"{stem_of(delivery.name)}_{reel_frame:04d}")


def write_poster(job: Job, delivery: Delivery, reel_frame: int, stem: str) -> Path:
    from waxseal.core.picture.make import make

    planned = programme(job)
    size = planned.timeline.size
    seen = change(delivery, size=shown_frame_of(size, delivery), pixel_shape=Fraction(1))
    target = poster_target(target_of(size, seen))
    film = film_of(planned, change(delivery, range=(1, planned.timeline.length), rate=None))
    planes = make(film.recipe(reel_frame), target).planes
    path = free_path(Path(delivery.folder), stem)
    try:
        write_codes(path, np.dstack(planes))
    except OSError as error:
        raise JobError(f"{plain(path)} cannot be written: {error}", path=path) from None
    return path


def free_path(folder: Path, stem: str) -> Path:
    """Nothing is written over: another number where the name is taken."""
    path, number = folder / f"{stem}.png", 2
    while path.exists():
        path, number = folder / f"{stem}_{number}.png", number + 1
    return path
