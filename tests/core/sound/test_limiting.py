from __future__ import annotations

import numpy as np
import pytest

from waxseal.core.sound.limiter import limited, true_peaks
from waxseal.core.sound.sample_types import Samples

RATE = 48_000


def noise(seconds: float = 2.5) -> Samples:
    """Quiet, with three bursts."""
    values = np.random.default_rng(4).standard_normal((int(seconds * RATE), 2)) * 0.05
    for at in (0, 50_000, len(values) - 40):
        values[at : at + 40] *= 30
    return values.astype(np.float32)


def turned(samples: Samples, block: int, ceiling: float = -6.0) -> Samples:
    parts = (samples[at : at + block] for at in range(0, len(samples), block))
    return np.concatenate(list(limited(parts, ceiling, RATE)))


def test_nothing_swings_above_the_ceiling_and_nothing_else_is_touched() -> None:
    samples = noise()
    held = turned(samples, 1024)
    assert held.shape == samples.shape
    assert true_peaks(samples).max() > 1
    assert true_peaks(held).max() <= 10 ** (-6 / 20) * 1.005
    np.testing.assert_array_equal(held[2000:49_000], samples[2000:49_000])


@pytest.mark.parametrize("block", [37, 960, RATE, 1 << 20])
def test_how_the_samples_come_makes_no_difference(block: int) -> None:
    np.testing.assert_allclose(turned(noise(), block), turned(noise(), 1024), atol=1e-6)


def test_what_is_quiet_enough_stays_bit_for_bit() -> None:
    samples = noise() * np.float32(0.01)
    np.testing.assert_array_equal(turned(samples, 4096), samples)
