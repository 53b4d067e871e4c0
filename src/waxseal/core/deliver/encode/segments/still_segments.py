"""Pictures that are a file each, made in memory."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from importlib.metadata import version
from pathlib import Path
from typing import Self, cast

from waxseal.core.deliver.codecs import FrameFile
from waxseal.core.deliver.encode.prefetch import MadePicture
from waxseal.core.deliver.encode.segments.segment_file import EncodedPicture
from waxseal.core.deliver.format.resolved_format import ResolvedFormat

__all__ = ["WRITERS", "FilesOfPictures", "file_key"]

WRITERS = ("OpenImageIO", "OpenEXR", "av", "deflate")  # whose versions a frame's bytes depend on


def file_key(form: ResolvedFormat) -> tuple[object, ...]:
    """What the bytes of a frame's file depend on, besides its picture and its target."""
    libraries = [(name, version(name)) for name in WRITERS]
    shape = (form.pixel_shape,) if form.pixel_shape != 1 else ()
    return libraries, form.codec.name, form.quality, form.rate, form.primaries, *shape


class FilesOfPictures:
    """Codes each picture as the bytes of a file."""

    head = whole = b""

    def __init__(self, form: ResolvedFormat) -> None:
        self._form = form
        self._coding = cast(FrameFile, form.codec.coding)

    def __enter__(self) -> Self:
        # The libraries write to a path, and know the format by its suffix.
        self._folder = tempfile.TemporaryDirectory(prefix="waxseal-frames-")
        self._memory = os.memfd_create("waxseal-frame")
        self._path = Path(self._folder.name) / f"frame{self._coding.suffix}"
        self._path.symlink_to(f"/proc/{os.getpid()}/fd/{self._memory}")
        return self

    def __exit__(self, *_error: object) -> None:
        os.close(self._memory)
        self._folder.cleanup()

    def code(self, made: MadePicture, place: int) -> Iterator[EncodedPicture]:
        os.ftruncate(self._memory, 0)
        self._coding.write(self._path, made.picture.planes, self._form)
        size = os.fstat(self._memory).st_size
        yield EncodedPicture(place, is_key=True, data=os.pread(self._memory, size, 0))

    def rest(self) -> Iterator[EncodedPicture]:
        yield from ()
