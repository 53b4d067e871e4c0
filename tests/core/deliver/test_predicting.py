"""A prediction from a few segments is near what is made, and costs nothing twice."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from tests.making import job_of, write_tone
from waxseal.core.deliver.encode.segments import segment_cuts
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.deliver.run.prediction import predict, predicted
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery
from waxseal.core.job.model import DeliveryState, Job
from waxseal.core.progress import CancelToken, silent

COUNT = 120


@pytest.fixture
def job(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Job:
    """Ten segments; what is in them becomes busier."""
    for name in ("LONGEST", "LONGEST_ALONE"):
        monkeypatch.setattr(segment_cuts, name, 12)
    folder = tmp_path / "a"
    folder.mkdir()
    random = np.random.default_rng(2)
    ground = random.integers(60, 200, (72, 128, 3))
    for number in range(1, COUNT + 1):
        noise = random.normal(0, 2 + number / 12, ground.shape)
        picture = np.clip(np.roll(ground, number, 1) + noise, 0, 255).astype(np.uint8)
        write_pixels(folder / f"a.{number:04}.png", picture)
    write_tone(folder / "tone.wav", seconds=COUNT / 24)
    return job_of(folder)


@pytest.mark.parametrize(
    "fields",
    [
        *({}, {"codec": "ProRes LT"}, {"codec": "VP9"}, {"codec": "PNG"}),
        {"codec": "FFV1", "container": "MKV"},
    ],
)
def test_a_prediction_is_within_fifteen_percent(job: Job, fields: dict[str, str]) -> None:
    job = change_delivery(job, delivery="d1", **fields)
    found = predict(job, job.deliveries[0], silent, CancelToken())
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert found.size == pytest.approx(outcome.size_bytes, rel=0.15)
    assert found.seconds > 0
    assert outcome.segments_kept == 4  # those that were looked at


def test_what_is_wrong_is_said_before(job: Job) -> None:
    gone = change_delivery(job, delivery="d1", folder="/nowhere")
    found = predicted(gone, gone.deliveries[0], silent, CancelToken())
    assert found.state is DeliveryState.REFUSED
    assert "does not exist" in found.reasons[0]
    tight = change_delivery(job, delivery="d1", most_bytes=125_000)
    found = predicted(tight, tight.deliveries[0], silent, CancelToken())
    assert found.notes[0].endswith("at most 125.0 kB: its quality will be lowered")
