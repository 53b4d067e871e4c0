"""A disk that is too small for a delivery: it waits for room and goes on to the same bytes."""

from __future__ import annotations

import shutil
import subprocess
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import numpy as np
import pytest

from tests.making import job_of
from waxseal.core.deliver.encode import encode_state
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import DeliveryState, Job
from waxseal.core.progress import CancelToken, Progress, silent

ROOM = 6_000_000  # bytes


class Usage(NamedTuple):
    total: int
    used: int
    free: int


@pytest.fixture
def small(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """A disk of a few megabytes: mounted where that is allowed, else one that is counted."""
    disk = tmp_path / "disk"
    disk.mkdir()
    mount = ["mount", "-t", "tmpfs", "-o", f"size={ROOM}", "tmpfs", str(disk)]
    if subprocess.run(mount, capture_output=True, check=False).returncode == 0:
        yield disk
        subprocess.run(["umount", "--lazy", str(disk)], check=True)
        return
    real = shutil.disk_usage

    def usage(path: Path) -> object:
        if not Path(path).is_relative_to(disk):
            return real(path)
        used = sum(one.stat().st_size for one in disk.rglob("*") if one.is_file())
        return Usage(ROOM, used, max(0, ROOM - used))

    monkeypatch.setattr(shutil, "disk_usage", usage)
    yield disk


@pytest.fixture
def job(tmp_path: Path) -> Job:
    folder = tmp_path / "frames"
    folder.mkdir()
    ground = np.random.default_rng(0).integers(60, 180, (270, 480, 1)).astype(np.uint8)
    for number in range(1, 25):
        write_pixels(folder / f"n.{number:04}.png", np.roll(ground, number, 1).repeat(3, 2))
    job = job_of(folder)
    return change_delivery(job, delivery="d1", codec="ProRes LT", container="MOV", name="film")


@pytest.mark.usefixtures("short_segments")
def test_it_waits_for_room_and_goes_on(job: Job, small: Path, tmp_path: Path) -> None:
    (tmp_path / "wide").mkdir()
    wide = change_delivery(job, delivery="d1", folder=str(tmp_path / "wide"))
    whole = make_delivery(wide, wide.deliveries[0], silent, CancelToken())
    assert whole.state is DeliveryState.SEALED, whole.reasons
    narrow = change_delivery(job, delivery="d1", folder=str(small))
    junk = small / "junk"
    junk.write_bytes(bytes(ROOM - whole.size_bytes - 600_000))
    said: list[str] = []

    def report(progress: Progress) -> None:
        if progress.stage.startswith("waiting"):
            if not said:
                threading.Timer(0.5, junk.unlink).start()
            said.append(progress.stage)

    outcome = make_delivery(narrow, narrow.deliveries[0], report, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert said
    assert "more on the disk" in said[0]
    assert outcome.sha256 == whole.sha256


@pytest.mark.usefixtures("short_segments")
def test_where_nobody_makes_room_it_ends_in_words(
    job: Job, small: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(encode_state, "PATIENCE", 1.5)
    job = change_delivery(job, delivery="d1", folder=str(small), codec="ProRes HQ")
    (small / "junk").write_bytes(bytes(ROOM - 1_200_000))
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state in (DeliveryState.REFUSED, DeliveryState.SEALED)
    if outcome.state is DeliveryState.REFUSED:
        assert "disk" in outcome.reasons[0]
        assert [one.name for one in small.iterdir()] == ["junk"]
    else:
        assert path_of(job.deliveries[0]).is_file()  # a disk that is only counted has the room
