"""The encoder of a movie's pictures, opened the same way wherever it is needed."""

from __future__ import annotations

import io
import os
from collections import deque
from collections.abc import Iterator
from fractions import Fraction
from typing import Self, cast

import av
from av.video.frame import PictureType

from waxseal.core.deliver.codecs import StreamEncoder
from waxseal.core.deliver.codecs.codec import SHORT, as_it_is
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.encode.prefetch import MadePicture
from waxseal.core.deliver.encode.segments.segment_file import EncodedPicture
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import WrongUse
from waxseal.core.frames.movies.pixel_planes import read_planes, write_planes
from waxseal.core.job.model import Bitrate
from waxseal.core.picture.arrays import Plane, Planes
from waxseal.core.seal.packet_digests import planes_digest

# The encoder of AV1 prints its settings for each segment otherwise; errors it still says.
os.environ.setdefault("SVT_LOG", "1")

__all__ = ["StreamOfPictures", "add_pictures", "delay_of", "encoder_of", "stream_key"]


def encoder_of(form: ResolvedFormat) -> StreamEncoder:
    return cast(StreamEncoder, form.codec.coding)


def library_of(form: ResolvedFormat) -> str:
    width, _ = form.target.stored_size
    return encoder_of(form).library_for(width)


def options_of(form: ResolvedFormat) -> dict[str, str]:
    """What the library is told. The same for all segments of a film, however short each is."""
    encoder = encoder_of(form)
    figure = form.codec.figure_for(form.quality)
    width, height = form.target.stored_size
    options = encoder.options_for(
        figure, form.frames.count, pixels=width * height, has_alpha=form.target.has_alpha
    )
    if form.key_frames and encoder.has_key_frames:
        options["g"] = f"{max(form.key_frames, encoder.least_gap)}"
    return options


def are_all_keys(form: ResolvedFormat) -> bool:
    """Whether each picture is asked to be a key frame, because the library is not told so."""
    return 0 < form.key_frames < encoder_of(form).least_gap


def stream_key(form: ResolvedFormat) -> tuple[object, ...]:
    """What the bytes of a segment depend on, besides its pictures and their target."""
    encoder = encoder_of(form)
    return (
        *(av.__version__, sorted(av.library_versions.items())),
        *(form.codec.name, form.container, library_of(form), encoder.threads),
        *(sorted(options_of(form).items()), form.quality, pixel_format_of(form)),
        *(form.rate, form.tags),
        *((form.pixel_shape,) if form.pixel_shape != 1 else ()),
        *(("all keys",) if are_all_keys(form) else ()),
        *((encoder.mend.__name__,) if encoder.mend is not as_it_is else ()),
        *((encoder.weave.__name__,) if encoder.weave is not None and is_woven(form) else ()),
    )


def has_pictures_beside(form: ResolvedFormat) -> bool:
    """Whether packets carry more than their bytes: the alpha of VP9 is a second picture."""
    return form.target.has_alpha and library_of(form) == "libvpx-vp9"


def pixel_format_of(form: ResolvedFormat) -> str:
    encoder = encoder_of(form)
    return encoder.clear_format if form.target.has_alpha else encoder.pixel_format


def is_woven(form: ResolvedFormat) -> bool:
    """Whether pictures are encoded without their alpha, and it is put into the packets then."""
    encoder = encoder_of(form)
    is_usual = library_of(form) == encoder.library
    return form.target.has_alpha and encoder.weave is not None and is_usual


def given_format_of(form: ResolvedFormat) -> str:
    """The pixels that the encoder is given."""
    return encoder_of(form).pixel_format if is_woven(form) else pixel_format_of(form)


def delay_of(form: ResolvedFormat) -> int:
    """Frames that a decoder is ahead of what it shows."""
    return encoder_of(form).delay if form.frames.count > SHORT else 0


def add_pictures(
    container: av.container.OutputContainer, form: ResolvedFormat, pixel_format: str
) -> av.VideoStream:
    """A stream for the pictures of a form, and the encoder that it is opened with."""
    encoder = encoder_of(form)
    stream = cast(
        av.VideoStream,
        container.add_stream(library_of(form), rate=form.rate, options=options_of(form)),
    )
    stream.width, stream.height = form.target.stored_size
    stream.pix_fmt = pixel_format
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
    if form.pixel_shape != 1:
        context.sample_aspect_ratio = form.pixel_shape
    context.flags |= av.codec.context.Flags.bitexact
    # Slices, the default, would cut each picture in as many parts as there are threads.
    context.thread_type = "FRAME"
    context.thread_count = encoder.threads
    if isinstance(form.quality, Bitrate):
        context.bit_rate = form.quality.bits_per_second
    return stream


def video_frame(planes: Planes, form: ResolvedFormat) -> av.VideoFrame:
    height, width = planes[0].shape
    frame = av.VideoFrame(width, height, given_format_of(form))
    write_planes(frame, planes)
    frame.color_primaries, frame.color_trc, frame.colorspace, is_full = form.tags
    frame.color_range = 2 if is_full else 1
    if are_all_keys(form):
        frame.pict_type = PictureType.I
    return frame


class StreamOfPictures:
    """Codes pictures for a movie, through an encoder that is opened as the film's own is."""

    def __init__(self, form: ResolvedFormat) -> None:
        self._form = form
        self._file = io.BytesIO()
        self._container = av.open(self._file, "w", format=CONTAINERS[form.container].format)
        self._stream = add_pictures(self._container, form, given_format_of(form))
        # A file is written through it only where packets have more to them than bytes.
        self._is_whole = has_pictures_beside(form)
        self._weave = encoder_of(form).weave if is_woven(form) else None
        self._alphas: deque[Plane] = deque()  # of pictures that are being coded

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_error: object) -> None:
        self._container.close()

    @property
    def head(self) -> bytes:
        return bytes(self._stream.codec_context.extradata or b"")

    @property
    def whole(self) -> bytes:
        if not self._is_whole:
            return b""
        self._container.close()
        return self._file.getvalue()

    def code(self, made: MadePicture, place: int) -> Iterator[EncodedPicture]:
        form = self._form
        planes = made.picture.planes
        colours = 3 if self._weave is not None else len(planes)
        given, woven = planes[:colours], planes[colours:]
        self._alphas.extend(woven)
        frame = video_frame(given, form)
        frame.pts, frame.time_base = place, 1 / form.rate
        yield from self._coded(frame)
        if planes_digest([*read_planes(frame), *woven]) != made.digest:
            raise WrongUse("A frame is not what the encoder was given.")

    def rest(self) -> Iterator[EncodedPicture]:
        yield from self._coded(None)

    def _coded(self, given: av.VideoFrame | None) -> Iterator[EncodedPicture]:
        # One by one: at the end the encoder has dozens of frames still to code.
        for packet in self._stream.codec_context.encode_lazy(given):
            packet.stream = self._stream
            frame = round(Fraction(packet.pts or 0) * packet.time_base * self._form.rate)
            body = encoder_of(self._form).mend(bytes(packet), self._form.tags)
            if self._weave is not None:
                body = self._weave(body, self._alphas.popleft())
            yield EncodedPicture(frame, packet.is_keyframe, body)
            if self._is_whole:
                self._container.mux(packet)
