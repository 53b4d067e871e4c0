"""The meters against the published cases, block by block."""

from __future__ import annotations

import numpy as np
import pytest

from waxseal.core.sound.level_meter import QUIETEST, Meter

RATE = 48_000


@pytest.mark.parametrize("level", [-23.0, -33.0])
def test_a_tone_is_as_loud_as_ebu_tech_3341_says(level: float) -> None:
    """Minimum requirements 1 and 2, from memory: a stereo sine of 1 kHz at -23 and -33 dBFS."""
    time = np.arange(20 * RATE) / RATE
    tone = (10 ** (level / 20) * np.sin(2 * np.pi * 1000 * time)).astype(np.float32)
    samples = np.stack([tone, tone], axis=1)
    meter = Meter(RATE, 2)
    parts = [meter.take(samples[at : at + 2048]) for at in range(0, len(samples), 2048)]
    said = parts[-1]
    assert (said.momentary, said.short, said.integrated) == pytest.approx([level] * 3, abs=0.1)
    assert said.peaks == pytest.approx([level] * 2, abs=0.1)
    assert said.true_peak == pytest.approx(level, abs=0.2)


def test_silence_and_mono_are_measured_too() -> None:
    said = Meter(RATE, 1).take(np.zeros((4096, 1), np.float32))
    assert said.peaks == (QUIETEST,)
    assert said.integrated <= -70
