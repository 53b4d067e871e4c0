"""The encoder of a movie's pictures, opened the same way wherever it is needed."""

from __future__ import annotations

from typing import cast

import av

from waxseal.core.deliver.codecs import StreamEncoder
from waxseal.core.deliver.codecs.codec import SHORT
from waxseal.core.deliver.form import Form
from waxseal.core.frames.movies.planes import write_planes
from waxseal.core.job.model import Bitrate
from waxseal.core.picture.make import Picture

__all__ = ["add_pictures", "delay_of", "encoder_of", "options_of", "pixel_format_of", "video_frame"]


def encoder_of(form: Form) -> StreamEncoder:
    return cast(StreamEncoder, form.codec.coding)


def options_of(form: Form) -> dict[str, str]:
    """What the library is told. The same for all segments of a film, however short each is."""
    encoder = encoder_of(form)
    figure = form.codec.figure_for(form.quality)
    options = encoder.options_for(figure, form.frames.count, has_alpha=form.target.has_alpha)
    if form.key_frames and encoder.has_key_frames:
        options["g"] = f"{form.key_frames}"
    return options


def pixel_format_of(form: Form) -> str:
    encoder = encoder_of(form)
    return encoder.clear_format if form.target.has_alpha else encoder.pixel_format


def delay_of(form: Form) -> int:
    """Frames that a decoder is ahead of what it shows."""
    return encoder_of(form).delay if form.frames.count > SHORT else 0


def add_pictures(container: av.container.OutputContainer, form: Form) -> av.VideoStream:
    """A stream for the pictures of a form, and the encoder that it is opened with."""
    encoder = encoder_of(form)
    stream = cast(
        av.VideoStream,
        container.add_stream(encoder.library, rate=form.rate, options=options_of(form)),
    )
    stream.width, stream.height = form.target.stored_size
    stream.pix_fmt = pixel_format_of(form)
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


def video_frame(picture: Picture, form: Form) -> av.VideoFrame:
    height, width = picture.planes[0].shape
    frame = av.VideoFrame(width, height, pixel_format_of(form))
    write_planes(frame, picture.planes)
    frame.color_primaries, frame.color_trc, frame.colorspace, is_full = form.tags
    frame.color_range = 2 if is_full else 1
    return frame
