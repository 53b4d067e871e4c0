"""What a picture costs beyond its decoding, against the plainest kernels over the same libraries.

Frames are in memory, one thread, processor time; best of several turns. The last row is a film's,
as a delivery makes its pictures: from files, by its threads.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.bare import compiled_kernel, kernel_convert, linear_table
from benchmarks.frames import write_frames

__all__ = ["measure_pictures"]


def cost_of(rounds: int, act: Callable[[], object]) -> float:
    """Processor seconds of one call."""
    act()
    times = []
    for _ in range(rounds):
        start = time.process_time()
        act()
        times.append(time.process_time() - start)
    return min(times)


def tell(name: str, ours: float, floor: float, aim: float) -> None:
    print(
        f"{name:<44} ours {ours * 1000:7.1f} ms  bare {floor * 1000:7.1f} ms  "
        f"ratio {ours / floor:5.2f} (aim {aim:g})",
        flush=True,
    )


def measure_pictures(folder: Path, rounds: int) -> None:
    from waxseal.core.arrive.scanning import scan
    from waxseal.core.job.corrections import Cdl, Vignette
    from waxseal.core.job.edits import (
        add_sources,
        change_colourway,
        change_join,
        lay_over,
        put_on_reel,
        set_correction,
    )
    from waxseal.core.job.model import Job, JoinKind, Sequence, View
    from waxseal.core.picture.compile_kernels import ready_kernels
    from waxseal.core.picture.light.light_reader import decode_pick
    from waxseal.core.picture.make import make
    from waxseal.core.picture.target import Layout, Target
    from waxseal.core.plan.programme import recipe
    from waxseal.core.progress import silent

    cost = partial(cost_of, rounds)
    ready_kernels(silent)
    target = Target(1920, 1080, Layout.YUV420)

    def job_of(suffix: str) -> Job:
        frames = write_frames(folder, suffix=suffix, count=240, width=1920, height=1080)
        sources = [one for one in scan([frames]).sources if isinstance(one, Sequence)]
        return put_on_reel(add_sources(Job(), sources=sources), sources=["s1"])

    def whole(job: Job) -> float:
        """Decoded anew each time: layers beside the first cannot be handed over."""
        one = recipe(job, 1)
        return cost(lambda: make(one, target))

    def beyond(job: Job) -> float:
        one = recipe(job, 1)
        assert one.shot is not None
        pixels = decode_pick(one.shot.pick)
        return cost(lambda: make(one, target, pixels=pixels))

    exr = job_of(".exr")
    one = recipe(exr, 1)
    assert one.shot is not None
    pick = one.shot.pick
    values = decode_pick(pick).values.view(np.uint16)
    fill, table = compiled_kernel(), linear_table()
    floor = cost(lambda: kernel_convert(values, table, fill))
    tell("1080p EXR to planes, beyond decoding", beyond(exr), floor, 1.2)

    png = job_of(".png")
    eight = (np.arange(256) / 255).astype(np.float32)
    bare = cost(lambda: kernel_convert(read_codes(png), eight, fill))
    tell("1080p PNG untouched, with decoding", whole(png), bare, 1.1)

    single = whole(exr)
    opaque = whole(lay_over(exr, source="s1", at=1))
    tell("two layers over, against one", opaque, single, 2.2)
    two = add_sources(exr, sources=[half_clear(folder, decode_pick(pick).values)])
    tell(
        "a half-clear layer over, against one", whole(lay_over(two, source="s2", at=1)), single, 2.2
    )
    graded = set_correction(exr, of="a1", correction=Cdl(power=(1.1, 1.0, 0.9)))
    graded = set_correction(graded, of="a1", correction=Vignette())
    tell("CDL and vignette, beyond decoding", beyond(graded), floor, 20)
    aces = change_colourway(exr, view=View.ACES_SDR)
    tell("ACES view, beyond decoding", beyond(aces), floor, 15)
    idle = set_correction(exr, of="a1", correction=Cdl())
    tell("a finish that does nothing", beyond(idle), beyond(exr), 1.05)
    twice = put_on_reel(exr, sources=["s1"])
    twice = change_join(twice, shot="a2", kind=JoinKind.DISSOLVE, length=239)
    mixed = recipe(twice, 120)
    dissolve = cost(lambda: make(mixed, target))
    tell("a frame of a dissolve, against one shot's", dissolve, single, 4.5)
    behind, alone = still_behind(folder, target)
    tell("a 2160p still behind, against none, a frame", behind, alone, 1.5)


def still_behind(folder: Path, target: Any) -> tuple[float, float]:
    """Processor seconds a frame of a film of clear frames, with a still behind and without."""
    from waxseal.core.arrive.scanning import scan
    from waxseal.core.deliver.encode.prefetch import PictureOrder, Prefetch
    from waxseal.core.job.edits import add_sources, put_behind, put_on_reel
    from waxseal.core.job.model import Job
    from waxseal.core.plan.programme import programme

    count = 24
    moves = write_frames(
        folder, suffix=".png", count=count, width=target.width, height=target.height, is_clear=True
    )
    still = write_frames(folder, suffix=".png", count=1, width=3840, height=2160)
    sources = [one for path in (moves, still) for one in scan([path]).sources]
    job = put_on_reel(add_sources(Job(), sources=sources), sources=["s1"])

    def supply(job: Job) -> None:
        film = programme(job).film()
        pictures = Prefetch([PictureOrder(film, target, lambda _: None)])
        for number in film.frames:
            pictures.next_made(number)
        pictures.close()

    behind = partial(supply, put_behind(job, source="s2"))
    return cost_of(2, behind) / count, cost_of(2, partial(supply, job)) / count


def half_clear(folder: Path, values: Any) -> Any:
    """A still of the frame, covering half."""
    from waxseal.core.arrive.scanning import scan
    from waxseal.core.frames.frame_writer import write_light

    path = folder / "half clear" / "half.exr"
    path.parent.mkdir(exist_ok=True)
    alpha = np.full((*values.shape[:2], 1), 0.5, np.float16)
    write_light(path, np.concatenate([values[..., :3] * np.float16(0.5), alpha], axis=2))
    return scan([path]).sources[0]


def read_codes(job: Any) -> Any:
    from benchmarks.bare import read_png

    return read_png(job.sequences[0].files.path_of(job.sequences[0].range.first))
