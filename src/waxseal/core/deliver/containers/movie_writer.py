"""A movie file being written through the codecs' library."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from fractions import Fraction
from math import lcm
from pathlib import Path
from typing import Any, Self, cast

import av
import numpy as np
from av.error import FFmpegError
from numpy.typing import NDArray

from waxseal.core.atomic_write import flush_to_disk
from waxseal.core.deliver.codecs import SoundCodec
from waxseal.core.deliver.resolved_format import Form
from waxseal.core.deliver.segments.segment_file import Segment
from waxseal.core.deliver.segments.segment_pictures import add_pictures, delay_of, pixel_format_of
from waxseal.core.errors import WrongUse
from waxseal.core.seal.packet_digests import StreamDigest
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.sound.mix_plan import SoundPlan
from waxseal.core.sound.sample_types import Samples

__all__ = ["MovieWriter", "SoundTrack", "write_wave"]


class MovieWriter:
    """Joins segments to one stream of pictures, and writes the sound beside it.

    The stream is opened as the segments' own were, and its encoder is given nothing: so its
    head is theirs.
    """

    def __init__(
        self, path: Path, form: Form, name: str, options: Mapping[str, str], *, scales: bool
    ) -> None:
        """scales: whether the file has one scale of time, which both tracks' lengths fit then."""
        self._form = form
        scale = form.rate.numerator
        if form.sound is not None:
            scale = lcm(scale, form.sound.sample_rate)
        whole = {"fflags": "+bitexact", **options}
        if scales:
            whole["movie_timescale"] = str(scale)
        self._container = av.open(str(path), "w", format=name, container_options=whole)
        self._digest = StreamDigest(form.codec.facts.codec, is_in_container=False)
        self._video = add_pictures(self._container, form, pixel_format_of(form))
        codec = form.sound_codec
        self._sound = None
        if form.sound is not None and codec is not None:
            self._sound = SoundTrack(self._container, form.sound, codec)
        self._container.start_encoding()
        self._delay = delay_of(form)
        self._coded = 0  # pictures that are written

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, *_rest: object) -> None:
        if kind is None:
            self._container.close()
            return
        try:
            self._container.close()
        except (FFmpegError, OSError, ValueError):
            return  # the first error is the one that counts

    @property
    def stream(self) -> str:
        """The digest of the pictures as they were encoded, once it is finished."""
        return self._digest.value

    def add(self, segment: Segment) -> None:
        """The next segment, and the sound up to its end."""
        if segment.head != bytes(self._video.codec_context.extradata or b""):
            raise WrongUse("A segment was encoded with other settings than its film.")
        begin = self._coded
        for coded in segment.coded:
            self._digest.add(coded.data)
            packet = coded.as_packet()
            packet.stream, packet.time_base = self._video, 1 / self._form.rate
            packet.pts, packet.dts = begin + coded.frame, self._coded - self._delay
            if packet.duration:  # a stored packet has one in the scale of its own container
                packet.duration = 1
            if packet.dts > packet.pts:
                raise WrongUse("A picture would be shown before it is decoded.")
            self._coded += 1
            self._container.mux(packet)
            if self._sound is not None:
                self._sound.write_until(self._coded / self._form.rate)

    def finish(self) -> None:
        """Write what is left of the sound."""
        if self._sound is not None:
            self._sound.write_rest()
            self._sound.flush()


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
