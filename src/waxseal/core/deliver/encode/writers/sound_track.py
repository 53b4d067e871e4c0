"""The sound of a delivery being encoded, in a movie or as a file of its own."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any, cast

import av
import numpy as np
from numpy.typing import NDArray

from waxseal.core.atomic_write import flush_to_disk
from waxseal.core.deliver.codecs import SoundCodec
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.sound.mix_plan import SoundPlan
from waxseal.core.sound.sample_types import Samples

__all__ = ["SoundTrack", "write_wave"]


def write_wave(path: Path, plan: SoundPlan, codec: SoundCodec) -> None:
    """A sound by itself. Raises SoundError, OSError, FFmpegError."""
    with av.open(str(path), "w", format="wav", container_options={"fflags": "+bitexact"}) as file:
        track = SoundTrack(file, plan, codec)
        track.write_rest()
        track.flush()
    flush_to_disk(path)


class SoundTrack:
    """The sound of a movie that is being written."""

    def __init__(
        self, container: av.container.OutputContainer, plan: SoundPlan, codec: SoundCodec
    ) -> None:
        self._container, self._plan, self._codec = container, plan, codec
        self._layout = codec.layouts[plan.channels]
        stream = container.add_stream(codec.library, rate=plan.sample_rate)
        self._stream = cast(av.AudioStream, stream)
        context = self._stream.codec_context
        context.layout = self._layout
        context.format = codec.sample_format
        if codec.bits_per_second:
            context.bit_rate = codec.bits_per_second[plan.channels]
        context.time_base = Fraction(1, plan.sample_rate)
        context.flags |= av.codec.context.Flags.bitexact
        self._blocks: Iterator[np.ndarray] = mix_blocks(plan, codec.block)
        self._written = 0

    def write_until(self, seconds: Fraction) -> None:
        self._write(round(seconds * self._plan.sample_rate))

    def write_rest(self) -> None:
        self._write(self._plan.count)

    def flush(self) -> None:
        self._container.mux(self._stream.encode(None))

    def _write(self, until: int) -> None:
        while self._written < until:
            block = next(self._blocks, None)
            if block is None:
                return
            samples = samples_for(block, self._codec)
            frame = av.AudioFrame.from_ndarray(samples, self._codec.sample_format, self._layout)
            frame.sample_rate = self._plan.sample_rate
            frame.pts, frame.time_base = self._written, Fraction(1, self._plan.sample_rate)
            self._written += len(block)
            self._container.mux(self._stream.encode(frame))


def samples_for(block: Samples, codec: SoundCodec) -> NDArray[Any]:
    """Samples of ±1 as the encoder takes them: floats, or whole numbers in the upper bits."""
    if codec.bits:
        steps = 1 << (codec.bits - 1)
        whole = np.clip(np.rint(block.astype(np.float64) * steps), -steps, steps - 1)
        if codec.sample_format == "s32":
            return np.ascontiguousarray(
                (whole * (1 << (32 - codec.bits))).astype(np.int32)
            ).reshape(1, -1)
        return np.ascontiguousarray(whole.astype(np.int16)).reshape(1, -1)
    if codec.sample_format.endswith("p"):
        return np.ascontiguousarray(block.T)
    return np.ascontiguousarray(block).reshape(1, -1)
