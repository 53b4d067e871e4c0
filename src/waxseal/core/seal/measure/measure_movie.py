"""What a video file is, measured: opened afresh, every frame decoded."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
from av.error import FFmpegError

from waxseal.core.av_open import open_media
from waxseal.core.errors import UnreadableInput
from waxseal.core.frames.movies.pixel_planes import read_planes
from waxseal.core.progress import CancelToken, Progress, Report, silent
from waxseal.core.seal.measure.file_facts import Look, Measured, checksum
from waxseal.core.seal.measure.measure_sound import loudness_of_track, sound_of
from waxseal.core.seal.measure.mp4_boxes import Boxes, read_boxes
from waxseal.core.seal.packet_digests import StreamDigest
from waxseal.core.text_format import plain

__all__ = ["measure_movie"]

MATROSKA_TIME = r"(\d{1,4}):(\d\d):(\d\d\.\d{1,9})"
COARSE_STEP = Fraction(1, 2000)  # of a second: a container that counts milliseconds
ALPHA_DECODERS = {"vp9": "libvpx-vp9"}  # the usual one leaves alpha out without a word

TAGS = ("color_primaries", "color_trc", "colorspace")
UNSAID, FULL = 2, 2  # of a tag, by ITU-T H.273; of the range, as the library counts


def measure_movie(
    path: Path,
    *,
    look: Look | None = None,
    expected_frames: int = 0,
    report: Report = silent,
    token: CancelToken | None = None,
) -> Measured:
    """Decode all of a video file and say what it is.

    look: called with each frame's number (from 0) and its planes, uint8, which
        are only valid during the call.
    Raises UnreadableInput with a sentence, Cancelled.
    """
    token = token or CancelToken()
    if not path.exists():
        raise UnreadableInput(f"{plain(path)} is not there.", path=path)
    try:
        with open_media(path) as container:
            if not container.streams.video:
                raise UnreadableInput(f"{plain(path.name)} has no picture in it.", path=path)
            refuse_unknown_codecs(container, path)
            return measure_stream(container, path, look, expected_frames, report, token)
    except FFmpegError as error:
        raise UnreadableInput(
            f"{plain(path.name)} cannot be opened as a video: {error.strerror}.", path=path
        ) from error
    except OSError as error:
        raise UnreadableInput(
            f"{plain(path)} cannot be opened: {error.strerror}.", path=path
        ) from error


def refuse_unknown_codecs(container: av.container.InputContainer, path: Path) -> None:
    """The library's types do not say it: of an unknown codec there is no context."""
    for kind, streams in (("picture", container.streams.video), ("sound", container.streams.audio)):
        if streams and getattr(streams[0], "codec_context", None) is None:
            raise UnreadableInput(
                f"{plain(path.name)}: its {kind} is in a codec that cannot be read.", path=path
            )


def measure_stream(
    container: av.container.InputContainer,
    path: Path,
    look: Look | None,
    expected_frames: int,
    report: Report,
    token: CancelToken,
) -> Measured:
    stream = container.streams.video[0]
    context = stream.codec_context
    context.thread_type = "AUTO"
    context.thread_count = 0
    times: list[Fraction] = []
    damaged, first = 0, None
    keys: list[int] = []  # the places of key frames
    stream_digest = StreamDigest(context.codec.canonical_name, is_in_container=has_lengths(context))
    for frame in decoded(container, stream, stream_digest):
        token.check()
        damaged += bool(frame.is_corrupt)
        if frame.key_frame:
            keys.append(len(times))
        first = first or frame
        times.append(Fraction(frame.pts or 0) * (frame.time_base or stream.time_base or 1))
        if look is not None:
            look(len(times) - 1, read_planes(frame))
        report(Progress("checking", len(times), expected_frames or stream.frames))
    boxes = read_boxes(path)
    is_rounded = (stream.time_base or Fraction(1)) >= COARSE_STEP
    # MXF says no average, but how long a frame is; with more of them their times say it.
    said = stream.average_rate or (stream.base_rate if len(times) == 1 else None)
    rate = constant_rate(times, boxes, said, is_rounded=is_rounded)
    return Measured(
        width=stream.width,
        height=stream.height,
        frames=len(times),
        rate=rate,
        is_uneven=rate is None,
        seconds=seconds_of(times, stream),
        codec=context.codec.canonical_name,
        profile=str(context.profile or ""),
        pixel_format=first.format.name if first is not None else "",
        colour=tags_of(first, context),
        sound=sound_of(container, boxes, path, token),
        boxes=boxes,
        size_bytes=path.stat().st_size,
        sha256=checksum(path, token),
        damaged_frames=damaged,
        stream=stream_digest.value,
        level=level_of(context),
        loudness=loudness_of_track(path, token),
        timecode=timecode_of(container),
        pixel_shape=Fraction(stream.sample_aspect_ratio or 1),
        stated_seconds=stated_seconds(container, stream),
        key_gap=max((b - a for a, b in itertools.pairwise([*keys, len(times)])), default=0),
    )


