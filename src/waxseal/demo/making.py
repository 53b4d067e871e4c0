"""Makes the demo once, in the user's data folder, and builds its job."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.specs.apply_spec import add_as
from waxseal.core.deliver.specs.spec import Spec
from waxseal.core.deliver.specs.spec_book import shipped
from waxseal.core.errors import WaxSealError
from waxseal.core.frames.frame_writer import write_codes, write_pixels
from waxseal.core.job.corrections import Curve, Fade, FadeTo
from waxseal.core.job.edits import (
    change_delivery,
    change_overlay,
    change_reading,
    lay_over,
    put_behind,
    remove_shot,
    set_correction,
    set_ground,
    set_subject,
    take_in,
)
from waxseal.core.job.job_file import load, save
from waxseal.core.job.model import Job, StandIn, change
from waxseal.core.picture.transfer_tables import encode_srgb
from waxseal.core.progress import CancelToken, Report, silent
from waxseal.core.speedometer import Speedometer
from waxseal.demo.chimes import write_chimes, write_gears
from waxseal.demo.scenes import moonrise, passing, plate, title, wide_with_passes

if TYPE_CHECKING:
    from numpy.typing import NDArray

__all__ = ["NAME", "demo_job", "make_demo", "with_stand_ins"]

NAME = "The Brass Orrery"
VERSION = "3"
GONE, CUT_SHORT = (14, 27), 33  # of sh030
SECONDS = 10.0
THREADS = 2


@dataclass(frozen=True, slots=True)
class Shot:
    """A shot that is still to be traced: its files, its scene, how a picture is stored."""

    pattern: str
    first: int
    count: int
    scene: Callable[[int, int], Any]
    store: Callable[[Path, Any], None]


def make_demo(folder: Path, *, report: Report = silent, token: CancelToken | None = None) -> Path:
    """The demo's job file; what is not there yet is made, under a minute. Raises Cancelled."""
    done = folder / "made"
    job_file = folder / f"{NAME}.waxseal"
    if not done.is_file() or done.read_text() != VERSION:
        shutil.rmtree(folder / "frames", ignore_errors=True)
        make_frames(folder / "frames", report, token or CancelToken())
        save(build_job(folder), job_file)
        done.write_text(VERSION)
    elif not job_file.is_file():
        save(build_job(folder), job_file)
    return job_file


