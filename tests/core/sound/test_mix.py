from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.making import job_of, write_sequence, write_tone
from waxseal.core.errors import SoundError
from waxseal.core.job.edits import set_reel_rate
from waxseal.core.job.model import Job
from waxseal.core.plan.sound_pieces import sound_plan
from waxseal.core.plan.timeline import timeline_of
from waxseal.core.progress import CancelToken
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.sound.mix_plan import SoundPiece, SoundPlan
from waxseal.core.sound.sound_files import probe_sound, read_blocks
from waxseal.core.sound.waveform_peaks import peaks_of
from waxseal.core.timing.ranges import FrameRange


def job_with(tmp_path: Path, **tone: object) -> Job:
    write_tone(tmp_path / "frames" / "tone.wav", **tone)  # type: ignore[arg-type]
    return job_of(write_sequence(tmp_path / "frames", frames=range(1, 25)))


def heard(job: Job, first: int, last: int, rate: Fraction = Fraction(24)) -> NDArray[np.float32]:
    plan = sound_plan(timeline_of(set_reel_rate(job, rate=rate)), FrameRange(first, last))
    assert plan is not None
    blocks = list(mix_blocks(plan, 1024))
    assert all(len(block) == 1024 for block in blocks[:-1])
    samples = np.concatenate(blocks)
    assert len(samples) == plan.count
    return samples


def test_the_sound_is_as_long_as_the_picture_to_the_sample(tmp_path: Path) -> None:
    job = job_with(tmp_path, seconds=3.0)
    assert len(heard(job, 1, 24)) == 48_000
    assert len(heard(job, 1, 24, Fraction(24_000, 1001))) == 48_048
    assert len(heard(job, 1, 7, Fraction(30_000, 1001))) == 11_211  # 11211.2


def test_a_shorter_sound_is_followed_by_silence_and_a_longer_one_cut(tmp_path: Path) -> None:
    samples = heard(job_with(tmp_path, seconds=0.5), 1, 24)
    assert np.abs(samples[:24_000]).max() > 0.2
    assert np.abs(samples[24_000:]).max() == 0
    plan = sound_plan(timeline_of(job_with(tmp_path / "b", seconds=2.0)), FrameRange(1, 24))
    assert plan is not None
    assert plan.notes == ("The sound is 1.000 s longer than its frames: its tail is cut.",)


def test_a_part_sounds_as_it_does_in_the_whole(tmp_path: Path) -> None:
    for rate in (48_000, 44_100, 22_050):
        job = job_with(tmp_path / str(rate), seconds=1.0, rate=rate)
        whole, part = heard(job, 1, 24), heard(job, 13, 18)
        plan = sound_plan(timeline_of(job), FrameRange(13, 18))
        assert plan is not None
        np.testing.assert_allclose(part, whole[plan.start : plan.start + plan.count], atol=1e-6)


def test_other_rates_become_48_khz_and_keep_their_pitch(tmp_path: Path) -> None:
    job = job_with(tmp_path, seconds=1.0, rate=22_050, channels=1)
    samples = heard(job, 1, 24)[:, 0]
    assert len(samples) == 48_000
    spectrum = np.abs(np.fft.rfft(samples[4_000:44_000]))
    assert np.argmax(spectrum) * 48_000 / 40_000 == pytest.approx(1000, abs=2)


def test_channels_without_a_layout_are_refused(tmp_path: Path) -> None:
    job = job_with(tmp_path, channels=4)
    with pytest.raises(SoundError, match="mono, stereo or"):
        sound_plan(timeline_of(job), FrameRange(1, 2))


def test_no_sound_is_no_plan(tmp_path: Path) -> None:
    job = job_of(write_sequence(tmp_path / "frames"))
    assert sound_plan(timeline_of(job), FrameRange(1, 2)) is None


def test_peaks_are_drawn_from_the_samples(tmp_path: Path) -> None:
    peaks = peaks_of(write_tone(tmp_path / "tone.wav", seconds=1.0), 50, CancelToken())
    assert len(peaks) == 50
    assert peaks == pytest.approx([0.25] * 50, abs=0.01)


def test_several_sounds_are_placed_gained_and_added(tmp_path: Path) -> None:
    """Two tones, one later, half as loud, its head left out."""
    tone = probe_sound(write_tone(tmp_path / "tone.wav", seconds=1.0))
    first_piece = SoundPiece("m1", tone, at=0, count=48_000)
    late = SoundPiece("m2", tone, at=24_000, count=36_000, head=12_000, gain=0.5)
    both = SoundPlan(48_000, 2, 6_000, 48_000, (first_piece, late))
    one = SoundPlan(48_000, 2, 6_000, 48_000, (first_piece,))
    two = SoundPlan(48_000, 2, 6_000, 48_000, (late,))
    mixed, first, second = (
        np.concatenate(list(mix_blocks(plan, 1024))) for plan in (both, one, two)
    )
    assert len(mixed) == 48_000
    np.testing.assert_allclose(mixed, first + second, atol=1e-7)
    assert np.abs(second[:18_000]).max() == 0  # it begins at 24 000 of the reel
    assert np.abs(second[18_000:]).max() == pytest.approx(0.125, abs=1e-3)
    whole = np.concatenate(list(read_blocks(tmp_path / "tone.wav", start=12_000, block=1 << 20)))
    np.testing.assert_allclose(second[18_000 : 18_000 + 1000], whole[:1000] * 0.5, atol=1e-7)


def test_a_mono_sound_keeps_its_energy_beside_a_stereo_one(tmp_path: Path) -> None:
    mono = probe_sound(write_tone(tmp_path / "b.wav", channels=1))
    plan = SoundPlan(48_000, 2, 0, 100, (SoundPiece("m1", mono, 0, 100),))
    there = np.concatenate(list(read_blocks(tmp_path / "b.wav", start=0, block=100)))[:100]
    mixed = np.concatenate(list(mix_blocks(plan, 64)))
    np.testing.assert_allclose(mixed, np.repeat(there * 0.5**0.5, 2, axis=1), atol=1e-7)