def tags_of(
    first: av.VideoFrame | None, context: av.VideoCodecContext
) -> tuple[int, int, int, bool]:
    """What the first frame says, and the container where the frame says nothing.

    Of a film of few frames the context knows only what the container says.
    """
    ours: dict[str, int] = {}
    for name, nothing in (*((one, UNSAID) for one in TAGS), ("color_range", 0)):
        said = int(getattr(first, name, nothing))
        ours[name] = said if said != nothing else int(getattr(context, name))
    primaries, transfer, matrix = (ours[one] for one in TAGS)
    return primaries, transfer, matrix, ours["color_range"] == FULL


def level_of(context: av.VideoCodecContext) -> str:
    """The level in a stream's configuration; empty where there is none.

    Source: ISO/IEC 14496-15 for H.264 and H.265; AV1 in ISO base media, 2.3.
    """
    head = bytes(context.extradata or b"")
    codec = context.codec.canonical_name
    if codec == "h264" and len(head) > 3 and head[0] == 1:
        tenths = head[3]
    elif codec == "hevc" and len(head) > 12 and head[0] == 1:
        tenths = head[12] // 3
    elif codec == "av1" and len(head) > 1 and head[0] == 0x81:
        major, minor = divmod(head[1] & 0x1F, 4)
        tenths = 20 + 10 * major + minor
    else:
        return ""
    return f"{tenths / 10:g}"


def has_lengths(context: av.VideoCodecContext) -> bool:
    """Whether units have their lengths in front: its configuration begins with a version, 1."""
    return bytes(context.extradata or b"")[:1] == b"\1"


def decoded(
    container: av.container.InputContainer, stream: av.VideoStream, digest: StreamDigest
) -> Iterator[av.VideoFrame]:
    """Every frame; the packets that they come from go into the digest."""
    decoder = decoder_of_alpha(stream)
    for packet in container.demux(stream):
        if packet.size:
            digest.add(bytes(packet))
        frames = decoder.decode(packet) if decoder is not None else packet.decode()
        for frame in frames:
            if isinstance(frame, av.VideoFrame):
                yield frame


def decoder_of_alpha(stream: av.VideoStream) -> av.VideoCodecContext | None:
    """The decoder of a stream whose alpha the usual one would not give."""
    name = ALPHA_DECODERS.get(stream.codec_context.codec.canonical_name)
    if name is None or stream.metadata.get("alpha_mode") != "1":
        return None
    context = av.CodecContext.create(name, "r")
    if not isinstance(context, av.VideoCodecContext):
        return None
    context.extradata = stream.codec_context.extradata
    return context


def seconds_of(times: list[Fraction], stream: av.VideoStream) -> float:
    """From the first frame's beginning to the last one's end."""
    if len(times) > 1:
        return float((times[-1] - times[0]) * len(times) / (len(times) - 1))
    return float((stream.duration or 0) * (stream.time_base or 0))


def stated_seconds(
    container: av.container.InputContainer, stream: av.VideoStream
) -> Fraction | None:
    """How long the pictures last as the container states it, to the millisecond or finer.

    None where it says so of the whole file only, and a sound may be longer.
    """
    tagged = re.fullmatch(MATROSKA_TIME, stream.metadata.get("DURATION", ""))
    if tagged:
        hours, minutes, seconds = tagged.groups()
        return int(hours) * 3600 + int(minutes) * 60 + Fraction(seconds)
    # (In Matroska this is no more than a guess, by what is longest in the file.)
    if stream.duration and stream.time_base:
        return stream.duration * Fraction(stream.time_base)
    if container.duration and not container.streams.audio:
        return Fraction(container.duration, av.time_base)
    return None


def constant_rate(
    times: list[Fraction], boxes: Boxes | None, average: Fraction | None, *, is_rounded: bool
) -> Fraction | None:
    """The exact rate, where every frame follows the one before after the same time.

    is_rounded: whether times are too coarse to tell: the rate is then what is said besides.
    """
    steps = {later - earlier for earlier, later in itertools.pairwise(times)}
    if len(steps) == 1 and not (is_rounded and average):
        step = steps.pop()
        return 1 / step if step > 0 else None
    if len(times) == 1:
        for track in boxes.tracks if boxes else ():
            if track.kind == "vide" and len(track.durations) == 1 and track.durations[0]:
                return Fraction(track.timescale, track.durations[0])
        return Fraction(average) if average else None
    if average and all(abs(step - 1 / Fraction(average)) <= Fraction(1, 900) for step in steps):
        return Fraction(average)  # a container that rounds its times, to the millisecond at best
    return None


def timecode_of(container: av.container.InputContainer) -> str:
    """Of the first frame: some containers say it of the stream, some of the file."""
    for said in (*(one.metadata for one in container.streams), container.metadata):
        for name, value in said.items():
            if name.lower() == "timecode":
                return str(value)
    return ""
