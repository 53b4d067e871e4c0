"""Sound files: what they are, and their samples.

libsndfile reads what it can to the sample; everything else (MP3, AAC, a movie's
sound) goes through the codecs' library, whose packets are cut to the length that
the container names.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from waxseal.core.job.model import Sound
from waxseal.core.sound.exact import open_exact, probe_exact, read_exact

__all__ = ["probe_sound", "read_blocks"]

if TYPE_CHECKING:  # NumPy starts slowly, and who only looks at sounds does not need it
    from waxseal.core.sound.samples import Samples


def probe_sound(path: Path) -> Sound:
    """What a sound file holds. Raises SoundError."""
    file = open_exact(path)
    if file is not None:
        return probe_exact(path, file)
    from waxseal.core.sound.streams import probe_stream

    return probe_stream(path)


def read_blocks(path: Path, *, start: int, block: int) -> Iterator[Samples]:
    """The samples of a file from `start` on, up to `block` at a time. Raises SoundError."""
    file = open_exact(path)
    if file is not None:
        yield from read_exact(path, file, start=start, block=block)
        return
    from waxseal.core.sound.streams import read_stream

    yield from read_stream(path, start=start, block=block)
