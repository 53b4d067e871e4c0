"""What a device is given is what a delivery mixes, and it is the clock."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray
from typing_extensions import override

from waxseal.core.sound.audio_devices import SilentOutlet, Take, open_outlet
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.sound.mix_plan import SoundPiece, SoundPlan
from waxseal.core.sound.sound_files import probe_sound
from waxseal.core.sound.speaker import Feed, Speaker

RATE, COUNT = 48_000, 24_000
PATIENCE = 30


@pytest.fixture
def plan(tmp_path: Path) -> SoundPlan:
    """Half a second of noise at another rate than the plan's, so that it is resampled."""
    noise = np.random.default_rng(1).standard_normal((22_050, 2)) * 0.1
    soundfile.write(tmp_path / "noise.wav", noise, 44_100, subtype="FLOAT")
    piece = SoundPiece("m1", probe_sound(tmp_path / "noise.wav"), 0, COUNT)
    return SoundPlan(RATE, 2, 0, COUNT, (piece,))


class Kept:
    """Opens silent outlets that keep what they are given."""

    def __init__(self) -> None:
        self.outlets: list[SilentOutlet] = []

    def __call__(self, sample_rate: int, channels: int, _name: str) -> SilentOutlet:
        self.outlets.append(SilentOutlet(sample_rate, channels, keeps=True))
        return self.outlets[-1]

    @property
    def given(self) -> NDArray[np.float32]:
        return np.concatenate([part for one in self.outlets for part in one.given])


@pytest.fixture
def kept() -> Kept:
    return Kept()


@pytest.fixture
def speaker(kept: Kept) -> Iterator[Speaker]:
    made = Speaker(kept)
    yield made
    made.close()


def wait_until(is_so: Callable[[], bool]) -> None:
    end = time.monotonic() + PATIENCE
    while not is_so():
        assert time.monotonic() < end, "it takes too long"
        time.sleep(0.01)


def place_of(speaker: Speaker) -> float:
    place = speaker.place
    return -1.0 if place is None else place


def heard_part(given: NDArray[np.float32]) -> NDArray[np.float32]:
    """Without the silence around it."""
    loud = np.flatnonzero(np.abs(given).max(axis=1))
    return given[loud[0] : loud[-1] + 1]


def test_the_device_is_given_what_a_delivery_mixes_bit_for_bit(
    plan: SoundPlan, speaker: Speaker, kept: Kept
) -> None:
    mixed = np.concatenate(list(mix_blocks(plan, 1000)))
    speaker.play(Feed(plan, 0, COUNT, 0))
    wait_until(lambda: place_of(speaker) > COUNT + 2000)
    speaker.close()
    np.testing.assert_array_equal(heard_part(kept.given)[: len(mixed)], heard_part(mixed))


def test_it_begins_in_the_middle_with_the_same_samples_but_for_a_seam(
    plan: SoundPlan, speaker: Speaker, kept: Kept
) -> None:
    mixed = np.concatenate(list(mix_blocks(plan, 1000)))
    speaker.play(Feed(plan, 0, COUNT, 10_000))
    wait_until(lambda: place_of(speaker) > COUNT + 2000)
    speaker.close()
    given = kept.given
    loud = np.flatnonzero(np.abs(given).max(axis=1))
    at = loud[-1] + 1 - (COUNT - 10_000)
    np.testing.assert_array_equal(given[at + 96 : loud[-1] + 1], mixed[10_096:])
    assert np.abs(given[at]).max() < np.abs(mixed[10_000:10_096]).max(), "no click"


def test_the_place_goes_with_the_clock_and_round_the_loop(
    plan: SoundPlan, speaker: Speaker
) -> None:
    began = time.monotonic()
    speaker.play(Feed(plan, 0, COUNT, 0, loops=True))
    wait_until(lambda: time.monotonic() - began > 0.9)
    place, gone = place_of(speaker), time.monotonic() - began
    assert 0 <= place < COUNT
    away = (gone * RATE - place) % COUNT  # what the device took to open
    assert min(away, COUNT - away) < 0.25 * RATE


