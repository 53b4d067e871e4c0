"""Sounds from any place on: resampled, stretched, decoded once; layouts; ducking."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile
import soxr
from numpy.typing import NDArray

from tests.making import write_tone
from waxseal.core.job.model import change
from waxseal.core.sound.channel_mixing import mixing
from waxseal.core.sound.mix import Mixer, mix_blocks
from waxseal.core.sound.mix_plan import Ducked, SoundPiece, SoundPlan
from waxseal.core.sound.sample_types import Samples
from waxseal.core.sound.sound_files import probe_sound
from waxseal.core.sound.sound_source import Decoded, at_speed, heard_length, heard_sound

RATE = 48_000


def noise(count: int, channels: int = 2) -> NDArray[np.float32]:
    return (np.random.default_rng(1).standard_normal((count, channels)) * 0.1).astype(np.float32)


@pytest.mark.parametrize("rate", [44_100, 96_000, 22_050, 32_000, 47_952])
def test_resampling_is_soxrs_wherever_reading_begins(tmp_path: Path, rate: int) -> None:
    """As the library does it with the whole sound in one go, at its best quality."""
    there = noise(rate * 4)
    soundfile.write(tmp_path / "a.wav", there, rate, subtype="FLOAT")
    whole = soxr.resample(there, rate, RATE, quality="VHQ")
    heard = heard_sound(probe_sound(tmp_path / "a.wav"), RATE)
    read = heard.read(0, len(whole))
    np.testing.assert_allclose(read, whole, atol=1e-6)
    for first, count in ((150_000, 1000), (7, 100_000), (65_530, 10), (-5, 20)):
        part = heard.read(first, count)
        inside = part[max(0, -first) :]
        np.testing.assert_array_equal(inside, read[max(0, first) : first + count])
    assert np.abs(heard.read(len(whole) - 3, 10)[3:]).max() == 0
    heard.close()


def test_a_sound_that_runs_faster_is_shorter_and_higher(tmp_path: Path) -> None:
    sound = probe_sound(write_tone(tmp_path / "a.wav", seconds=2))
    faster = change(sound, speed=Fraction(25, 24))
    assert heard_length(faster, RATE) == round(96_000 * 24 / 25)
    heard = heard_sound(faster, RATE)
    samples = heard.read(10_000, 48_000)[:, 0]
    spectrum = np.abs(np.fft.rfft(samples * np.hanning(len(samples))))
    assert np.argmax(spectrum) == pytest.approx(1000 * 25 / 24, abs=1)
    heard.close()


def test_what_comes_one_after_the_other_is_kept_as_it_comes() -> None:
    there = noise(100_000)
    made = 0

    def parts() -> Iterator[Samples]:
        nonlocal made
        for at in range(0, len(there), 1000):
            made += 1
            yield there[at : at + 1000]

    heard = Decoded(parts(), 2)
    np.testing.assert_array_equal(heard.read(5_000, 500), there[5_000:5_500])
    assert made == 6, "no more than was asked for"
    np.testing.assert_array_equal(heard.read(0, 100), there[:100])
    np.testing.assert_array_equal(heard.read(99_950, 100)[:50], there[99_950:])
    assert np.abs(heard.read(99_950, 100)[50:]).max() == 0
    heard.close()


@pytest.mark.parametrize("speed", [Fraction(1, 4), Fraction(1, 2), Fraction(4, 5), Fraction(2)])
def test_at_another_speed_the_length_is_exact_and_the_same_every_time(speed: Fraction) -> None:
    there = noise(RATE)
    made = at_speed(there, speed, RATE)
    assert made.shape == (round(RATE / speed), 2)
    np.testing.assert_array_equal(made, at_speed(there, speed, RATE))


def test_layouts_are_mixed_with_their_energy() -> None:
    """ITU-R BS.775-3, table 2, from memory: 0.7071 for the centre and the surrounds."""
    half = np.sqrt(0.5)
    down = mixing(6, 2, 1.0, 0.0)
    assert down is not None
    np.testing.assert_allclose(down, [[1, 0, half, 0, half, 0], [0, 1, half, 0, 0, half]])
    mono = mixing(2, 1, 1.0, 0.0)
    assert mono is not None
    np.testing.assert_allclose(mono, [[half, half]])
    up = mixing(1, 2, 2.0, 0.0)
    assert up is not None
    np.testing.assert_allclose(up, [[2 * half], [2 * half]])
    assert mixing(2, 2, 1.0, 0.0) is None, "nothing is done to it"
    for pan in (-1.0, -0.5, 0.25, 1.0):
        panned = mixing(1, 2, 1.0, pan)
        assert panned is not None
        assert np.sum(panned**2) == pytest.approx(1, abs=1e-6)


def test_a_sound_ducks_while_another_is_heard(tmp_path: Path) -> None:
    """Music for four seconds, a voice in the second one."""
    music = probe_sound(write_tone(tmp_path / "music.wav", seconds=4, channels=1))
    voice = probe_sound(write_tone(tmp_path / "voice.wav", seconds=1, channels=1))
    ducked = SoundPiece("m1", music, 0, 4 * RATE, ducked=Ducked("m2", 12.0))
    speaks = SoundPiece("m2", voice, RATE, RATE)
    both = SoundPlan(RATE, 1, 0, 4 * RATE, (ducked, speaks))
    mixed = np.concatenate(list(mix_blocks(both, 4096)))
    alone = np.concatenate(
        list(
            mix_blocks(
                SoundPlan(RATE, 1, 0, 4 * RATE, (SoundPiece("m1", music, 0, 4 * RATE),)), 4096
            )
        )
    )
    said = np.concatenate(list(mix_blocks(SoundPlan(RATE, 1, 0, 4 * RATE, (speaks,)), 4096)))
    left = mixed - said

    def level(seconds: float) -> float:
        at = slice(round(seconds * RATE), round(seconds * RATE) + 2400)
        power = float((left[at] ** 2).mean() / (alone[at] ** 2).mean())
        return 10 * float(np.log10(power))

    assert level(0.3) == pytest.approx(0, abs=0.05)
    assert level(1.1) == pytest.approx(-12, abs=0.1)
    assert level(1.9) == pytest.approx(-12, abs=0.1)
    assert -12 < level(2.6) < -1  # on its way back
    assert level(3.5) == pytest.approx(0, abs=0.05)
    mixer = Mixer(both)
    np.testing.assert_array_equal(mixer.read(70_000, 5000), mixed[70_000:75_000])
    mixer.close()
