"""A delivery as frames: scene-linear EXR, a file a frame, in a folder of its own."""

from __future__ import annotations

from collections import deque
from concurrent.futures import Future, ThreadPoolExecutor
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import xxhash
from numpy.typing import NDArray

from waxseal.core.deliver.encode import Supply, target_of
from waxseal.core.frames.headers import Header
from waxseal.core.frames.writing import write_light
from waxseal.core.job.model import Chromaticities, Delivery
from waxseal.core.picture.kernels import KernelChoice
from waxseal.core.plan.programme import Programme
from waxseal.core.progress import CancelToken, Report
from waxseal.core.safely import flush_to_disk
from waxseal.core.seal.frames import measure_frames
from waxseal.core.seal.measure import Measured
from waxseal.core.speed import Speedometer
from waxseal.core.timing.ranges import write_frames

__all__ = ["Written", "held_against", "put_folder_in_place", "strangers_in", "write_all"]

WRITERS = 2
WAITING = 6  # files that wait to be written


class Written:
    """What was put into the files. digests: of each frame's pixels, in order."""

    def __init__(self, contents_key: str) -> None:
        self.contents_key = contents_key
        self.digests: list[int] = []
        self.reel: Programme | None = None


def write_all(
    reel: Programme, delivery: Delivery, partial: Path, report: Report, token: CancelToken
) -> Written:
    """Write the reel's marked range into the folder `partial`, numbered as the reel is.

    Raises DeliveryRefused, OSError, Cancelled.
    """
    frames, written = reel.frames, Written(reel.contents_key())
    kernels = KernelChoice()
    kernels.warm_for(frames.count * reel.size.width * reel.size.height)
    supply = Supply(reel, target_of(reel, delivery), kernels, digest_of_planes)
    speed = Speedometer("encoding", frames.count)
    primaries = reel.job.reel.colour.working.chromaticities
    waiting: deque[Future[None]] = deque()
    partial.mkdir()
    try:
        with ThreadPoolExecutor(WRITERS, "write") as pool:
            for frame in range(frames.first, frames.last + 1):
                token.check()
                made = supply.next_made(frame, token)
                path = partial / delivery.frame_name(frame)
                waiting.append(
                    pool.submit(write_one, path, made.picture.planes[0], reel.rate, primaries)
                )
                written.digests.append(made.seen)
                if len(waiting) > WAITING:
                    waiting.popleft().result()
                report(speed.at(len(written.digests)))
            for one in waiting:
                one.result()
    finally:
        supply.close()
    written.reel = supply.reel
    return written


def write_one(
    path: Path, values: NDArray[np.float16], rate: Fraction, primaries: Chromaticities
) -> None:
    write_light(path, values, rate=rate, chromaticities=primaries)
    flush_to_disk(path)


def digest_of_planes(planes: tuple[NDArray[Any], ...]) -> int:
    return xxhash.xxh3_64_intdigest(planes[0].data)


def held_against(
    written: Written, reel: Programme, partial: Path, report: Report, token: CancelToken
) -> tuple[Measured, tuple[str, ...]]:
    """Read all of it again; what it is, and every way in which it is not what was made."""
    other: list[int] = []

    def look(place: int, values: NDArray[Any], _header: Header) -> None:
        if place >= len(written.digests) or digest_of_planes((values,)) != written.digests[place]:
            other.append(reel.frames.first + place)

    measured = measure_frames(partial, look=look, report=report, token=token)
    reasons = []
    if measured.frames != reel.frames.count:
        reasons.append(f"There are {measured.frames} frames; {reel.frames.count} were to be.")
    if measured.rate != reel.rate:
        reasons.append(f"Their rate is written as {measured.rate}; {reel.rate} was to be.")
    if (measured.width, measured.height) != (reel.size.width, reel.size.height):
        reasons.append(f"They are {measured.width} × {measured.height}; {reel.size} was to be.")
    if measured.damaged_frames:
        reasons.append(f"{measured.damaged_frames} of them are damaged.")
    if other:
        one = (
            "Frame {0} is not the reel's picture."
            if len(other) == 1
            else ("Frames {0} are not the reel's pictures.")
        )
        reasons.append(one.format(write_frames(other)))
    return measured, tuple(reasons)


def put_folder_in_place(partial: Path, path: Path, delivery: Delivery, *, overwrite: bool) -> None:
    """Give a finished folder its name; what it takes the place of is gone only then.

    Of what was there nothing goes but frames of this delivery. Raises
    FileExistsError where something is there that is not to be overwritten, OSError.
    """
    if not path.exists():
        partial.rename(path)
        return
    if not overwrite or strangers_in(path, delivery):
        raise FileExistsError(path)
    old = partial.with_name(f"{partial.name}.old")
    path.rename(old)
    try:
        partial.rename(path)
    except OSError:
        old.rename(path)
        raise
    for file in old.iterdir():
        if delivery.is_frame(file.name):
            file.unlink()
    old.rmdir()


def strangers_in(folder: Path, delivery: Delivery) -> list[str]:
    """What lies in a folder besides frames of a delivery."""
    return [one.name for one in folder.iterdir() if not delivery.is_frame(one.name)]
