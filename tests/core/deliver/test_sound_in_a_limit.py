"""A limit of bytes counts the sound: its bytes are taken off first, and advice on it was tried."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
import soundfile

from tests.making import gradient
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.edits import change_delivery, take_in
from waxseal.core.job.model import DeliveryState, Job, Outcome
from waxseal.core.progress import CancelToken, silent

SECONDS, RATE = 8, 48_000
USUAL = SECONDS * 192_000 // 8  # bytes of AAC in stereo


@pytest.fixture(scope="module")
def job(tmp_path_factory: pytest.TempPathFactory) -> Job:
    folder = tmp_path_factory.mktemp("limit")
    (folder / "a").mkdir()
    chance = np.random.default_rng(1)
    for number in range(1, SECONDS * 24 + 1):
        picture = gradient(number, width=160, height=90).astype(np.int16)
        grain = chance.integers(-6, 7, (90, 160, 1))
        values = np.clip(picture + grain, 0, 255).astype(np.uint8)
        write_pixels(folder / "a" / f"a.{number:04}.png", values)
    noise = 0.2 * chance.normal(size=(SECONDS * RATE, 2))
    soundfile.write(folder / "a" / "a.wav", noise.astype(np.float32), RATE, subtype="PCM_24")
    (folder / "out").mkdir()
    return take_in(Job(), sources=scan([folder / "a"]).sources, folder=str(folder / "out"))


def delivered(job: Job, **fields: object) -> Outcome:
    job = change_delivery(job, delivery="d1", **fields)
    return make_delivery(job, job.deliveries[0], silent, CancelToken(), overwrite=True)


def test_what_the_sound_alone_exceeds_is_refused_before_the_start(job: Job) -> None:
    outcome = delivered(job, most_bytes=USUAL * 4 // 5)
    assert outcome.state is DeliveryState.REFUSED
    assert "The sound alone takes about" in outcome.reasons[0]
    assert "lower sound bitrate" in outcome.reasons[0]


def test_advice_on_the_sound_was_tried_and_holds(job: Job) -> None:
    limit = USUAL * 104 // 100
    outcome = delivered(job, most_bytes=limit)
    assert outcome.state is DeliveryState.REFUSED
    advice = re.search(r"With a sound bitrate of (\d+)k it can", outcome.reasons[0])
    assert advice is not None, outcome.reasons
    again = delivered(job, most_bytes=limit, sound_bits=int(advice[1]) * 1000)
    assert again.state is DeliveryState.SEALED, again.reasons
    size = path_of(job.deliveries[0]).stat().st_size
    assert 0.9 * limit < size <= limit


@pytest.mark.parametrize("times", [1.5, 2.0, 3.0])
def test_the_picture_has_what_the_sound_leaves(job: Job, times: float) -> None:
    limit = int(USUAL * times)
    outcome = delivered(job, most_bytes=limit)
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    assert path_of(job.deliveries[0]).stat().st_size <= limit


def test_a_sound_has_the_bitrate_that_was_asked_for(job: Job, tmp_path: Path) -> None:
    sizes = {}
    for bits in (0, 64_000):
        outcome = delivered(job, sound_bits=bits, most_bytes=0)
        assert outcome.state is DeliveryState.SEALED, outcome.reasons
        sizes[bits] = outcome.size_bytes
    saved = sizes[0] - sizes[64_000]
    assert saved == pytest.approx(SECONDS * (192_000 - 64_000) / 8, rel=0.1)
