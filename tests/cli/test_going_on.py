"""Nothing that waits is lost: what fails of books, workers and folders ends nothing behind it."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any

import pytest

from tests.cli.test_commands import answer, run, run_as_process
from tests.making import write_sequence
from waxseal.cli import job_commands
from waxseal.core.deliver.encode.segments.segment_store import SegmentStore
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.process import worker_process
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.errors import JobError, WorkerLost
from waxseal.core.folders import segments_folder
from waxseal.core.job.edits import add_delivery, change_delivery
from waxseal.core.job.job_file import load, save
from waxseal.core.job.model import Delivery, DeliveryState, Job, Outcome
from waxseal.core.progress import CancelToken, silent


@pytest.fixture
def job(tmp_path: Path) -> Path:
    """A job with three deliveries."""
    frames = write_sequence(tmp_path / "frames", frames=range(1, 7))
    path = tmp_path / "job" / "film.waxseal"
    path.parent.mkdir()
    assert run("new", path, frames, "--rate", "24").returncode == 0
    made = change_delivery(load(path), delivery="d1", folder=str(tmp_path))
    for name in ("second", "third"):
        made = add_delivery(made, name=name, folder=str(tmp_path))
    save(made, path)
    return path


def files(job: Path) -> list[Path]:
    return [path_of(one) for one in load(job).deliveries]


# ---- book-keeping --------------------------------------------------------------------------------


@pytest.mark.parametrize("what", ["gone", "newer", "half", "locked"])
def test_a_job_that_cannot_be_written_to_ends_nothing(
    job: Path, monkeypatch: pytest.MonkeyPatch, what: str
) -> None:
    targets = files(job)
    whole = job.read_text()
    keep = job_commands.keep_outcome

    def spoilt(path: Path, delivery: Delivery, outcome: Outcome) -> list[str]:
        if what == "gone":
            path.unlink(missing_ok=True)
        elif what == "newer":
            path.write_text(json.dumps(json.loads(whole) | {"schema": 99}))
        elif what == "half":
            path.write_text(whole[: len(whole) // 2])
        return list(keep(path, delivery, outcome))

    def unwritable(_job: Job, path: Path) -> None:
        raise JobError(f"{path} cannot be written: Read-only file system.")

    with monkeypatch.context() as patched:
        patched.setattr(job_commands, "keep_outcome", spoilt)
        if what == "locked":
            patched.setattr(job_commands, "save", unwritable)
        done = run("deliver", job, "--json")
    assert done.returncode == 1
    told = answer(done)
    assert [one["state"] for one in told["deliveries"]] == ["sealed"] * 3
    assert all(path.exists() for path in targets)
    assert len(told["troubles"]) == 3
    assert "could not be noted in the job" in done.stderr
    # The next run goes on: it makes them again out of what was kept, without a question.
    job.write_text(whole)
    again = answer(run("deliver", job, "--json"))["deliveries"]
    assert [one["state"] for one in again] == ["sealed"] * 3
    assert all(one["segments"]["made"] == 0 for one in again)


def test_a_worker_that_is_lost_is_its_own_deliverys_trouble(
    job: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    deliver, count = worker_process.EncodingProcess.deliver, iter(range(10))

    def lost(self: worker_process.EncodingProcess, *words: Any, **more: Any) -> Any:
        if next(count) == 1:
            self.close()
            raise WorkerLost("The encoding process ended without a message.")
        return deliver(self, *words, **more)

    monkeypatch.setattr(worker_process.EncodingProcess, "deliver", lost)
    done = run("deliver", job, "--json")
    assert done.returncode == 1
    states = [one["state"] for one in answer(done)["deliveries"]]
    assert states == ["sealed", "refused", "sealed"]


def workers_of(process: int) -> list[int]:
    """The numbers of the encoding processes that a command has started."""
    found = []
    for folder in Path("/proc").iterdir():
        if folder.name.isdecimal():
            try:
                parent = int((folder / "stat").read_text().rpartition(")")[2].split()[1])
                words = (folder / "cmdline").read_bytes()
            except OSError:
                continue
            if parent == process and b"process.worker" in words:
                found.append(int(folder.name))
    return found


@pytest.mark.alone
def test_a_worker_that_is_killed_ends_one_delivery(tmp_path: Path) -> None:
    frames = write_sequence(
        tmp_path / "frames", frames=range(1, 200), width=640, height=360, dtype="uint8"
    )
    job = tmp_path / "film.waxseal"
    assert run("new", job, frames, "--rate", "24").returncode == 0
    made = change_delivery(load(job), delivery="d1", folder=str(tmp_path))
    made = add_delivery(made, name="second", folder=str(tmp_path))
    save(change_delivery(made, delivery=made.deliveries[1].id, codec="MJPEG"), job)
    process = subprocess.Popen(
        [sys.executable, "-m", "waxseal.cli.main", "deliver", str(job), "--json"],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
    )
    until = time.monotonic() + 60
    killed = False
    while time.monotonic() < until and not killed:
        partials = list(tmp_path.glob(".*.partial"))
        for worker in workers_of(process.pid) if partials else ():
            os.kill(worker, signal.SIGKILL)
            killed = True
        time.sleep(0.02)
    out, errors = process.communicate(timeout=120)
    assert killed
    assert process.returncode == 1
    states = [one["state"] for one in json.loads(out)["deliveries"]]
    assert states == ["refused", "sealed"]
    assert b"Traceback" not in errors
    assert not list(tmp_path.glob(".*.partial"))


# ---- a stop --------------------------------------------------------------------------------------


def test_a_stop_is_heard_while_segments_come_out_of_the_store(
    job: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    value = load(job)
    token = CancelToken()
    found = 0
    find = SegmentStore.find

    def counted(self: Any, key: str) -> Any:
        nonlocal found
        found += 1
        token.cancel()
        return find(self, key)

    monkeypatch.setattr("waxseal.core.deliver.encode.segments.segment_cuts.LONGEST", 2)
    monkeypatch.setattr("waxseal.core.deliver.encode.segments.segment_cuts.SHORTEST", 1)
    first = make_delivery(value, value.deliveries[0], silent, CancelToken())
    assert first.state is DeliveryState.SEALED
    monkeypatch.setattr(SegmentStore, "find", counted)
    outcome = make_delivery(value, value.deliveries[0], silent, token, overwrite=True)
    assert outcome.state is DeliveryState.STOPPED
    assert found <= 3


@pytest.mark.alone
def test_an_orphan_that_hears_nothing_ends_itself(tmp_path: Path) -> None:
    """Its input closes as when its parent dies, while it is stuck in something of a library."""
    script = (
        "import threading, time\n"
        "from waxseal.core.deliver.process import worker\n"
        "from waxseal.core.progress import CancelToken\n"
        "worker.DEADLINE = 1.0\n"
        "threading.Thread(target=worker.wait_for_end, args=(CancelToken(),), daemon=True).start()\n"
        "while True: time.sleep(0.1)\n"
    )
    process = subprocess.Popen([sys.executable, "-c", script], stdin=subprocess.PIPE)
    assert process.stdin is not None
    time.sleep(1)
    process.stdin.close()
    assert process.wait(20) == 70


@pytest.mark.alone
def test_a_worker_that_hears_no_stop_is_ended(job: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    stuck = "import sys, time\nsys.stdin.readline()\nwhile True: time.sleep(1)\n"
    process = subprocess.Popen(
        [sys.executable, "-c", stuck], stdin=subprocess.PIPE, stdout=subprocess.PIPE
    )
    monkeypatch.setattr(worker_process, "start_process", lambda: process)
    monkeypatch.setattr(worker_process, "DEADLINE", 0.5)
    token = CancelToken()
    threading.Timer(0.5, token.cancel).start()
    value = load(job)
    begun = time.monotonic()
    outcome = worker_process.EncodingProcess().deliver(
        value, value.deliveries[0], report=silent, token=token
    )
    assert outcome.state is DeliveryState.STOPPED
    assert time.monotonic() < begun + 10
    assert process.poll() is not None


# ---- folders, and afresh -------------------------------------------------------------------------


def test_a_missing_folder_is_made_once_or_refused_once(job: Path, tmp_path: Path) -> None:
    out = tmp_path / "not" / "there"
    done = run("deliver", job, "--out", out)
    assert done.returncode == 0, done.stderr
    assert len(list(out.glob("*.mp4"))) == 3
    (tmp_path / "file").write_text("in the way")
    refused = run("deliver", job, "--out", tmp_path / "file" / "below")
    assert refused.returncode == 2
    assert len(refused.stderr.splitlines()) == 1


def test_afresh_nothing_is_taken_from_the_store(job: Path) -> None:
    before = answer(run("deliver", job, "--json"))["deliveries"]
    assert list(segments_folder().glob("*.segment"))
    again = answer(run("deliver", job, "--fresh", "--json"))["deliveries"]
    assert [one["segments"]["kept"] for one in again] == [0] * 3
    assert all(one["segments"]["made"] for one in again)
    assert [one["sha256"] for one in again] == [one["sha256"] for one in before]


def test_a_check_counts_what_it_looks_at(job: Path) -> None:
    """A container that does not say how many frames it has is no reason for a line a frame."""
    assert run("deliver", job).returncode == 0
    for path in files(job):
        done = run_as_process("check", path)
        assert " of 0" not in done.stderr
        assert len(done.stderr.splitlines()) < 6


def test_a_worker_whose_command_is_gone_ends_without_a_traceback(tmp_path: Path) -> None:
    """It writes to a pipe that nobody reads any more; what it has to say is for nobody."""
    frames = write_sequence(tmp_path / "frames", frames=range(1, 200), width=320, height=180)
    words = ("assemble", str(frames), "--rate", "24", "--quality", "master")
    command = subprocess.Popen(
        [sys.executable, "-m", "waxseal.cli.main", *words, "--out", str(tmp_path / "a.mp4")],
        stderr=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
    )
    assert command.stderr is not None
    said = b""
    while b"encoding" not in said:
        part = os.read(command.stderr.fileno(), 4096)
        assert part, said
        said += part
    command.kill()
    while part := os.read(command.stderr.fileno(), 4096):  # until the last who could write is gone
        said += part
    command.wait()
    command.stderr.close()
    assert b"Traceback" not in said
    assert b"Broken pipe" not in said
