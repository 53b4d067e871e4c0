"""The loudness of a whole mix, as the rule draws it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray

from waxseal.core.errors import Cancelled
from waxseal.core.progress import CancelToken
from waxseal.core.sound.loudness import loudness_of
from waxseal.core.sound.loudness_course import STEPS_A_SECOND, course_of
from waxseal.core.sound.mix_plan import SoundPiece, SoundPlan
from waxseal.core.sound.sound_files import probe_sound

RATE = 48_000


def plan_of(path: Path, samples: NDArray[np.float64], lead: int = 0) -> SoundPlan:
    """One sound, `lead` samples after the start."""
    soundfile.write(path, samples, RATE, subtype="FLOAT")
    piece = SoundPiece("m1", probe_sound(path), lead, len(samples))
    return SoundPlan(RATE, samples.shape[1], 0, lead + len(samples), (piece,))


def tone(seconds: float, level: float) -> NDArray[np.float64]:
    wave = 10 ** (level / 20) * np.sin(2 * np.pi * 997 * np.arange(round(seconds * RATE)) / RATE)
    return np.repeat(wave[:, None], 2, axis=1)


def test_it_is_loud_where_the_mix_is_and_measures_what_the_file_does(tmp_path: Path) -> None:
    file = tmp_path / "a.wav"
    course = course_of(plan_of(file, np.concatenate([tone(2, -30), tone(2, -20)])), CancelToken())
    at = dict(course.points)
    assert len(course.momentary) == 4 * STEPS_A_SECOND
    assert at[1.5] == pytest.approx(-30, abs=0.1)
    assert at[3.5] == pytest.approx(-20, abs=0.1)
    whole = loudness_of(file)
    assert whole is not None
    assert course.integrated == pytest.approx(whole.integrated_lufs, abs=0.05)
    assert course.true_peak == pytest.approx(whole.true_peak_dbtp, abs=0.05)
    assert course.findings == ()


def test_what_is_clipped_or_silent_has_its_place_on_the_reel(tmp_path: Path) -> None:
    samples = tone(2, -20)
    samples[RATE : RATE + 5] = 1.0
    course = course_of(plan_of(tmp_path / "a.wav", samples, lead=3 * RATE), CancelToken())
    clipped, silent = course.findings
    assert clipped.places == pytest.approx([4.0])
    assert (silent.first, round(silent.last, 3)) == (0.0, 3.0)
    assert silent.places == ()


def test_silence_is_said_and_a_stop_is_heard(tmp_path: Path) -> None:
    plan = plan_of(tmp_path / "a.wav", np.zeros((RATE, 2)))
    assert course_of(plan, CancelToken()).is_silent
    token = CancelToken()
    token.cancel()
    with pytest.raises(Cancelled):
        course_of(plan, token)
