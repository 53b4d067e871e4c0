"""Frames: a file a frame, in a folder of their own that is placed as a whole.

The sound is a file beside them, where the reel has one.
"""

from __future__ import annotations

from collections import deque
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Self, cast

from waxseal.core.atomic_write import flush_to_disk
from waxseal.core.deliver.codecs import FrameFile
from waxseal.core.deliver.encode.encode_state import EncodeState
from waxseal.core.deliver.encode.segments.segment_builder import segments_of
from waxseal.core.deliver.encode.writers.sound_track import write_wave
from waxseal.core.deliver.format.delivered_names import frame_name, sound_name
from waxseal.core.deliver.format.resolved_format import ResolvedFormat

__all__ = ["write_folder"]

WRITERS = 2
WAITING = 6  # files that wait to be written


class FrameFolder:
    """A folder that is being filled, by a few threads."""

    def __init__(self, path: Path, form: ResolvedFormat) -> None:
        self._path, self._form = path, form
        self._coding = cast(FrameFile, form.codec.coding)
        self._pool = ThreadPoolExecutor(WRITERS, "write")
        self._waiting: deque[Future[None]] = deque()
        path.mkdir()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, _kind: type[BaseException] | None, *_rest: object) -> None:
        self._pool.shutdown(cancel_futures=True)

    def write(self, content: bytes, index: int) -> None:
        number = self._form.frames.first + index
        path = self._path / frame_name(self._form.path.name, number, self._coding.suffix)
        self._waiting.append(self._pool.submit(self._write_one, path, content))
        if len(self._waiting) > WAITING:
            self._waiting.popleft().result()

    def finish(self) -> None:
        for one in self._waiting:
            one.result()

    def _write_one(self, path: Path, content: bytes) -> None:
        path.write_bytes(content)
        self._coding.name(path)
        flush_to_disk(path)


def write_folder(path: Path, work: EncodeState) -> str:
    """A file a frame. Each is compared bit by bit, so there is no digest of them all."""
    form, place = work.form, 0
    with FrameFolder(path, form) as folder:
        for segment in segments_of(work):
            work.wait_for_room(path.parent, segment.size_bytes)
            for coded in segment.coded:
                folder.write(coded.data, place + coded.frame)
            place += len(segment.marks)
        folder.finish()
        if form.sound is not None and form.sound_codec is not None:
            write_wave(path / sound_name(form.path.name), form.sound, form.sound_codec)
    return ""
