"""Sound files that libsndfile reads to the sample: WAV, W64, FLAC, AIFF, Ogg.

MP3 is not among them: libsndfile (1.2.2) gives other samples for other sizes of
block, 253 of them too late.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from waxseal.core.errors import SoundError
from waxseal.core.filenames import MOVIE_SUFFIXES
from waxseal.core.job.model import Sound
from waxseal.core.safe_open import NotAFile, open_regular, path_for_library
from waxseal.core.sound.sound_facts import sound_of
from waxseal.core.text_format import plain

if TYPE_CHECKING:  # NumPy starts slowly, and who only looks at sounds does not need it
    from waxseal.core.sound.sample_types import Samples

__all__ = ["has_end", "open_exact", "probe_exact", "read_exact"]

# What libsndfile reads to the sample, by its own names, and how people call it.
EXACT = {
    "WAV": "WAV",
    "WAVEX": "WAV",
    "RF64": "WAV",
    "W64": "W64",
    "FLAC": "FLAC",
    "AIFF": "AIFF",
    "OGG": "Ogg",
}
MOST_CHUNKS = 1000


def open_exact(path: Path) -> Any:
    """An open libsndfile, or None where it is not for this file. Raises SoundError."""
    import soundfile  # brings NumPy along

    if not path.exists():
        raise SoundError(f"{plain(path.name)} cannot be heard: it is not there.", path=path)
    if path.stat().st_size == 0:
        raise SoundError(f"{plain(path.name)} cannot be heard: it is empty.", path=path)
    if path.suffix.lower() in MOVIE_SUFFIXES:
        return None
    try:
        with path_for_library(path) as name:
            file = soundfile.SoundFile(name)
    except NotAFile as error:
        raise SoundError(f"{plain(path.name)} cannot be heard: {error.strerror}.") from None
    except (OSError, RuntimeError, TypeError):
        return None
    if file.format not in EXACT:
        file.close()
        return None
    return file


def probe_exact(path: Path, file: Any) -> Sound:
    """What an open file holds. Raises SoundError."""
    with file:
        if file.frames < 1:
            raise SoundError(f"{plain(path.name)} has no samples in it.", path=path)
        return sound_of(
            path,
            format=EXACT[file.format],
            sample_rate=file.samplerate,
            channels=file.channels,
            samples=file.frames,
            start=start_written(path) if file.format in ("WAV", "WAVEX", "RF64") else None,
        )


def read_exact(path: Path, file: Any, *, start: int, block: int) -> Iterator[Samples]:
    """The samples of an open file from `start` on. Raises SoundError."""
    with file:
        try:
            file.seek(min(start, file.frames))
            while len(heard := file.read(block, "float32", always_2d=True)):
                yield heard
        except RuntimeError as error:
            words = f"{plain(path.name)} is damaged: its samples cannot be decoded."
            raise SoundError(words, path=path) from error


def has_end(file: Any) -> bool:
    """Whether the last samples that an open file promises are there."""
    with file:
        try:
            file.seek(max(0, file.frames - 1))
            return len(file.read(1, "float32", always_2d=True)) == 1
        except RuntimeError:
            return False


def start_written(path: Path) -> int | None:
    """The sample of the day at which a broadcast WAV begins; None where it does not say.

    Source: EBU Tech 3285, the bext chunk: TimeReferenceLow and -High behind 338 bytes of text.
    """
    with open_regular(path) as file:
        if file.read(12)[8:] != b"WAVE":
            return None
        for _ in range(MOST_CHUNKS):
            head = file.read(8)
            if len(head) < 8:
                return None
            (length,) = struct.unpack("<I", head[4:])
            if head[:4] == b"bext":
                reference = file.read(346)[338:]
                return struct.unpack("<Q", reference)[0] if len(reference) == 8 else None
            file.seek(length + length % 2, 1)
    return None
