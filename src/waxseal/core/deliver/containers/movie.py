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

from waxseal.core.deliver.codecs import SoundCodec, StreamEncoder
from waxseal.core.deliver.codecs.codec import Tags
from waxseal.core.deliver.form import Form
from waxseal.core.frames.movies.planes import read_planes, write_planes
from waxseal.core.job.model import Bitrate
from waxseal.core.picture.make import Picture
from waxseal.core.seal.stream import StreamDigest, planes_digest
from waxseal.core.sound.mix import mix_blocks
from waxseal.core.sound.samples import Samples
from waxseal.core.sound.timeline import SoundPlan

__all__ = ["MovieWriter", "SoundTrack"]


class MovieWriter:
    """One stream of pictures, and the sound up to the end of each picture beside it."""

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
        self._encoder = cast(StreamEncoder, form.codec.coding)
        self._video = self._add_pictures()
        codec = form.sound_codec
        self._sound = None
        if form.sound is not None and codec is not None:
            self._sound = SoundTrack(self._container, form.sound, codec)

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

    def _add_pictures(self) -> av.VideoStream:
        form, encoder = self._form, self._encoder
        figure = form.codec.figure_for(form.quality)
        has_alpha = form.target.has_alpha
        options = encoder.options_for(figure, form.frames.count, has_alpha=has_alpha)
        if form.key_frames and encoder.has_key_frames:
            options["g"] = f"{form.key_frames}"
        stream = cast(
            av.VideoStream,
            self._container.add_stream(encoder.library, rate=form.rate, options=options),
        )
        stream.width, stream.height = form.target.stored_size
        self._pixel_format = encoder.clear_format if has_alpha else encoder.pixel_format
        stream.pix_fmt = self._pixel_format
        if encoder.tag:
            stream.codec_context.codec_tag = encoder.tag
        if form.timecode:
            stream.metadata["timecode"] = form.timecode
        stream.time_base = 1 / form.rate
        context = stream.codec_context
        context.time_base = 1 / form.rate
        context.framerate = form.rate
        primaries, transfer, matrix, is_full = form.tags
        context.color_primaries, context.color_trc, context.colorspace = primaries, transfer, matrix
        context.color_range = 2 if is_full else 1
        context.flags |= av.codec.context.Flags.bitexact
        # Slices, the default, would cut each picture in as many parts as there are threads.
        context.thread_type = "FRAME"
        context.thread_count = encoder.threads
        if isinstance(form.quality, Bitrate):
            context.bit_rate = form.quality.bits_per_second
        return stream

    @property
    def stream(self) -> str:
        """The digest of the pictures as they were encoded, once it is finished."""
        return self._digest.value

    def write(self, picture: Picture, index: int) -> int:
        """Encode one picture, and the sound up to its end.

        Returns the digest of the planes that the encoder was given.
        """
        frame = video_frame(picture, self._pixel_format, self._form.tags)
        frame.pts, frame.time_base = index, 1 / self._form.rate
        self._mux(self._video.encode(frame))
        if self._sound is not None:
            self._sound.write_until((index + 1) / self._form.rate)
        return planes_digest(read_planes(frame))

    def _mux(self, packets: list[av.Packet[Any]]) -> None:
        for packet in packets:
            self._digest.add(bytes(packet))
        self._container.mux(packets)

    def finish(self) -> None:
        """Encode what is still held back."""
        if self._sound is not None:
            self._sound.write_rest()
        self._mux(self._video.encode(None))
        if self._sound is not None:
            self._sound.flush()


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


def video_frame(picture: Picture, pixel_format: str, tags: Tags) -> av.VideoFrame:
    height, width = picture.planes[0].shape
    frame = av.VideoFrame(width, height, pixel_format)
    write_planes(frame, picture.planes)
    frame.color_primaries, frame.color_trc, frame.colorspace, is_full = tags
    frame.color_range = 2 if is_full else 1
    return frame


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
