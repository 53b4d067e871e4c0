"""Frames: a file a frame, in a folder of their own that is placed as a whole.

The sound is a file beside them, where the reel has one.
"""

from __future__ import annotations

from collections import deque
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import TYPE_CHECKING, Self, cast

from waxseal.core.atomic_write import flush_to_disk
from waxseal.core.deliver.codecs import FrameFile
from waxseal.core.deliver.codecs.pcm import PCM16, PCM24
from waxseal.core.deliver.containers.container import Container
from waxseal.core.progress import CancelToken, Report
from waxseal.core.text_format import names_words, plain

if TYPE_CHECKING:
    from waxseal.core.deliver.encode_state import Work
    from waxseal.core.deliver.resolved_format import Form
    from waxseal.core.seal.measure.file_facts import Look, Measured

__all__ = ["FRAMES", "frame_name", "is_frame_of"]

WRITERS = 2
WAITING = 6  # files that wait to be written


def frame_name(name: str, frame: int, suffix: str) -> str:
    return f"{name}.{frame:04d}{suffix}"


def sound_name(name: str) -> str:
    return f"{name}.wav"


def is_frame_of(name: str, file: str, suffix: str) -> bool:
    """Whether a file has the name of a frame of the delivery `name`."""
    number = file.removeprefix(f"{name}.").removesuffix(suffix)
    return number.isdecimal() and file == frame_name(name, int(number), suffix)


class FrameFolder:
    """A folder that is being filled, by a few threads."""

    def __init__(self, path: Path, form: Form) -> None:
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


def write_frames(path: Path, work: Work) -> str:
    """A file a frame. Each is compared bit by bit, so there is no digest of them all."""
    from waxseal.core.deliver.containers.movie_writer import write_wave
    from waxseal.core.deliver.segments.segment_builder import segments_of

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


def strangers_in(folder: Path, form: Form) -> list[str]:
    """What is in a folder besides frames of a delivery, and their sound."""
    name, suffix = form.path.name, cast(FrameFile, form.codec.coding).suffix
    return [
        one.name
        for one in folder.iterdir()
        if not is_frame_of(name, one.name, suffix) and one.name != sound_name(name)
    ]


def measure(
    path: Path, *, look: Look | None, expected_frames: int, report: Report, token: CancelToken
) -> Measured:
    from waxseal.core.seal.measure.measure_frames import measure_frames

    return measure_frames(
        path, look=look, expected_frames=expected_frames, report=report, token=token
    )


def path_trouble(path: Path, form: Form, *, overwrite: bool) -> str:
    """A folder of frames takes the place of one that was delivered, and of nothing else."""
    if not path.exists():
        return ""
    if not path.is_dir():
        return f"{plain(path.name)} is there already and is no folder: choose another name."
    if not overwrite:
        return f"{plain(path.name)} is there already: choose another name, or overwrite it."
    others = strangers_in(path, form)
    if others:
        return (
            f"{plain(path.name)} holds more than delivered frames ({names_words(others)}): "
            "choose another name."
        )
    return ""


FRAMES = Container(
    name="frames",
    suffix="",
    sounds=(PCM24, PCM16),
    has_boxes=False,
    has_timecode=False,
    write=write_frames,
    measure=measure,
    path_trouble=path_trouble,
)
