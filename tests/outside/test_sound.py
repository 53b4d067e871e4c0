"""Loudness against the published cases and a library that is not the one we measure with."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pyloudnorm
import pytest
import soundfile
import soxr
from numpy.typing import NDArray
from pymediainfo import MediaInfo

from tests.making import write_sequence
from waxseal.core.arrive.sources import scan
from waxseal.core.deliver.deliver import make_delivery
from waxseal.core.deliver.naming import path_of
from waxseal.core.job.edits import change_delivery, take_in
from waxseal.core.job.model import DeliveryState, Job
from waxseal.core.progress import CancelToken, silent
from waxseal.core.sound.loudness import loudness_of

RATE = 48_000


def sine(level_dbfs: float, seconds: float) -> NDArray[np.float64]:
    time = np.arange(round(seconds * RATE)) / RATE
    tone = 10 ** (level_dbfs / 20) * np.sin(2 * np.pi * 1000 * time)
    return np.stack([tone, tone], axis=1)


# EBU Tech 3341, minimum requirements 1 to 4, from memory: stereo sines of 1 kHz.
CASES = [
    ([(-23, 20)], -23.0),
    ([(-33, 20)], -33.0),
    ([(-36, 10), (-23, 60), (-36, 10)], -23.0),
    ([(-26, 20), (-20, 20.1), (-26, 20)], -23.0),
]


@pytest.mark.parametrize(("parts", "lufs"), CASES)
def test_the_cases_of_ebu_tech_3341(
    tmp_path: Path, parts: list[tuple[float, float]], lufs: float
) -> None:
    path = tmp_path / "a.wav"
    samples = np.concatenate([sine(level, seconds) for level, seconds in parts])
    soundfile.write(path, samples, RATE, subtype="FLOAT")
    measured = loudness_of(path)
    assert measured is not None
    assert measured.integrated_lufs == pytest.approx(lufs, abs=0.1)
    assert measured.integrated_lufs == pytest.approx(
        pyloudnorm.Meter(RATE).integrated_loudness(samples), abs=0.1
    )


def test_a_peak_between_the_samples_is_found(tmp_path: Path) -> None:
    """EBU Tech 3341, case 16, from memory: a quarter of the rate at 45° swings 3 dB higher."""
    path = tmp_path / "a.wav"
    wave = 0.5 * np.sin(np.pi / 2 * np.arange(RATE * 2) + np.pi / 4)
    wave *= np.minimum(1, np.minimum(np.arange(len(wave)), np.arange(len(wave))[::-1]) / 4800)
    soundfile.write(path, np.stack([wave, wave], axis=1), RATE, subtype="FLOAT")
    measured = loudness_of(path)
    assert measured is not None
    assert 20 * np.log10(np.abs(wave).max()) == pytest.approx(-9.03, abs=0.01)
    assert measured.true_peak_dbtp == pytest.approx(-6.0, abs=0.4)


def test_a_delivered_file_is_as_loud_as_another_library_finds(tmp_path: Path) -> None:
    """pyloudnorm for the loudness, four times the samples by soxr for the peak."""
    write_sequence(tmp_path / "a", frames=range(1, 97))
    noise = np.random.default_rng(8).standard_normal((RATE * 4, 2)) * 0.02
    noise[RATE : RATE + 300] *= 25
    soundfile.write(tmp_path / "noise.wav", noise, RATE, subtype="FLOAT")
    job = take_in(Job(), sources=scan([tmp_path]).sources, folder=str(tmp_path))
    fields: dict[str, object] = {"codec": "ProRes LT", "loudness": -16.0, "true_peak": -3.0}
    job = change_delivery(job, delivery="d1", **fields, timecode="10:00:00:00")
    outcome = make_delivery(job, job.deliveries[0], silent, CancelToken())
    assert outcome.state is DeliveryState.SEALED, outcome.reasons
    path = path_of(job.deliveries[0])
    with av.open(str(path), "r") as movie:
        samples = np.concatenate([one.to_ndarray() for one in movie.decode(audio=0)], axis=1)
    heard = samples.reshape(-1, 2).astype(np.float64) / 2**31
    assert pyloudnorm.Meter(RATE).integrated_loudness(heard) == pytest.approx(-16, abs=0.3)
    peak = np.abs(soxr.resample(heard, RATE, 4 * RATE, quality="VHQ")).max()
    assert 20 * np.log10(peak) == pytest.approx(-3.3, abs=0.4)
    assert 20 * np.log10(peak) <= -2.95
    tracks = MediaInfo.parse(str(path)).tracks
    assert any(track.to_data().get("time_code_of_first_frame") == "10:00:00:00" for track in tracks)
