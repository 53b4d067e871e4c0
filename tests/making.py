"""Small sequences, sounds and jobs, made by code: no binaries in the repository."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from numpy.typing import NDArray

from waxseal.core.frames.writing import write_pixels

__all__ = ["gradient", "write_sequence", "write_tone"]


def gradient(
    frame: int, *, width: int = 64, height: int = 36, dtype: str = "uint8", channels: int = 3
) -> NDArray[Any]:
    """A picture that differs from frame to frame, exactly known: two ramps and a moving bar."""
    x = np.linspace(0, 1, width)[None, :]
    y = np.linspace(0, 1, height)[:, None]
    light = np.zeros((height, width, channels))
    light[..., 0] = x
    light[..., 1] = y
    light[..., 2] = 0.25
    bar = (frame * 3) % width
    light[:, bar : bar + 3, :3] = 0.9
    if channels == 4:
        light[..., 3] = 1.0
    if dtype in ("float16", "float32"):
        return light.astype(dtype)
    most = np.iinfo(dtype).max
    return (light * most + 0.5).astype(dtype)


def write_sequence(
    folder: Path,
    pattern: str = "shot.%04d.png",
    *,
    frames: range = range(1, 9),
    rate: Fraction | None = None,
    **kind: Any,
) -> Path:
    """Write frames named by a printf pattern; returns the folder."""
    folder.mkdir(parents=True, exist_ok=True)
    for frame in frames:
        write_pixels(folder / (pattern % frame), gradient(frame, **kind), rate=rate)
    return folder


def write_tone(path: Path, *, seconds: float = 1.0, rate: int = 48_000, channels: int = 2) -> Path:
    """A quiet 1 kHz tone."""
    time = np.arange(round(seconds * rate)) / rate
    tone = 0.25 * np.sin(2 * np.pi * 1000 * time)
    soundfile.write(path, np.repeat(tone[:, None], channels, axis=1), rate)
    return path
