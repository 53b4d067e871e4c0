"""What comes from other machines is compared with this one's files and pictures before it counts.

A stand-in for the network gives each segment to a worker that sees a folder of its own under the
same path.
"""

from __future__ import annotations

import os
from asyncio import CancelledError
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from typing_extensions import override

from tests.making import gradient, job_of
from waxseal.core.deliver.encode.encode_state import EncodeOptions
from waxseal.core.deliver.encode.segments import cluster_backend
from waxseal.core.deliver.encode.segments.cluster_backend import (
    WorkerReply,
    encode_there,
    version_here,
)
from waxseal.core.deliver.encode.segments.segment_cuts import Piece
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.errors import DeliveryRefused
from waxseal.core.folders import segments_folder
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import DeliveryState, Job, Outcome
from waxseal.core.progress import CancelToken, silent

FRAMES = 60
THERE = EncodeOptions(cluster="tcp://elsewhere:1")
Worker = Callable[[Piece, str], Any]


def write_frames(folder: Path, changed: range = range(0)) -> None:
    """Frames without packing, so that all have one size, and one time."""
    folder.mkdir()
    for frame in range(1, FRAMES + 1):
        path = folder / f"shot.{frame:04d}.tga"
        values = gradient(frame, width=64, height=36)
        write_pixels(path, 255 - values if frame in changed else values)
        os.utime(path, (1_700_000_000, 1_700_000_000))


class Done:
    status = "finished"

    def __init__(self, work: Callable[[], object]) -> None:
        self._work = work

    def add_done_callback(self, act: Callable[[object], None]) -> None:
        act(self)

    def result(self, timeout: float | None = None) -> object:
        return self._work()

    def release(self) -> None:
        pass


class Lost(Done):
    status = "lost"

    @override
    def add_done_callback(self, act: Callable[[object], None]) -> None:
        pass


class Network:
    """A client of a scheduler. worker: does its part. lost_after: segments, then nobody answers."""

    status = "running"

    def __init__(self, worker: Worker, lost_after: int = 1000) -> None:
        self._worker, self._left = worker, lost_after

    def submit(self, _work: object, piece: Piece, wanted: str, **_more: object) -> Done:
        self._left -= 1
        if self._left < 0:
            self.status = "closed"
            return Lost(lambda: None)
        return Done(lambda: self._worker(piece, wanted))

    def nthreads(self) -> dict[str, int]:
        return {"tcp://elsewhere:2": 1}

    def cancel(self, *_asked: object, **_more: object) -> None:
        pass

    def close(self, **_more: object) -> None:
        pass


@pytest.fixture
def job(tmp_path: Path) -> Job:
    write_frames(tmp_path / "frames")
    return job_of(tmp_path / "frames")


