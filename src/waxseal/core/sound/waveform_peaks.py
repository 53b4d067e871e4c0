"""A sound as it is drawn: how loud it gets in each of a number of columns."""

from __future__ import annotations

from pathlib import Path

from waxseal.core.progress import CancelToken
from waxseal.core.sound.sound_files import probe_sound, read_blocks

__all__ = ["peaks_of"]


def peaks_of(path: Path, columns: int, token: CancelToken) -> tuple[float, ...]:
    """The largest sample of each column, 0..1. Raises SoundError, Cancelled."""
    sound = probe_sound(path)
    block = max(1, -(-sound.samples // columns))
    peaks = []
    for samples in read_blocks(path, start=0, block=block):
        token.check()
        peaks.append(min(1.0, float(abs(samples).max())))
    return tuple(peaks)
