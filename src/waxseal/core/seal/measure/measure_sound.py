"""The sound of a delivered file, or beside delivered frames, measured."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
from av.error import FFmpegError

from waxseal.core.av_open import open_media
from waxseal.core.errors import UnreadableInput
from waxseal.core.progress import CancelToken
from waxseal.core.seal.measure.file_facts import SoundFacts
from waxseal.core.seal.measure.mp4_boxes import Boxes
from waxseal.core.sound.av_reader import decode_all
from waxseal.core.sound.loudness import Loudness, loudness_in
from waxseal.core.text_format import plain

__all__ = ["loudness_of_track", "measure_wave", "sound_of"]


def measure_wave(path: Path, token: CancelToken) -> tuple[SoundFacts, Loudness | None]:
    """A file that holds sound alone. Raises UnreadableInput, Cancelled."""
    try:
        with open_media(path) as container:
            facts = sound_of(container, None, path, token)
        if facts is None:
            raise UnreadableInput(f"{plain(path.name)} has no sound in it.", path=path)
        return facts, loudness_of_track(path, token)
    except (FFmpegError, OSError) as error:
        raise UnreadableInput(
            f"{plain(path.name)} cannot be read as sound: {error.strerror}.", path=path
        ) from error


def sound_of(
    container: av.container.InputContainer, boxes: Boxes | None, path: Path, token: CancelToken
) -> SoundFacts | None:
    """What an edit list shows of the sound, else all that it decodes to."""
    if not container.streams.audio:
        return None
    stream = container.streams.audio[0]
    shown = [track.shown for track in (boxes.tracks if boxes else ()) if track.kind == "soun"]
    seconds = shown[0] if shown else None
    if seconds is None:
        seconds = Fraction(samples_in(path, token), stream.codec_context.sample_rate)
    return SoundFacts(
        codec=stream.codec_context.codec.canonical_name,
        sample_rate=stream.codec_context.sample_rate,
        channels=stream.codec_context.channels,
        seconds=seconds,
    )


def loudness_of_track(path: Path, token: CancelToken) -> Loudness | None:
    with open_media(path) as container:
        if not container.streams.audio:
            return None
        context = container.streams.audio[0].codec_context
        return loudness_in(decode_all(container), context.sample_rate, context.channels, token)


def samples_in(path: Path, token: CancelToken) -> int:
    """How many samples the sound decodes to, without what its encoder says is only padding.

    From the file's beginning: after a seek a decoder may leave its first ones out.
    """
    count = 0
    with open_media(path) as container:
        for frame in container.decode(audio=0):
            token.check()
            count += frame.samples
    return count
