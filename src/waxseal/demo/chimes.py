"""The demo's sounds: a clockwork that ticks, chimes that ring out, gears that turn."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

__all__ = ["write_chimes", "write_gears"]

RATE, OTHER_RATE = 48_000, 44_100
Samples = NDArray[np.float64]

# Chimes: when (seconds), how high (Hz), where (0 left, 1 right).
CHIMES = (
    (0.0, 392.0, 0.4),
    (1.5, 493.9, 0.6),
    (3.0, 587.3, 0.35),
    (4.0, 784.0, 0.65),
    (5.5, 659.3, 0.5),
    (7.0, 440.0, 0.4),
    (8.0, 587.3, 0.6),
    (8.75, 784.0, 0.5),
)


def ring(hertz: float, seconds: float) -> Samples:
    """A struck bar: partials that are not harmonic, the high ones die first."""
    time = np.arange(int(seconds * RATE)) / RATE
    tone = np.zeros_like(time)
    for ratio, level, decay in ((1.0, 1.0, 1.6), (2.76, 0.5, 3.2), (5.40, 0.25, 6.0)):
        tone += level * np.sin(2 * np.pi * hertz * ratio * time) * np.exp(-decay * time)
    return np.asarray(tone * np.minimum(1, time * 400))


def tick(random: np.random.Generator) -> Samples:
    time = np.arange(int(0.05 * RATE)) / RATE
    body = np.sin(2 * np.pi * 2100 * time) + 0.6 * random.standard_normal(len(time))
    return np.asarray(body * np.exp(-time * 160))


def write_chimes(path: Path, seconds: float) -> None:
    """Write 24-bit stereo at 48 kHz, seeded: the same samples each time."""
    random = np.random.default_rng(11)
    mix = np.zeros((int(seconds * RATE), 2))
    for beat in range(int(seconds * 2)):
        sound = tick(random) * (0.10 if beat % 2 else 0.14)
        add(mix, sound, at=beat / 2, right=0.5)
    for at, hertz, right in CHIMES:
        add(mix, 0.16 * ring(hertz, 3.0), at=at, right=right)
    fade = np.minimum(1, np.arange(len(mix))[::-1] / (0.4 * RATE))
    soundfile.write(path, mix * fade[:, None], RATE, subtype="PCM_24")


def write_gears(path: Path, seconds: float) -> None:
    """Write what is heard of the first shot: gears that turn, at 44.1 kHz, 16 bits, in mono."""
    time = np.arange(int(seconds * OTHER_RATE)) / OTHER_RATE
    random = np.random.default_rng(12)
    hum = sum(np.sin(2 * np.pi * 55 * times * time) / times for times in (1, 2, 3, 5))
    teeth = random.standard_normal(len(time)) * np.exp(-((time * 8) % 1) * 14)
    swell = np.sin(np.pi * time / seconds) ** 0.5
    mix = (0.06 * hum + 0.10 * teeth) * swell
    soundfile.write(path, mix, OTHER_RATE, subtype="PCM_16")


def add(mix: Samples, sound: Samples, *, at: float, right: float) -> None:
    start = int(at * RATE)
    part = sound[: max(0, len(mix) - start)]
    mix[start : start + len(part), 0] += part * np.sqrt(1 - right)
    mix[start : start + len(part), 1] += part * np.sqrt(right)