def make_frames(folder: Path, report: Report, token: CancelToken) -> None:
    shots = (
        Shot("sh010/sh010.{:04d}.exr", 1001, 96, wide_with_passes, store_with_passes),
        Shot("sh020/sh020_{:04d}.png", 1, 36, passing, store_png),
        Shot("sh030/sh030.{:04d}.tif", 1, 72, moonrise, store_tiff),
    )
    for shot in shots:
        (folder / shot.pattern).parent.mkdir(parents=True, exist_ok=True)
    write_chimes(folder / "chimes.wav", SECONDS)
    write_gears(folder / "sh010/sh010.wav", shots[0].count / 24)
    store_png(folder / "plate.png", plate())
    store_png(folder / "title.png", title())
    tasks = [partial(trace_frame, folder, shot, n) for shot in shots for n in range(shot.count)]
    speed = Speedometer("tracing", len(tasks))
    with ThreadPoolExecutor(THREADS, "trace") as pool:
        try:
            for done, _ in enumerate(pool.map(lambda task: task(), tasks), 1):
                token.check()
                report(speed.at(done))
        finally:
            pool.shutdown(cancel_futures=True)
    for number in GONE:
        (folder / f"sh030/sh030.{number:04d}.tif").unlink()
    short = folder / f"sh030/sh030.{CUT_SHORT:04d}.tif"
    with short.open("r+b") as file:
        file.truncate(short.stat().st_size * 6 // 10)
    os.utime(short, (0, 0))  # nobody is writing it any more


def trace_frame(folder: Path, shot: Shot, index: int) -> None:
    path = folder / shot.pattern.format(shot.first + index)
    shot.store(path, shot.scene(index, shot.count))


def store_exr(path: Path, light: NDArray[Any]) -> None:
    """Half, scene-linear, premultiplied, with its rate written in."""
    write_pixels(path, light, rate=Fraction(24), compression="zip:1", depth="half")


# Which channels of what is traced are which pass.
PASSES = {"diffuse": (0, 3), "specular": (3, 6), "emission": (6, 9), "depth": (9, 10)}
PASSES["matte"] = (10, 11)


def store_with_passes(path: Path, traced: tuple[NDArray[Any], NDArray[Any]]) -> None:
    """The beauty, and each pass in a file of its own beside it."""
    light, passes = traced
    store_exr(path, light)
    name, number, suffix = path.name.split(".")
    for kind, (first, stop) in PASSES.items():
        store_exr(path.with_name(f"{name}_{kind}.{number}.{suffix}"), passes[..., first:stop])


def store_png(path: Path, light: NDArray[Any]) -> None:
    """8-bit sRGB, straight alpha."""
    alpha = light[..., 3:]
    colour = encode_srgb(light[..., :3] / np.maximum(alpha, np.float32(1e-6)))
    codes = np.concatenate([colour, alpha], axis=2) * 255 + 0.5
    write_codes(path, codes.astype(np.uint8))


def store_tiff(path: Path, light: NDArray[Any]) -> None:
    """16-bit sRGB without alpha, not compressed: a cut one lacks its last lines."""
    codes = encode_srgb(light[..., :3]) * 65_535 + 0.5
    write_pixels(path, codes.astype(np.uint16), compression="none")


PLANET = 0.36  # of the frame's width, where it is on the whole

# Besides the wide one: a square, one with alpha, one under a limit.
DELIVERED_TO = ("square feed", "overlay with alpha", "chat attachment")


def build_job(folder: Path) -> Job:
    """The demo as a job: three shots, two sounds, four deliveries that sh030 still holds up."""
    out = folder / "delivered"
    out.mkdir(exist_ok=True)
    found = scan([folder / "frames"])
    job = take_in(Job(name=NAME), sources=found.sources, folder=str(out))
    by_name = {source.name: source.id for source in job.sequences}
    job = change_reading(job, source=by_name["sh020"], rate=Fraction(12))
    job = set_ground(job, colour="#10141d")
    job = with_title(job, by_name["title"], by_name["plate"])
    planet = next(shot.id for shot in job.reel.shots if shot.source == by_name["sh020"])
    job = set_subject(job, shot=planet, across=PLANET)  # whole in the square
    job = change(job, habits=change(job.habits, rate=None))
    job = change_delivery(job, delivery=job.deliveries[0].id, name="orrery_wide.mp4")
    for spec in DELIVERED_TO:
        job = add_as(job, shipped_named(spec), folder=str(out))
    return job


def shipped_named(name: str) -> Spec:
    return next(one for one in shipped() if one.name == name)


def with_title(job: Job, title: str, plate: str) -> Job:
    """The title over the first seconds, the plate behind everything; neither is a shot."""
    for shot in job.reel.shots:
        if shot.source in (title, plate):
            job = remove_shot(job, shot=shot.id)
    job = change_overlay(lay_over(job, source=title, at=13), overlay="o1", length=60)
    fade = Fade(frames_in=12, frames_out=16, to=FadeTo.CLEAR, curve=Curve.EASED)
    job = set_correction(job, of="o1", correction=fade)
    return put_behind(job, source=plate)


def demo_job(folder: Path, *, report: Report = silent, token: CancelToken | None = None) -> Job:
    return load(make_demo(folder, report=report, token=token))


def with_stand_ins(job: Job) -> Job:
    """The demo delivered without waiting for the renderer: the frame before stands in."""
    for source in job.sequences:
        if source.to_rerender:
            job = change_reading(job, source=source.id, stand_in=StandIn.HOLD)
    if not job.deliveries:
        raise WaxSealError("The demo job has no delivery: remove its folder to make it afresh.")
    return job
