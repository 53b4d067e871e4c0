"""A close look at a sound: where it is clipped or silent, and whether its sides agree.

The figures are common practice and have no source: three samples in a row at full scale are no
chance, two seconds of nothing are no pause of speech, and sides that cancel are heard in mono.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from waxseal.core.progress import CancelToken
from waxseal.core.sound.sample_types import Samples
from waxseal.core.sound.sound_files import probe_sound, read_blocks
from waxseal.core.text_format import counted

__all__ = ["SoundFinding", "findings_in", "look_closely"]

FULL, IN_A_ROW = 0.9999, 3
NOTHING = 10 ** (-90 / 20)
LEAST_PAUSE = 2.0  # seconds
SOMETHING = 10 ** (-60 / 20)  # the loudest sample of a side that is not silent
AGAINST = -0.7  # correlation of two sides


@dataclass(frozen=True, slots=True)
class SoundFinding:
    """first, last: seconds of the sound. what: the rest of a sentence about it.

    places: seconds at which it is clipped.
    """

    first: float
    last: float
    what: str
    places: tuple[float, ...] = ()


def look_closely(path: Path, token: CancelToken) -> tuple[SoundFinding, ...]:
    """Decode a whole sound and say what a listener would. Raises SoundError, Cancelled."""
    sound = probe_sound(path)
    blocks = read_blocks(path, start=0, block=sound.sample_rate)
    return findings_in(blocks, sound.sample_rate, token)


def findings_in(
    blocks: Iterable[Samples], sample_rate: int, token: CancelToken | None = None
) -> tuple[SoundFinding, ...]:
    """The same of samples, wherever they come from. Raises Cancelled."""
    looking = SoundScan(sample_rate)
    for block in blocks:
        if token is not None:
            token.check()
        looking.take(block)
    return looking.findings()


class SoundScan:
    """Takes a sound block by block."""

    def __init__(self, sample_rate: int) -> None:
        self._rate = sample_rate
        self._count = 0
        self._row = 0  # samples at full scale at the end of what was taken
        self._clips: list[int] = []  # where rows of them begin
        self._quiet_from: int | None = 0
        self._pauses: list[tuple[int, int]] = []
        self._peaks: NDArray[np.float64] = np.zeros(1)
        self._squares = np.zeros(2)
        self._products = 0.0

    def take(self, block: Samples) -> None:
        swings = np.abs(block)
        self._peaks = np.maximum(self._peaks, swings.max(axis=0, initial=0))
        if block.shape[1] == 2:
            self._squares += (block.astype(np.float64) ** 2).sum(axis=0)
            self._products += float((block[:, 0].astype(np.float64) * block[:, 1]).sum())
        loudest = swings.max(axis=1, initial=0)
        self._look_for_clips(loudest >= FULL)
        self._look_for_pauses(loudest > NOTHING)
        self._count += len(block)

    def _look_for_clips(self, is_full: NDArray[np.bool_]) -> None:
        if not is_full.any():
            self._row = 0
            return
        padded = np.concatenate([[False] * 1, np.ones(self._row, bool), is_full, [False]])
        edges = np.flatnonzero(np.diff(padded.astype(np.int8)))
        starts, ends = edges[::2], edges[1::2]
        begins = self._count - self._row
        for start, end in zip(starts, ends, strict=True):
            is_new = start > 0 or self._row < IN_A_ROW
            if end - start >= IN_A_ROW and is_new:
                self._clips.append(begins + int(start))
        self._row = int(ends[-1] - starts[-1]) if ends[-1] == len(padded) - 2 else 0

    def _look_for_pauses(self, is_heard: NDArray[np.bool_]) -> None:
        heard = np.flatnonzero(is_heard)
        if not len(heard):
            if self._quiet_from is None:
                self._quiet_from = self._count
            return
        places = heard + self._count
        if self._quiet_from is not None:
            self._pause(self._quiet_from, int(places[0]))
        gaps = np.flatnonzero(np.diff(places) >= LEAST_PAUSE * self._rate)
        for gap in gaps:
            self._pause(int(places[gap]) + 1, int(places[gap + 1]))
        last = int(places[-1]) + 1
        self._quiet_from = last if last < self._count + len(is_heard) else None

    def _pause(self, first: int, last: int) -> None:
        if last - first >= LEAST_PAUSE * self._rate:
            self._pauses.append((first, last))

    def findings(self) -> tuple[SoundFinding, ...]:
        found: list[SoundFinding] = []
        end = self._count / self._rate
        if self._peaks.max(initial=0) <= NOTHING:
            return (SoundFinding(0.0, end, "it is silent throughout"),)
        if self._quiet_from is not None:
            self._pause(self._quiet_from, self._count)
        if self._clips:
            clips = tuple(at / self._rate for at in self._clips)
            many = counted(len(clips), "place")
            words = f"it is clipped at {many}, first at {clips[0]:.3f} s"
            found.append(SoundFinding(clips[0], clips[-1], words, clips))
        for first, last in self._pauses:
            start, stop = first / self._rate, last / self._rate
            found.append(
                SoundFinding(start, stop, f"it is silent from {start:.3f} to {stop:.3f} s")
            )
        found += self._sides(end)
        return tuple(found)

    def _sides(self, end: float) -> list[SoundFinding]:
        if len(self._peaks) != 2:
            return []
        quiet = [side for side in (0, 1) if self._peaks[side] <= NOTHING]
        if quiet and self._peaks.max() > SOMETHING:
            return [SoundFinding(0.0, end, f"its {('left', 'right')[quiet[0]]} side is silent")]
        power = float(np.sqrt(self._squares[0] * self._squares[1]))
        if power > 0 and self._products / power < AGAINST:
            words = "its sides are out of phase: in mono they cancel each other"
            return [SoundFinding(0.0, end, words)]
        return []
