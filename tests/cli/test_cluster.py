"""Several machines, as two worker processes beside a scheduler: the same bytes."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from distributed import Client

from tests.cli.test_commands import answer, run
from tests.making import write_sequence, write_tone
from waxseal.core.folders import segments_folder
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.job_file import load, save

FRAMES = 240  # five segments of ProRes


def started(*words: str, core: int | None = None) -> subprocess.Popen[bytes]:
    held = [] if core is None else ["taskset", "--cpu-list", str(core)]
    return subprocess.Popen(
        [*held, sys.executable, "-m", "distributed.cli." + words[0], *words[1:], "--no-dashboard"],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )


@contextmanager
def cluster(
    folder: Path, workers: int = 2, *, is_held: bool = False
) -> Iterator[tuple[Path, list[subprocess.Popen[bytes]]]]:
    """A scheduler's file, and its workers, once all are there.

    is_held: whether each keeps to a core of its own, as long as there are as many.
    """
    file = folder / "scheduler.json"
    here = ["--host", "127.0.0.1"]
    scheduler = started("dask_scheduler", *here, "--port", "0", "--scheduler-file", str(file))
    processes = [scheduler]
    try:
        until = time.monotonic() + 60
        while not file.exists() and time.monotonic() < until:
            time.sleep(0.1)
        told = ["--scheduler-file", str(file), "--nthreads", "1", "--no-nanny"]
        hands = [
            started(
                *("dask_worker", *here, *told, "--local-directory", str(folder / f"w{number}")),
                core=number % (os.cpu_count() or 1) if is_held else None,
            )
            for number in range(workers)
        ]
        processes += hands
        if workers:
            with Client(scheduler_file=str(file), set_as_default=False) as client:
                client.wait_for_workers(workers, timeout=60)
        yield file, hands
    finally:
        for one in reversed(processes):
            one.kill()
            one.wait()


@pytest.fixture
def job(tmp_path: Path) -> Path:
    folder = write_sequence(
        tmp_path / "a", "a.%04d.png", frames=range(1, FRAMES + 1), width=320, height=180
    )
    write_tone(tmp_path / "a" / "tone.wav", seconds=10.0)
    path = tmp_path / "film.waxseal"
    assert run("new", path, folder, "--rate", "24", "--json").returncode == 0
    made = change_delivery(load(path), delivery="d1", codec="ProRes LT", container="MOV")
    save(change_delivery(made, delivery="d1", name="prores"), path)
    return path


def delivered(job: Path, *words: object) -> list[dict[str, object]]:
    shutil.rmtree(segments_folder(), ignore_errors=True)
    done = run("deliver", job, "--fresh", "--overwrite", "--json", *words)
    assert done.returncode == 0, done.stderr
    return list(answer(done)["deliveries"])


def kill_when_something_came(victim: subprocess.Popen[bytes]) -> None:
    """As soon as the first segment is there, and others are on their way."""
    until = time.monotonic() + 60
    while time.monotonic() < until and not list(segments_folder().glob("*.segment")):
        time.sleep(0.02)
    victim.kill()


@pytest.mark.alone
def test_two_machines_give_the_same_bytes_though_one_is_killed(job: Path, tmp_path: Path) -> None:
    here = delivered(job)
    with cluster(tmp_path) as (file, hands):
        shutil.rmtree(segments_folder())
        killer = threading.Thread(target=kill_when_something_came, args=(hands[0],))
        killer.start()
        there = delivered(job, "--cluster", file)
        killer.join()
        assert hands[0].wait() == -signal.SIGKILL
    assert there[0]["sha256"] == here[0]["sha256"]
    assert there[0]["segments"] == {"made": 5, "kept": 0}
    # What came from elsewhere is kept here.
    Path(str(there[0]["file"])).unlink()
    done = run("deliver", job, "--overwrite", "--json")
    assert answer(done)["deliveries"][0]["segments"] == {"made": 0, "kept": 5}


def test_nobody_there_is_said(tmp_path: Path, job: Path) -> None:
    """A port where nobody listens, a file of nothing, an address that is none."""
    (tmp_path / "s.json").write_text("{}")
    for address in ("tcp://127.0.0.1:1", tmp_path / "s.json", "nonsense://x", "\x1b[2J"):
        begun = time.monotonic()
        done = run("deliver", job, "--cluster", address)
        assert done.returncode == 1
        assert "No scheduler answers at" in done.stderr
        assert time.monotonic() < begun + 30


@pytest.mark.alone
def test_a_scheduler_without_a_worker_is_said_within_half_a_minute(
    tmp_path: Path, job: Path
) -> None:
    with cluster(tmp_path, workers=0) as (file, _):
        begun = time.monotonic()
        done = run("deliver", job, "--cluster", file)
        assert done.returncode == 1
        assert "has no worker" in done.stderr
        assert time.monotonic() < begun + 30


@pytest.mark.alone
def test_what_a_lost_cluster_had_not_encoded_is_encoded_here(job: Path, tmp_path: Path) -> None:
    here = delivered(job)
    with cluster(tmp_path) as (file, workers):
        shutil.rmtree(segments_folder())
        killers = [
            threading.Thread(target=kill_when_something_came, args=(one,)) for one in workers
        ]
        for one in killers:
            one.start()
        done = run("deliver", job, "--fresh", "--overwrite", "--json", "--cluster", file)
        assert done.returncode == 0, done.stderr
        (there,) = answer(done)["deliveries"]
        for one in killers:
            one.join()
    assert there["sha256"] == here[0]["sha256"]
    assert "did not answer any more" in done.stderr
