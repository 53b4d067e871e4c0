"""A movie file being written through the codecs' library."""

from __future__ import annotations

from math import lcm
from pathlib import Path
from typing import Self

import av
from av.error import FFmpegError

from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.encode.encode_state import EncodeState
from waxseal.core.deliver.encode.segments.segment_builder import segments_of
from waxseal.core.deliver.encode.segments.segment_file import Segment
from waxseal.core.deliver.encode.segments.segment_pictures import (
    add_pictures,
    delay_of,
    pixel_format_of,
)
from waxseal.core.deliver.encode.writers.light_boxes import state_light
from waxseal.core.deliver.encode.writers.sound_track import SoundTrack
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import WrongUse
from waxseal.core.seal.lightlevels import light_levels_of
from waxseal.core.seal.packet_digests import StreamDigest

__all__ = ["MovieWriter", "write_movie"]


class MovieWriter:
    """Joins segments to one stream of pictures, and writes the sound beside it.

    The stream is opened as the segments' own were, and its encoder is given nothing: so its
    head is theirs.
    """

    def __init__(self, path: Path, form: ResolvedFormat) -> None:
        self._form = form
        container = CONTAINERS[form.container]
        scale = form.rate.numerator
        if form.sound is not None:
            scale = lcm(scale, form.sound.sample_rate)
        options = {"fflags": "+bitexact", **container.options}
        if container.has_boxes:  # one scale of time, which both tracks' lengths fit
            options["movie_timescale"] = str(scale)
        self._container = av.open(
            str(path), "w", format=container.format, container_options=options
        )
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


def write_movie(path: Path, work: EncodeState) -> str:
    """Returns the digest of its pictures as they were encoded."""
    form = work.form
    with MovieWriter(path, form) as writer:
        for segment in segments_of(work):
            work.wait_for_room(path.parent, segment.size_bytes)
            writer.add(segment)
        writer.finish()
    if form.says_light_levels:
        state_light(path, light_levels_of(work.marks.values()), form.mastering)
    return writer.stream
