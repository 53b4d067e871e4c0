"""Opening movies and sounds through the codecs' library: this file, and nothing that it names."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import av

from waxseal.core.safe_open import path_for_library

__all__ = ["open_for_long", "open_media"]

# Those that hold pictures and sound themselves. A playlist would have other files, and
# the network, read in its place.
FORMATS = (
    *("mov", "mp4", "m4a", "matroska", "webm", "avi", "mxf", "mpegts", "mpeg", "mpegvideo"),
    *("asf", "ogg", "flv", "gif", "apng", "dv", "gxf", "nut", "yuv4mpegpipe", "h264", "hevc"),
    *("wav", "w64", "aiff", "flac", "mp3", "aac", "ac3", "caf", "au", "av1", "ivf", "m4v"),
)
ONLY = {"protocol_whitelist": "file", "format_whitelist": ",".join(FORMATS)}


@contextmanager
def open_media(path: Path) -> Iterator[av.container.InputContainer]:
    """A container for reading. Raises OSError, FFmpegError."""
    container = open_for_long(path)
    try:
        yield container
    finally:
        container.close()


def open_for_long(path: Path) -> av.container.InputContainer:
    """The same for a caller who closes it."""
    with path_for_library(path) as name:
        # Old programs write the words about a film in the encoding of their day.
        return av.open(f"file:{name}", container_options=ONLY, metadata_errors="replace")
