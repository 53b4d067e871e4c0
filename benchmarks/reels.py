"""What a long reel, and one with many overlays, cost before and beside the pictures."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from benchmarks.frames import write_frames
from benchmarks.timing import best_of

if TYPE_CHECKING:
    from waxseal.core.job.model import Job

__all__ = ["first_frame", "many_overlays"]

LONG = 417  # shots of 240 frames: 100 080 of the reel
OVERLAYS = 200


def first_frame(folder: Path) -> None:
    """From the order of 100 080 frames to the first that the encoder was given."""
    from waxseal.core.deliver.run.delivery_run import make_delivery
    from waxseal.core.job.edits import add_delivery, put_on_reel
    from waxseal.core.progress import CancelToken, Progress

    job = put_on_reel(small_job(folder), sources=["s1"] * LONG)
    job = add_delivery(job, name="long", folder=str(folder))
    token, began, took = CancelToken(), time.perf_counter(), 0.0

    def report(progress: Progress) -> None:
        nonlocal took
        if progress.stage == "encoding" and progress.done and not took:
            took = time.perf_counter() - began
            token.cancel()

    make_delivery(job, job.deliveries[-1], report, token)
    print(f"{'first of 100 080 frames encoded':<34} ours {took:7.2f} s  (aim 2)", flush=True)


def many_overlays(folder: Path) -> None:
    """A frame of a reel with 200 overlays, none of them there, against one without any."""
    from waxseal.core.job.edits import lay_over, put_on_reel
    from waxseal.core.picture.make import make
    from waxseal.core.picture.target import Layout, Target
    from waxseal.core.plan.programme import programme

    target = Target(640, 360, Layout.YUV420)
    plain = put_on_reel(small_job(folder), sources=["s1"] * 3)
    crowded = plain
    for number in range(OVERLAYS):
        crowded = lay_over(crowded, source="s1", at=245 + 2 * number)

    def frames_of(job: Job) -> Callable[[], object]:
        film = programme(job).film()
        return lambda: [make(film.recipe(n), target) for n in range(1, 41)]

    ours, bare = best_of(frames_of(crowded)), best_of(frames_of(plain))
    print(
        f"{'40 frames beside 200 overlays':<34} ours {ours:7.3f} s  bare {bare:7.3f} s  "
        f"ratio {ours / bare:5.2f} (aim 1.05)",
        flush=True,
    )


def small_job(folder: Path) -> Job:
    from waxseal.core.arrive.scanning import scan
    from waxseal.core.job.edits import add_sources
    from waxseal.core.job.model import Job

    frames = write_frames(folder, suffix=".png", count=240, width=640, height=360)
    return add_sources(Job(), sources=scan([frames]).sources)
