"""How loud what is played is, as it goes on."""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

import av
import numpy as np
from av.error import BlockingIOError as NotYet

from waxseal.core.sound.layouts import LAYOUTS
from waxseal.core.sound.sample_types import Samples

__all__ = ["QUIETEST", "Levels", "Meter"]

QUIETEST = -120.0  # dB: what is quieter is shown as this


@dataclass(frozen=True, slots=True)
class Levels:
    """peaks: of the last samples of each channel, in dBFS. true_peak: the most since the start,
    in dBTP. momentary, short, integrated: in LUFS, over 0.4 s, 3 s, and all since the start.
    """

    peaks: tuple[float, ...]
    true_peak: float = QUIETEST
    momentary: float = QUIETEST
    short: float = QUIETEST
    integrated: float = QUIETEST


class Meter:
    """Takes what is played, block by block.

    Source: EBU Tech 3341 and ITU-R BS.1770-5, by libavfilter, which measures each 0.1 s.
    """

    def __init__(self, sample_rate: int, channels: int) -> None:
        self._rate, self._channels = sample_rate, channels
        self._at = 0
        self._said: dict[str, str] = {}
        self._graph = av.filter.Graph()
        self._source = self._graph.add_abuffer(
            sample_rate=sample_rate,
            format="flt",
            layout=LAYOUTS[channels],
            time_base=Fraction(1, sample_rate),
        )
        meter = self._graph.add("ebur128", "metadata=1:peak=true")
        self._sink = self._graph.add("abuffersink")
        self._source.link_to(meter)
        meter.link_to(self._sink)
        self._graph.configure()

    def take(self, block: Samples) -> Levels:
        """How loud it is by the end of a block of (count, channels) samples."""
        frame = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(block).reshape(1, -1), format="flt", layout=LAYOUTS[self._channels]
        )
        frame.sample_rate, frame.pts = self._rate, self._at
        frame.time_base = Fraction(1, self._rate)
        self._at += len(block)
        self._source.push(frame)
        while True:
            try:
                said = self._sink.pull().metadata
            except (NotYet, EOFError):
                break
            self._said |= {str(name): str(value) for name, value in said.items()}
        peaks = np.abs(block).max(axis=0, initial=0)
        swing = self._number("true_peak", 0.0)
        return Levels(
            tuple(decibels(float(one)) for one in peaks),
            decibels(swing),
            self._number("M", QUIETEST),
            self._number("S", QUIETEST),
            self._number("I", QUIETEST),
        )

    def _number(self, name: str, usual: float) -> float:
        value = float(self._said.get(f"lavfi.r128.{name}", usual))
        return max(QUIETEST, value) if math.isfinite(value) else usual


def decibels(swing: float) -> float:
    return max(QUIETEST, 20 * math.log10(swing)) if swing > 0 else QUIETEST
