"""Our own chime: three small bells upwards where all went well, two downwards where not."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile

from waxseal.core.folders import chimes_folder
from waxseal.core.private_folder import private_folder

__all__ = ["chime_file"]

RATE, APART, SECONDS = 48_000, 0.16, 1.1
GOOD, BAD = (523.25, 659.26, 783.99), (392.0, 311.13)  # hertz
PARTIALS = ((1.0, 1.0), (2.76, 0.4), (5.4, 0.15))  # of a struck bar: times the tone, how loud
LOUD = 0.22


def chime_file(*, is_good: bool) -> Path:
    """A WAV that is made when it is first needed. Raises OSError."""
    path = chimes_folder() / ("good.wav" if is_good else "bad.wav")
    if not path.is_file():
        tones = GOOD if is_good else BAD
        time = np.arange(int(RATE * SECONDS)) / RATE
        whole = np.zeros(len(time) + int(RATE * APART * len(tones)))
        for number, tone in enumerate(tones):
            bell = np.zeros(len(time))
            for times, loud in PARTIALS:
                bell += loud * np.sin(2 * np.pi * tone * times * time) * np.exp(-5 * times * time)
            begin = int(RATE * APART * number)
            whole[begin : begin + len(time)] += bell
        private_folder(path.parent)
        soundfile.write(path, LOUD * whole, RATE, subtype="PCM_16")
    return path
