"""Waiting for frames: what is not whole is judged by whether it changes, not by anybody's clock."""

from __future__ import annotations

import threading
import time
from pathlib import Path

import pytest

from tests.making import aged, job_of, write_sequence
from waxseal.cli import when_complete
from waxseal.cli.when_complete import encoded_ahead, wait_for_all
from waxseal.core.errors import WaxSealError
from waxseal.core.progress import CancelToken


@pytest.fixture(autouse=True)
def impatient(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(when_complete, "PAUSE", 0.2)
    monkeypatch.setattr(when_complete, "SETTLING_NS", 1_000_000_000)


def test_a_file_that_grows_is_waited_for_whatever_its_time_says(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "a")
    last = sorted(folder.iterdir())[-1]
    whole = last.read_bytes()

    def grow() -> None:
        for share in range(1, 9):
            last.write_bytes(whole[: len(whole) * share // 8])
            aged(last)  # an hour behind
            time.sleep(0.4)

    last.write_bytes(whole[:40])
    aged(last)
    writer = threading.Thread(target=grow)
    writer.start()
    found = wait_for_all([folder], expecting=lambda one: one, token=CancelToken())
    writer.join()
    assert found.sources[0].damaged == ()  # type: ignore[union-attr]


def test_a_file_that_stays_cut_short_is_not_waited_for(tmp_path: Path) -> None:
    folder = write_sequence(tmp_path / "a")
    last = sorted(folder.iterdir())[-1]
    last.write_bytes(last.read_bytes()[:40])
    aged(last)
    found = wait_for_all([folder], expecting=lambda one: one, token=CancelToken())
    assert len(found.sources[0].damaged) == 1  # type: ignore[union-attr]


def test_a_process_that_ends_ends_no_waiting(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    class Ended:
        def deliver(self, *_: object, **__: object) -> None:
            raise WaxSealError("The encoding process ended.")

    monkeypatch.setattr(when_complete, "EncodingProcess", Ended)
    job = job_of(write_sequence(tmp_path / "a"))
    assert encoded_ahead(job, job.deliveries[0], CancelToken()) == 0
