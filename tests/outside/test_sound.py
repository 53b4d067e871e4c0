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
from waxseal.core.arrive.scanning import scan
from waxseal.core.deliver.format.output_path import path_of
from waxseal.core.deliver.run.delivery_run import make_delivery
from waxseal.core.job.edits import change_delivery, take_in
from waxseal.core.job.model import DeliveryState, Job
from waxseal.core.progress import CancelToken, silent
from waxseal.core.sound.level_meter import Meter
from waxseal.core.sound.loudness import loudness_of

RATE = 48_000


def sine(level_dbfs: float, seconds: float) -> NDArray[np.float64]:
    time = np.arange(round(seconds * RATE)) / RATE
    tone = 10 ** (level_dbfs / 20) * np.sin(2 * np.pi * 1000 * time)
    return np.stack([tone, tone], axis=1)


# EBU Tech 3341, minimum requirements 1 to 5, from memory: stereo sines of 1 kHz.
CASES = [
    ([(-23, 20)], -23.0),
    ([(-33, 20)], -33.0),
    ([(-36, 10), (-23, 60), (-36, 10)], -23.0),
    ([(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)], -23.0),
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


def test_the_surround_case_of_ebu_tech_3341(tmp_path: Path) -> None:
    """Case 6, from memory: sides -28, centre -24, surrounds -30 dBFS; the sixth counts nothing."""
    path = tmp_path / "a.wav"
    levels = (-28, -28, -24, -28, -30, -30)  # left, right, centre, low, left and right surround
    samples = np.stack([sine(level, 20)[:, 0] for level in levels], axis=1)
    soundfile.write(path, samples, RATE, subtype="FLOAT")
    measured = loudness_of(path)
    assert measured is not None
    assert measured.integrated_lufs == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize(
    ("loud", "soft", "times", "settled", "name"),
    [(1.34, 1.66, 5, 3.0, "short"), (0.18, 0.22, 25, 1.0, "momentary")],
)
def test_what_swings_within_the_window_is_read_as_steady(
    loud: float, soft: float, times: int, settled: float, name: str
) -> None:
    """EBU Tech 3341, cases 9 and 12, from memory: -23 LUFS once the window is full."""
    samples = np.concatenate([sine(-20, loud), sine(-30, soft)] * times).astype(np.float32)
    meter, step = Meter(RATE, 2), RATE // 10
    read = [
        getattr(meter.take(samples[at : at + step]), name) for at in range(0, len(samples), step)
    ]
    assert read[round(settled * 10) :] == pytest.approx(
        [-23.0] * (len(read) - round(settled * 10)), abs=0.1
    )


@pytest.mark.parametrize(
    ("each", "phase", "swing", "peak"),
    [
        (4, 0.0, 0.50, -6.0),
        (4, 45.0, 0.50, -6.0),
        (6, 60.0, 0.50, -6.0),
        (8, 67.5, 0.50, -6.0),
        (4, 45.0, 1.41, 3.0),
    ],
)
def test_a_peak_between_the_samples_is_found(
    tmp_path: Path, each: int, phase: float, swing: float, peak: float
) -> None:
    """EBU Tech 3341, cases 15 to 19, from memory: +0.2 to -0.4 dB. each: samples of a period."""
    path = tmp_path / "a.wav"
    wave = swing * np.sin(2 * np.pi / each * np.arange(RATE * 2) + np.deg2rad(phase))
    wave *= np.minimum(1, np.minimum(np.arange(len(wave)), np.arange(len(wave))[::-1]) / 4800)
    soundfile.write(path, np.stack([wave, wave], axis=1), RATE, subtype="FLOAT")
    measured = loudness_of(path)
    assert measured is not None
    assert -0.4 <= measured.true_peak_dbtp - peak <= 0.2


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
