"""Sound files: what they are, and their samples.

libsndfile reads what it can to the sample; everything else (MP3, AAC, a movie's
sound) goes through the codecs' library, whose packets are cut to the length that
the container names.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from waxseal.core.job.model import Sound, change
from waxseal.core.sound.sample_reader import has_end, open_exact, probe_exact, read_exact
from waxseal.core.sound.sound_wholeness import damage_in

__all__ = ["another", "change_since", "damage_now", "not_whole", "probe_sound", "read_blocks"]

if TYPE_CHECKING:  # NumPy starts slowly, and who only looks at sounds does not need it
    from waxseal.core.sound.sample_types import Samples


def probe_sound(path: Path) -> Sound:
    """What a sound file holds, and whether all of it is there. Raises SoundError."""
    file = open_exact(path)
    if file is not None:
        found = probe_exact(path, file)
    else:
        from waxseal.core.sound.av_reader import probe_stream

        found = probe_stream(path)
    if found.of_movie:
        return found  # its frames say whether it is whole
    return change(found, damage=damage_now(path, found.format))


def damage_now(path: Path, kind: str) -> str:
    """What is missing of a file as it is now, as the rest of a sentence. Raises SoundError."""
    try:
        return damage_in(path, kind) or torn_end(path, kind)
    except OSError as error:
        return f"it cannot be read: {error.strerror}"


def not_whole(name: str, damage: str) -> str:
    return f"{name} is not whole: {damage}. Bring it again, or leave it out."


def change_since(sound: Sound) -> str:
    """A sentence if a file is not the one that was looked at; a shorter one of a codec whose
    length only decoding tells is found when it is read. Raises SoundError.
    """
    path = Path(sound.path)
    file = open_exact(path)
    if file is not None:
        with file:
            there = (file.samplerate, file.channels)
            is_shorter = file.frames < sound.samples and not sound.accepted
    else:
        from waxseal.core.sound.av_reader import kind_of_stream

        there, is_shorter = kind_of_stream(path), False
    is_same = there == (sound.sample_rate, sound.channels) and not is_shorter
    return "" if is_same else another(sound)


def another(sound: Sound) -> str:
    return f"{sound.name} is another than when it was looked at: bring it again."


def torn_end(path: Path, kind: str) -> str:
    """Of a FLAC, which says how long it is: whether its last samples can be read."""
    file = open_exact(path) if kind == "FLAC" else None
    return "" if file is None or has_end(file) else "it is cut short, or damaged at its end"


def read_blocks(path: Path, *, start: int, block: int) -> Iterator[Samples]:
    """The samples of a file from `start` on, up to `block` at a time. Raises SoundError."""
    file = open_exact(path)
    if file is not None:
        yield from read_exact(path, file, start=start, block=block)
        return
    from waxseal.core.sound.av_reader import read_stream

    yield from read_stream(path, start=start, block=block)
