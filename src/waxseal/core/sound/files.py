"""Sound files: what they are, and their samples."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from waxseal.core.errors import SoundError
from waxseal.core.job.model import Sound
from waxseal.core.words import plain

__all__ = ["probe_sound", "read_blocks"]

if TYPE_CHECKING:  # NumPy starts slowly, and whoever only looks at sounds has no use for it
    import numpy as np
    from numpy.typing import NDArray

    Samples = NDArray[np.float32]

FORMATS = ("WAV", "WAVEX", "RF64", "W64", "FLAC")


def opened(path: Path) -> Any:
    """The gate to libsndfile. Raises SoundError."""
    import soundfile  # brings NumPy along

    try:
        file = soundfile.SoundFile(str(path))
    except (OSError, RuntimeError, TypeError) as error:
        reason = "it is not there" if not path.exists() else "it is no WAV or FLAC sound"
        if path.exists() and path.stat().st_size == 0:
            reason = "it is empty"
        raise SoundError(f"{plain(path.name)} cannot be heard: {reason}.", path=path) from error
    if file.format not in FORMATS:
        raise SoundError(
            f"{plain(path.name)} is {file.format}: give the sound as WAV or FLAC.", path=path
        )
    return file


def probe_sound(path: Path) -> Sound:
    """What a sound file holds. Raises SoundError."""
    with opened(path) as file:
        if file.frames < 1:
            raise SoundError(f"{plain(path.name)} has no samples in it.", path=path)
        return Sound(
            id="s0",
            name=plain(path.name),
            path=str(path),
            format="WAV" if file.format != "FLAC" else "FLAC",
            sample_rate=file.samplerate,
            channels=file.channels,
            samples=file.frames,
        )


def read_blocks(path: Path, *, start: int, block: int) -> Iterator[Samples]:
    """The samples of a file from `start` on, up to `block` at a time.

    Yields (count, channels) float32, full scale ±1. Raises SoundError.
    """
    with opened(path) as file:
        try:
            file.seek(min(start, file.frames))
            while len(heard := file.read(block, "float32", always_2d=True)):
                yield heard
        except RuntimeError as error:
            raise SoundError(f"{plain(path.name)} is damaged: {error}.", path=path) from error
