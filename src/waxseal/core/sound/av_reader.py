"""Sound that only the codecs' library reads: AAC, Opus in other wrappings, a movie's own."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import av
import numpy as np
from av.error import FFmpegError

from waxseal.core.av_open import open_media
from waxseal.core.errors import SoundError
from waxseal.core.filenames import MOVIE_SUFFIXES
from waxseal.core.job.model import Sound
from waxseal.core.sound.sample_types import Samples
from waxseal.core.sound.sound_facts import sound_of
from waxseal.core.text_format import plain

__all__ = ["decode_all", "kind_of_stream", "open_stream", "probe_stream", "read_stream"]

NAMES = {"opus": "Opus", "vorbis": "Ogg"}


def probe_stream(path: Path) -> Sound:
    """Decodes the sound once: no container's word on its length is exact. Raises SoundError."""
    is_movie = path.suffix.lower() in MOVIE_SUFFIXES
    with open_stream(path) as container:
        stream = container.streams.audio[0]
        codec = stream.codec_context.codec.canonical_name
        rate, channels = stream.codec_context.sample_rate, stream.codec_context.channels
        samples = sum(len(part) for part in decode_all(container))
    if not samples or not rate or not channels:
        raise SoundError(f"{plain(path.name)} has no samples in it.", path=path)
    kind = "PCM" if codec.startswith("pcm_") else NAMES.get(codec, codec.upper())
    return sound_of(
        path,
        format=kind,
        sample_rate=rate,
        channels=channels,
        samples=samples,
        of_movie=is_movie,
    )


def kind_of_stream(path: Path) -> tuple[int, int]:
    """The sample rate and the number of channels. Raises SoundError."""
    with open_stream(path) as container:
        context = container.streams.audio[0].codec_context
        return context.sample_rate, context.channels


def read_stream(path: Path, *, start: int, block: int) -> Iterator[Samples]:
    """The samples from `start` on: (count, channels) float32, ±1. Raises SoundError."""
    skip = start
    rest: list[Samples] = []
    waiting = 0
    with open_stream(path) as container:
        for part in decode_all(container):
            part, skip = part[skip:], max(0, skip - len(part))
            rest.append(part)
            waiting += len(part)
            while waiting >= block:
                whole = np.concatenate(rest)
                yield whole[:block]
                rest, waiting = [whole[block:]], waiting - block
    if waiting:
        yield np.concatenate(rest)


@contextmanager
def open_stream(path: Path) -> Iterator[av.container.InputContainer]:
    try:
        with open_media(path) as container:
            if not container.streams.audio:
                raise SoundError(f"{plain(path.name)} has no sound in it.", path=path)
            # The library's types do not say it: of an unknown codec there is no context.
            if getattr(container.streams.audio[0], "codec_context", None) is None:
                raise SoundError(
                    f"{plain(path.name)} cannot be heard: its codec is unknown.",
                    path=path,
                )
            yield container
    except (FFmpegError, ValueError) as error:  # whose own words say nothing to a reader
        words = f"{plain(path.name)} cannot be heard: it cannot be read as a sound."
        raise SoundError(words, path=path) from error
    except OSError as error:
        words = f"{plain(path.name)} cannot be heard: {error.strerror}."
        raise SoundError(words, path=path) from error


def decode_all(container: av.container.InputContainer) -> Iterator[Samples]:
    """Every packet's samples, channels last. Delay and padding are cut by the library."""
    stream = container.streams.audio[0]
    planar = av.AudioResampler(format="fltp")
    for frame in container.decode(stream):
        for part in planar.resample(frame):
            yield np.ascontiguousarray(part.to_ndarray().T, np.float32)
    for part in planar.resample(None):
        yield np.ascontiguousarray(part.to_ndarray().T, np.float32)
