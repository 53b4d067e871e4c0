"""What segments cost and save, on a minute of grainy, moving pictures in six shots.

`python -m benchmarks.segments` prints: the bytes and the time in segments against one piece
with the same greatest distance of key frames; a delivery after one frame was rendered again,
and one that was all there, against the whole; the check against the encode; two sizes that are
made together against one after the other; one worker of Dask against two of one core each, and
against four that are held to a part of a core each, as machines would be that are so much slower.
"""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext
from pathlib import Path
from typing import Any
from unittest.mock import patch

import numpy as np

from tests.cli.test_cluster import cluster
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.encode.encode_state import EncodeOptions
from waxseal.core.deliver.encode.segments import segment_cuts
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.folders import segments_folder
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import add_delivery, change_delivery, take_in
from waxseal.core.job.model import DeliveryState, Job, Size
from waxseal.core.progress import CancelToken, Progress, silent

WIDE, TALL, SHOTS, FRAMES = 640, 360, 6, 240
CORES = 2  # of a machine that the four share
PART, TURN = 0.4, 0.1  # of a core that a worker of four has; seconds


def write_shot(folder: Path, seed: int) -> None:
    folder.mkdir()
    random = np.random.default_rng(seed)
    ground = random.integers(40, 215, (TALL // 4, WIDE // 4, 3)).astype(np.uint8)
    ground = np.kron(ground, np.ones((4, 4, 1), np.uint8))
    for number in range(1, FRAMES + 1):
        moved = np.roll(ground, (number, number * 2), (0, 1)).astype(np.float32)
        moved += random.normal(0, 5, moved.shape).astype(np.float32)
        values = np.clip(moved, 0, 255).astype(np.uint8)
        write_pixels(folder / f"{folder.name}.{number:04}.png", values)


def film(place: Path) -> Job:
    for shot in range(SHOTS):
        write_shot(place / f"sh{shot}", shot)
    return take_in(Job(), sources=scan([place]).sources, folder=str(place))


class Timed:
    """A delivery, and how long its encode and its check took."""

    def __init__(self, job: Job, who: EncodeOptions | None = None, **fields: Any) -> None:
        job = change_delivery(job, delivery="d1", **fields)
        self.check = 0.0
        begun = time.monotonic()
        self._check_begun = 0.0
        outcome = make_delivery(
            job,
            job.deliveries[0],
            self._report,
            CancelToken(),
            overwrite=True,
            who=who or EncodeOptions(),
        )
        self.whole = time.monotonic() - begun
        if outcome.state is not DeliveryState.SEALED:
            raise SystemExit(f"not sealed: {outcome.reasons}")
        self.check = time.monotonic() - self._check_begun
        self.encode = self.whole - self.check
        self.bytes, self.sha256 = outcome.size_bytes, outcome.sha256

    def _report(self, progress: Progress) -> None:
        if progress.stage == "checking" and not self._check_begun:
            self._check_begun = time.monotonic()


def clean(job: Job, who: EncodeOptions | None = None, **fields: Any) -> Timed:
    shutil.rmtree(segments_folder(), ignore_errors=True)
    return Timed(job, who, **fields)


def say(name: str, value: float, aim: str) -> None:
    sys.stdout.write(f"{name:<44} {value:6.3f}  (aim {aim})\n")
    sys.stdout.flush()


def in_one_piece(job: Job, **fields: Any) -> Timed:
    def whole(_form: ResolvedFormat) -> tuple[int, int]:
        return 1 << 30, 1 << 30

    with patch.object(segment_cuts, "lengths_for", whole):
        return clean(job, **fields)


def two_sizes(job: Job, *, are_together: bool) -> float:
    """Seconds that the reel and a smaller size of it take, in this order."""
    folder = job.deliveries[0].folder
    job = add_delivery(job, name="small", folder=folder)
    job = change_delivery(job, delivery="d2", size=Size(width=WIDE * 2 // 3, height=TALL * 2 // 3))
    shutil.rmtree(segments_folder(), ignore_errors=True)
    left, begun = list(job.deliveries), time.monotonic()
    while left:
        one, *left = left
        beside = left if are_together else []
        outcome = make_delivery(job, one, silent, CancelToken(), overwrite=True, beside=beside)
        if outcome.state is not DeliveryState.SEALED:
            raise SystemExit(f"not sealed: {outcome.reasons}")
    return time.monotonic() - begun


@contextmanager
def slowed(processes: list[subprocess.Popen[bytes]]) -> Iterator[None]:
    """Let each process run for its part of the time: those of one core after one another."""
    is_over = threading.Event()
    turns = (processes[:CORES], processes[CORES:])

    def act() -> None:
        while not is_over.is_set():
            for turn in turns:
                send(turn, signal.SIGCONT)
                is_over.wait(PART * TURN)
                send(turn, signal.SIGSTOP)
                is_over.wait((1 / len(turns) - PART) * TURN)

    send(processes, signal.SIGSTOP)
    keeper = threading.Thread(target=act)
    keeper.start()
    try:
        yield
    finally:
        is_over.set()
        keeper.join()
        send(processes, signal.SIGCONT)


def send(processes: list[subprocess.Popen[bytes]], mark: signal.Signals) -> None:
    for one in processes:
        one.send_signal(mark)


def by_cluster(job: Job, place: Path, workers: int, *, is_slow: bool) -> float:
    """Seconds of an encode by so many workers, each with a core of its own or a part of one."""
    with (
        cluster(place, workers, is_held=True) as (file, hands),
        slowed(hands) if is_slow else nullcontext(),
    ):
        seconds = clean(job, EncodeOptions(cluster=str(file)), key_seconds=4.0).encode
    (place / "scheduler.json").unlink(missing_ok=True)
    return seconds


def main() -> None:
    with tempfile.TemporaryDirectory() as text:
        place = Path(text)
        os.environ["XDG_CACHE_HOME"] = str(place / "cache")
        job = film(place)
        keys: dict[str, Any] = {"key_seconds": 4.0}
        for codec, container in (("H.264", "MP4"), ("H.265", "MP4")):
            fields: dict[str, Any] = {"codec": codec, "container": container, **keys}
            one, many = in_one_piece(job, **fields), clean(job, **fields)
            say(f"{codec}: bytes, segments against one piece", many.bytes / one.bytes, "1.03")
            say(f"{codec}: time, segments against one piece", many.encode / one.encode, "1.0")
            if codec == "H.264":
                say("check against encode", many.check / many.encode, "0.20")
                frame = place / "sh2" / "sh2.0100.png"
                write_pixels(frame, np.full((TALL, WIDE, 3), 90, np.uint8))
                changed = Timed(job, **fields).encode / many.encode
                say("one frame changed, of the whole encode", changed, "0.10")
                there = Timed(job, **fields).encode / many.encode
                say("all there, of the whole encode", there, "as little as joining takes")
        apart, together = (two_sizes(job, are_together=one) for one in (False, True))
        say("two sizes together, of one after the other", together / apart, "less than 1")
        for workers, is_slow, cores, aim in (
            (2, False, "1 core", "1.8"),
            (4, True, f"{PART} cores", "4 at best"),
        ):
            took = [by_cluster(job, place, count, is_slow=is_slow) for count in (1, workers)]
            name = f"one worker of Dask against {workers}, {cores} each"
            say(name, took[0] / took[1], aim)


if __name__ == "__main__":
    main()