def test_backwards_is_heard_backwards(plan: SoundPlan, speaker: Speaker, kept: Kept) -> None:
    mixed = np.concatenate(list(mix_blocks(plan, 1000)))
    speaker.play(Feed(plan, 0, COUNT, COUNT - 1, is_backwards=True))
    wait_until(lambda: place_of(speaker) < -2000 and place_of(speaker) != -1.0)
    speaker.close()
    np.testing.assert_array_equal(heard_part(kept.given), heard_part(mixed[::-1]))


@pytest.mark.parametrize("speed", [Fraction(1, 2), Fraction(2)])
def test_at_another_speed_the_pitch_is_kept(
    tmp_path: Path, speaker: Speaker, kept: Kept, speed: Fraction
) -> None:
    tone = 0.3 * np.sin(2 * np.pi * 1000 * np.arange(RATE) / RATE)
    soundfile.write(tmp_path / "tone.wav", tone, RATE, subtype="FLOAT")
    piece = SoundPiece("m1", probe_sound(tmp_path / "tone.wav"), 0, RATE)
    speaker.play(Feed(SoundPlan(RATE, 1, 0, RATE, (piece,)), 0, RATE, 0, speed=speed))
    wait_until(lambda: place_of(speaker) > RATE + 2000)
    speaker.close()
    heard = heard_part(kept.given)[:, 0]
    heard = heard[heard != 0]  # on a busy machine silence stands for what was not there in time
    assert len(heard) == pytest.approx(RATE / speed, rel=0.05)
    middle = heard[len(heard) // 4 : len(heard) // 2]
    spectrum = np.abs(np.fft.rfft(middle * np.hanning(len(middle))))
    assert np.argmax(spectrum) * RATE / len(middle) == pytest.approx(1000, rel=0.01)


class Dying(SilentOutlet):
    """A device that is pulled out once it has played a little."""

    @property
    @override
    def is_alive(self) -> bool:
        return self.heard < 0.1 * RATE


def test_a_device_that_goes_away_is_said_and_time_goes_on(plan: SoundPlan) -> None:
    speaker = Speaker(lambda rate, channels, _name: Dying(rate, channels))
    speaker.play(Feed(plan, 0, 10 * RATE, 0))
    wait_until(lambda: place_of(speaker) > 0.3 * RATE)
    assert "went away" in speaker.trouble
    speaker.close()


class Refusing(SilentOutlet):
    @override
    def start(self, take: Take) -> None:
        raise OSError("it is in use")


def test_a_device_that_does_not_start_is_replaced_by_silence(plan: SoundPlan) -> None:
    speaker = Speaker(lambda rate, channels, _name: Refusing(rate, channels))
    speaker.play(Feed(plan, 0, COUNT, 0))
    wait_until(lambda: place_of(speaker) > 1000)
    assert speaker.is_silent
    speaker.close()


def test_a_sound_that_is_gone_is_said_and_time_goes_on(plan: SoundPlan, speaker: Speaker) -> None:
    Path(plan.pieces[0].sound.path).unlink()
    speaker.play(Feed(plan, 0, COUNT, 0))
    wait_until(lambda: place_of(speaker) > 1000)
    assert "it is not there" in speaker.trouble


def test_without_a_device_a_silent_one_goes_by_the_wall(plan: SoundPlan) -> None:
    outlet = open_outlet(plan.sample_rate, plan.channels, "no device has this name, surely")
    assert outlet.sample_rate == plan.sample_rate
    outlet.start(lambda count: np.zeros((count, plan.channels), np.float32))
    wait_until(lambda: outlet.heard > 1000)
    outlet.stop()


def test_after_a_device_went_away_another_is_looked_for_at_the_next_opening(
    plan: SoundPlan,
) -> None:
    opened: list[SilentOutlet] = []

    def opener(sample_rate: int, channels: int, _name: str) -> SilentOutlet:
        opened.append(Dying(sample_rate, channels))
        return opened[-1]

    speaker = Speaker(opener)
    speaker.play(Feed(plan, 0, 10 * RATE, 0))
    wait_until(lambda: place_of(speaker) > 0.2 * RATE)
    assert len(opened) == 1, "what goes on is a silent one of ours"
    speaker.close()
    speaker.play(Feed(plan, 0, COUNT, 0))
    wait_until(lambda: len(opened) == 2)
    speaker.close()
