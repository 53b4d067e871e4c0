"""An open movie: where its frames are in time, and how far it has been decoded."""

from __future__ import annotations

import threading
from bisect import bisect_left, bisect_right
from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import av

from waxseal.core.av_open import open_for_long
from waxseal.core.errors import FrameError
from waxseal.core.frames.movies.movie_facts import MovieFacts, facts_of, quarter_turns
from waxseal.core.frames.movies.movie_wholeness import is_cut_off

__all__ = ["reader_of"]

MOST_FRAMES = 10_000_000
MOST_READERS = 6
KEPT_FRAMES = 12  # decoded ones behind the last: two threads do not ask in order
FURTHEST = 48  # frames that are decoded on the way rather than sought


class MovieReader:
    """An open movie: where its frames are in time, and how far it has been decoded."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._lock = threading.Lock()
        self._found = frame_times(path)
        self._times, self._keys = self._found.times, self._found.keys
        self._kept: OrderedDict[int, av.VideoFrame] = OrderedDict()
        self._container: av.container.InputContainer | None = None
        self._decoded: Iterator[av.VideoFrame] = iter(())
        self._next = -1  # the index, from 0, that is decoded next; -1 where it is not known
        self._turns = 0
        self.facts = self._look()

    def frame(self, number: int) -> tuple[av.VideoFrame, int]:
        """A frame from 1, as decoded, and the quarter turns that put it upright."""
        index = number - 1
        if not 0 <= index < len(self._times):
            raise FrameError(f"not there: the movie has frames 1 to {len(self._times)}")
        with self._lock:
            kept = self._kept.get(index)
            found = kept if kept is not None else self._decode(index)
            return found, self._turns

    def close(self) -> None:
        with self._lock:
            if self._container is not None:
                self._container.close()
            self._container = None
            self._decoded = iter(())
            self._kept.clear()

    def _decode(self, index: int) -> av.VideoFrame:
        """Goes on from the decoder's position, a key frame before it, or the very start."""
        if 0 <= self._next <= index <= self._next + FURTHEST and self._container is not None:
            found = self._decode_to(index)
            if found is not None:
                return found
        key = bisect_right(self._keys, self._times[index]) - 1
        for back in (key, key - 1, -1):
            self._seek(self._keys[back] if back >= 0 else None)
            found = self._decode_to(index)
            if found is not None:
                return found
        raise FrameError("damaged: it is in the index and does not come out of the decoder")

    def _decode_to(self, index: int) -> av.VideoFrame | None:
        wanted = self._times[index]
        for frame in self._decoded:
            at = time_of(frame)
            if at is None or at < self._times[0]:
                continue
            place = bisect_left(self._times, at)
            self._next = place + 1
            self._kept[place] = frame
            while len(self._kept) > KEPT_FRAMES:
                self._kept.popitem(last=False)
            if at == wanted:
                if frame.is_corrupt:
                    raise FrameError("damaged: a part of its picture is missing")
                return frame
            if at > wanted:
                break
        self._next = -1
        return None

    def _seek(self, time: int | None) -> None:
        """To a key frame's time; None opens the file afresh."""
        if time is None and self._container is not None:
            self._container.close()
            self._container = None
        if self._container is None:
            self._container = open_movie(self._path)
        stream = self._container.streams.video[0]
        if time is not None:
            self._container.seek(time, stream=stream, backward=True)
        self._decoded = decoding(self._container, stream)
        self._kept.clear()
        self._next = -1

    def _look(self) -> MovieFacts:
        first = self._decode(0)
        self._turns = quarter_turns(first)
        with open_movie(self._path) as container:
            is_cut = is_cut_off(
                *(self._path, container, self._found.packets), ends_torn=self._found.ends_torn
            )
            return facts_of(self._path, container, first, self._times, is_cut=is_cut)


Key = tuple[str, int, int]
_readers: OrderedDict[Key, MovieReader] = OrderedDict()
_readers_lock = threading.Lock()


def reader_of(path: Path) -> MovieReader:
    """The reader of a file as it is now; a few are kept open."""
    status = path.stat()
    key = (str(path), status.st_size, status.st_mtime_ns)
    with _readers_lock:
        reader = _readers.get(key)
        if reader is None:
            reader = _readers[key] = MovieReader(path)
        _readers.move_to_end(key)
        over = [_readers.popitem(last=False)[1] for _ in range(len(_readers) - MOST_READERS)]
    for old in over:
        old.close()
    return reader


def open_movie(path: Path) -> av.container.InputContainer:
    container = open_for_long(path)
    trouble = ""
    if not container.streams.video:
        trouble = "there is no picture in it"
    # The library's types do not say it: of an unknown codec there is no context.
    elif getattr(container.streams.video[0], "codec_context", None) is None:
        trouble = "its codec cannot be read"
    if trouble:
        container.close()
        raise FrameError(trouble)
    return container


def decoding(
    container: av.container.InputContainer, stream: av.VideoStream
) -> Iterator[av.VideoFrame]:
    """The frames from the container's position on."""
    if stream.metadata.get("alpha_mode") == "1" and stream.codec_context.name == "vp9":
        # The native decoder drops the alpha without a word.
        context: Any = av.CodecContext.create("libvpx-vp9", "r")
        for packet in container.demux(stream):
            yield from context.decode(packet)
        return
    context = stream.codec_context
    if context.is_open:
        context.flush_buffers()
    else:
        context.thread_type = "AUTO"
        context.thread_count = 2
    for packet in container.demux(stream):
        yield from context.decode(packet)


@dataclass(frozen=True, slots=True)
class FrameTimes:
    """What one pass over the packets says.

    times, keys: of every frame and of the key frames, in the stream's own unit, in order.
    ends_torn: whether the last packet is not whole.
    """

    times: list[int]
    keys: list[int]
    packets: int
    ends_torn: bool


def frame_times(path: Path) -> FrameTimes:
    """Raises FrameError."""
    packets, ends_torn = 0, False
    container = open_movie(path)
    try:
        stream = container.streams.video[0]
        times, keys = set[int](), set[int]()
        for packet in container.demux(stream):
            if packet.size:
                packets += 1
                ends_torn = packet.is_corrupt
            if packet.size and packet.pts is not None and not packet.is_discard:
                times.add(packet.pts)
                if packet.is_keyframe:
                    keys.add(packet.pts)
        if not times:  # a container without times: those that decoding gives
            container.seek(0)
            for frame in decoding(container, stream):
                at = time_of(frame)
                if at is not None:
                    times.add(at)
    finally:
        container.close()
    if not times:
        raise FrameError("there is no frame in it")
    if len(times) > MOST_FRAMES:
        raise FrameError(f"it claims {len(times)} frames, more than any movie has")
    return FrameTimes(sorted(times), sorted(keys), packets, ends_torn)


def time_of(frame: av.VideoFrame) -> int | None:
    return frame.pts if frame.pts is not None else frame.dts
