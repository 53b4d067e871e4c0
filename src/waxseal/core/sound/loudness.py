"""How loud a sound is as a whole, and how far its wave really swings."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.error import BlockingIOError as NotYet
from av.error import FFmpegError

from waxseal.core.errors import SoundError
from waxseal.core.progress import CancelToken
from waxseal.core.sound.layouts import LAYOUTS
from waxseal.core.sound.sample_types import Samples
from waxseal.core.sound.sound_files import probe_sound, read_blocks
from waxseal.core.text_format import plain

__all__ = ["Loudness", "loudness_in", "loudness_of"]

SILENCE_LUFS = -70.0  # the absolute gate of BS.1770: below it nothing counts
QUIETEST_DBTP = -120.0


@dataclass(frozen=True, slots=True)
class Loudness:
    """integrated_lufs: None where nothing is louder than the gate."""

    integrated_lufs: float | None
    true_peak_dbtp: float


def loudness_of(path: Path, token: CancelToken | None = None) -> Loudness | None:
    """Measure a whole sound; None for a number of channels that the standard has no weights for.

    Raises SoundError, Cancelled.
    """
    sound = probe_sound(path)
    blocks = read_blocks(path, start=0, block=sound.sample_rate)
    try:
        return loudness_in(blocks, sound.sample_rate, sound.channels, token)
    except FFmpegError as error:
        raise SoundError(f"{plain(path.name)} cannot be measured: {error}.", path=path) from error


def loudness_in(
    blocks: Iterable[Samples], sample_rate: int, channels: int, token: CancelToken | None = None
) -> Loudness | None:
    """The same of samples, wherever they come from. Raises FFmpegError, Cancelled.

    Source: ITU-R BS.1770-5, EBU R 128, by libavfilter.
    """
    if channels not in LAYOUTS:
        return None
    layout = LAYOUTS[channels]
    graph = av.filter.Graph()
    unit = Fraction(1, sample_rate)
    source = graph.add_abuffer(
        sample_rate=sample_rate, format="fltp", layout=layout, time_base=unit
    )
    meter = graph.add("ebur128", "metadata=1:peak=true")
    sink = graph.add("abuffersink")
    source.link_to(meter)
    meter.link_to(sink)
    graph.configure()
    at, told = 0, dict[str, str]()
    for block in blocks:
        if token is not None:
            token.check()
        frame = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(block.T), format="fltp", layout=layout
        )
        frame.sample_rate, frame.pts, frame.time_base = sample_rate, at, unit
        at += len(block)
        source.push(frame)
        told |= last_of(measure(sink))
    source.push(None)
    told |= last_of(measure(sink))
    lufs = float(told.get("lavfi.r128.I", SILENCE_LUFS))
    peak = float(told.get("lavfi.r128.true_peak", 0))
    return Loudness(
        integrated_lufs=lufs if lufs > SILENCE_LUFS else None,
        true_peak_dbtp=float(20 * np.log10(peak)) if peak > 0 else QUIETEST_DBTP,
    )


def measure(sink: av.filter.FilterContext) -> Iterator[dict[str, str]]:
    while True:
        try:
            frame = sink.pull()
        except (NotYet, EOFError):
            return
        yield {str(name): str(value) for name, value in frame.metadata.items()}


def last_of(told: Iterator[dict[str, str]]) -> dict[str, str]:
    last: dict[str, str] = {}
    for one in told:
        last = one or last
    return last
