"""What is wrong with a sound that is whole: clipped, silent, one-sided, out of phase."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray

from waxseal.core.sound.sound_findings import findings_in

RATE = 8_000


def tone(seconds: float, level: float = 0.3) -> NDArray[np.float32]:
    wave = level * np.sin(2 * np.pi * 440 * np.arange(round(seconds * RATE)) / RATE)
    return np.repeat(wave.astype(np.float32)[:, None], 2, axis=1)


def said(samples: NDArray[np.float32], block: int = 1000) -> list[str]:
    blocks = (samples[at : at + block] for at in range(0, len(samples), block))
    return [one.what for one in findings_in(blocks, RATE)]


def test_an_honest_sound_has_none() -> None:
    assert said(tone(5)) == []
    assert said(tone(5, level=1.0)) == [], "a wave that touches full scale is not cut"


@pytest.mark.parametrize("block", [1, 7, 1000, 100_000])
def test_clipped_places_are_counted_and_the_first_is_named(block: int) -> None:
    samples = tone(0.5)
    samples[1000:1004] = 1.0
    samples[2998:3003] = -1.0  # over the edge of two blocks
    samples[3500:3502] = 1.0  # two in a row may be chance
    assert said(samples, block) == ["it is clipped at 2 places, first at 0.125 s"]


@pytest.mark.parametrize("block", [999, 1000, 100_000])
def test_long_pauses_have_their_place(block: int) -> None:
    samples = np.concatenate([tone(1), 0 * tone(2.5), tone(1), 0 * tone(1), tone(0.5), 0 * tone(3)])
    # A wave is at nothing for a sample or so where it begins and ends.
    first, last = said(samples, block)
    assert first.startswith("it is silent from 1.0")
    assert first.endswith(" to 3.500 s")
    assert last.endswith(" to 9.000 s")


def test_silence_is_said_once() -> None:
    assert said(0 * tone(5)) == ["it is silent throughout"]


def test_sides_that_are_silent_or_against_each_other() -> None:
    left = tone(2)
    left[:, 1] = 0
    assert said(left) == ["its right side is silent"]
    against = tone(2)
    against[:, 1] *= -1
    assert said(against) == ["its sides are out of phase: in mono they cancel each other"]