@pytest.fixture
def elsewhere(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Callable[..., Worker]:
    """Makes a worker that sees other frames."""

    def make(changed: range, act: Worker = encode_there) -> Worker:
        frames, other, ours = (tmp_path / name for name in ("frames", "other", "ours"))
        write_frames(other, changed)

        def worker(piece: Piece, wanted: str) -> Any:
            frames.rename(ours)
            other.rename(frames)
            try:
                return act(piece, wanted)
            finally:
                frames.rename(other)
                ours.rename(frames)

        return worker

    return make


def delivered(job: Job, network: Network, monkeypatch: pytest.MonkeyPatch) -> Outcome:
    monkeypatch.setattr(cluster_backend, "connect", lambda _address: network)
    return make_delivery(job, job.deliveries[0], silent, CancelToken(), overwrite=True, who=THERE)


def kept() -> list[Path]:
    return list(segments_folder().glob("*.segment"))


@pytest.mark.parametrize(("codec", "container"), [("H.264", "MP4"), ("FFV1", "MKV"), ("PNG", "")])
@pytest.mark.parametrize("changed", [range(1, FRAMES + 1), range(24, FRAMES + 1)])
def test_a_worker_that_sees_other_files_is_found(
    job: Job,
    elsewhere: Callable[..., Worker],
    monkeypatch: pytest.MonkeyPatch,
    codec: str,
    container: str,
    changed: range,
) -> None:
    """The same names, sizes and times; only their contents are others."""
    job = change_delivery(job, delivery="d1", codec=codec, container=container)
    monkeypatch.setattr(cluster_backend, "FILES_COMPARED", 40)
    outcome = delivered(job, Network(elsewhere(changed)), monkeypatch)
    assert outcome.state is DeliveryState.REFUSED
    assert "sees other files" in outcome.reasons[0]
    # What was compared before stands; nothing of what was other is kept.
    again = make_delivery(job, job.deliveries[0], silent, CancelToken(), overwrite=True)
    assert again.state is DeliveryState.SEALED, again.reasons


@pytest.mark.parametrize(("codec", "container"), [("H.264", "MP4"), ("FFV1", "MKV")])
def test_a_worker_that_lies_about_its_files_is_found_by_its_pictures(
    job: Job,
    elsewhere: Callable[..., Worker],
    monkeypatch: pytest.MonkeyPatch,
    codec: str,
    container: str,
) -> None:
    job = change_delivery(job, delivery="d1", codec=codec, container=container)
    honest: dict[str, dict[str, str]] = {}

    def remembering(piece: Piece, wanted: str) -> WorkerReply:
        sent = encode_there(piece, wanted)
        honest[piece.key] = sent.digests
        return sent

    first = delivered(job, Network(remembering), monkeypatch)
    assert first.state is DeliveryState.SEALED, first.reasons
    for one in kept():
        one.unlink()

    def lying(piece: Piece, wanted: str) -> WorkerReply:
        return replace(encode_there(piece, wanted), digests=honest[piece.key])

    outcome = delivered(job, Network(elsewhere(range(1, FRAMES + 1), lying)), monkeypatch)
    assert outcome.state is DeliveryState.REFUSED
    assert "made other pictures of frame" in outcome.reasons[0]
    assert not kept()


def test_a_worker_whose_files_have_another_size_or_time_says_so(
    job: Job, elsewhere: Callable[..., Worker], monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    worker = elsewhere(range(0))
    os.utime(tmp_path / "other" / "shot.0030.tga", (1, 1))
    outcome = delivered(job, Network(worker), monkeypatch)
    assert outcome.state is DeliveryState.REFUSED
    assert "shot.0030.tga" in outcome.reasons[0]


@pytest.mark.parametrize("damage", ["bytes", "empty", "another", "nothing"])
def test_damaged_bytes_of_a_worker_are_refused(
    job: Job, monkeypatch: pytest.MonkeyPatch, damage: str
) -> None:
    def worker(piece: Piece, wanted: str) -> object:
        sent = encode_there(piece, wanted)
        body = bytearray(sent.body)
        body[len(body) // 2] ^= 1
        return {
            "bytes": replace(sent, body=bytes(body)),
            "empty": replace(sent, body=b""),
            "another": {"body": sent.body},
            "nothing": None,
        }[damage]

    outcome = delivered(job, Network(worker), monkeypatch)
    assert outcome.state is DeliveryState.REFUSED
    assert not kept()


def test_an_honest_cluster_gives_the_same_bytes(job: Job, monkeypatch: pytest.MonkeyPatch) -> None:
    there = delivered(job, Network(encode_there), monkeypatch)
    assert there.state is DeliveryState.SEALED, there.reasons
    assert kept()
    for one in kept():
        one.unlink()
    here = make_delivery(job, job.deliveries[0], silent, CancelToken(), overwrite=True)
    assert here.sha256 == there.sha256


def test_a_cluster_that_goes_away_leaves_the_rest_to_this_machine(
    job: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(cluster_backend, "LONGEST_ALONE", 0.5)
    outcome = delivered(job, Network(encode_there, lost_after=0), monkeypatch)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert "did not answer any more" in " ".join(outcome.notes)


@pytest.mark.parametrize("gone", [TimeoutError, CancelledError])
def test_a_worker_that_goes_away_with_what_it_made_leaves_it_to_another(
    job: Job, monkeypatch: pytest.MonkeyPatch, gone: type[BaseException]
) -> None:
    """It had said that it was done; then nobody has the segment any more."""
    asked: list[Piece] = []

    def worker(piece: Piece, wanted: str) -> object:
        asked.append(piece)
        if len(asked) == 1:
            raise gone
        return encode_there(piece, wanted)

    outcome = delivered(job, Network(worker), monkeypatch)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert asked


def test_an_error_of_a_worker_is_a_sentence(job: Job, monkeypatch: pytest.MonkeyPatch) -> None:
    def worker(_piece: Piece, _wanted: str) -> object:
        raise ModuleNotFoundError("No module named 'waxseal'")

    outcome = delivered(job, Network(worker), monkeypatch)
    assert outcome.state is DeliveryState.REFUSED
    assert "install the same Wax Seal" in outcome.reasons[0]


def test_a_worker_of_another_version_is_refused(job: Job) -> None:
    with pytest.raises(DeliveryRefused, match="install the same"):
        encode_there(None, "Wax Seal 9, PyAV 9, pictures 9")  # type: ignore[arg-type]
    assert version_here().startswith("Wax Seal")
