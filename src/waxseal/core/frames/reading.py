"""Decoding one frame. The library that is quickest for the file does it.

Ordinary EXR (one part, half, scan lines) goes through the OpenEXR package,
8-bit PNG through a bare codec context, everything else through OpenImageIO in
the file's own type. All of them release the interpreter, so frames are
decoded side by side in threads, each library with one thread of its own.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.errors import FrameError
from waxseal.core.frames.headers import Format, Header, look

__all__ = ["Pixels", "read_pixels"]


@dataclass(frozen=True, slots=True, eq=False)
class Pixels:
    """A decoded frame, exactly as its file has it.

    values: (height, width, 3 or 4), uint8, uint16, float16 or float32; the
        display window; colour, then alpha where the file has it. Grey stands
        in all three colours.
    header: what the file says of itself.
    """

    values: NDArray[Any]
    header: Header

    @property
    def has_alpha(self) -> bool:
        return bool(self.values.shape[2] == 4)


def read_pixels(path: Path, *, frame: int | None = None) -> Pixels:
    """Decode a frame whole. Raises FrameError; a grey rest is never let through."""
    header = look(path, frame)
    try:
        if header.is_ordinary and header.format is Format.EXR:
            values = read_ordinary_exr(path)
        elif header.is_ordinary and header.format is Format.PNG:
            values = read_ordinary_png(path, header)
        else:
            values = read_any(path, header)
    except FrameError as error:
        raise FrameError(str(error), path=path, frame=frame) from None
    except (OSError, RuntimeError, ValueError, MemoryError) as error:
        # The libraries' own: one gate, one sentence. OSError's child av.FFmpegError is among them.
        raise FrameError(
            f"damaged: it cannot be decoded ({first_line(error)})", path=path, frame=frame
        ) from error
    if values.shape[:2] != (header.height, header.width):
        raise FrameError("damaged: its picture has another size than its header", path=path)
    return Pixels(values, header)


@contextmanager
def path_for_library(path: Path) -> Iterator[str]:
    """A name that a library takes: one that is no text (its bytes are not UTF-8) by descriptor."""
    try:
        str(path).encode()
    except UnicodeEncodeError:
        with path.open("rb") as file:
            yield f"/proc/self/fd/{file.fileno()}"
    else:
        yield str(path)


def first_line(error: Exception) -> str:
    lines = str(error).strip().splitlines()
    return lines[0][:120] if lines else type(error).__name__


def read_ordinary_exr(path: Path) -> NDArray[Any]:
    import OpenEXR

    with path_for_library(path) as name, OpenEXR.File(name) as file:
        channels = file.channels()
        both = channels.get("RGBA") or channels.get("RGB")
        if both is None:
            raise FrameError("damaged: its channels are not those of its header")
        values: NDArray[Any] = both.pixels
        return values


def read_ordinary_png(path: Path, header: Header) -> NDArray[Any]:
    """8-bit RGB or RGBA.

    A fresh codec context a frame: one that is used again gives wrong pixels
    from the second RGBA picture on (libavcodec 62.28), and saves nothing. Its
    check of the chunks' sums is off unless asked for: without it, damaged
    data gives a picture and no error.
    """
    import av
    from av.error import FFmpegError

    context = av.CodecContext.create("png", "r")
    context.thread_count = 1
    context.options = {"err_detect": "crccheck"}
    try:
        frames = context.decode(av.Packet(path.read_bytes()))
    except FFmpegError as error:
        raise ValueError(error.strerror) from error
    if len(frames) != 1 or frames[0].format.name not in ("rgb24", "rgba"):
        raise ValueError("not one picture of 8 bits")
    frame = frames[0]
    channels = len(header.channels)
    plane = frame.planes[0]
    lines = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
    # A picture of another size than its header is caught by the caller.
    shaped = lines[: frame.height, : frame.width * channels]
    return shaped.reshape(frame.height, frame.width, channels)


_limits_lock = threading.Lock()
_limits_set = False


def set_limits(oiio: Any) -> None:
    """One thread a read (frames run side by side), and no allocation beyond a large frame."""
    global _limits_set
    with _limits_lock:
        if not _limits_set:
            oiio.attribute("threads", 1)
            oiio.attribute("exr_threads", 1)
            oiio.attribute("limits:imagesize_MB", 4400)
            oiio.attribute("limits:channels", 1024)
            _limits_set = True


TYPES = {"half": "half", "float": "float", "uint8": "uint8", "uint16": "uint16"}


def read_any(path: Path, header: Header) -> NDArray[Any]:
    import OpenImageIO as oiio

    set_limits(oiio)
    hints = oiio.ImageSpec()
    hints.attribute("oiio:UnassociatedAlpha", 1)  # straight stays straight: ours to turn
    with path_for_library(path) as name:
        return read_open(oiio, name, hints, header)


def read_open(oiio: Any, name: str, hints: Any, header: Header) -> NDArray[Any]:
    source = oiio.ImageInput.open(name, hints)
    if source is None:
        raise ValueError(oiio.geterror() or "it cannot be opened")
    try:
        spec = source.spec()
        wanted = [name for name in header.channels if name in ("R", "G", "B", "A", "Y")]
        names = list(spec.channelnames)
        values = source.read_image(0, 0, 0, spec.nchannels, TYPES[header.depth])
        if values is None or source.has_error:
            raise ValueError(source.geterror() or "its pixels cannot be read")
    finally:
        source.close()
    values = values.reshape(spec.height, spec.width, spec.nchannels)
    if header.format is Format.EXR:
        values = values[..., picked(names, wanted)]
        values = in_display_window(values, spec)
    return as_colour(values[..., : len(header.channels)])


def picked(names: list[str], wanted: list[str]) -> list[int]:
    """Where the channels stand that make the picture; the first ones where none is named so."""
    places = [names.index(name) for name in wanted if name in names]
    return places or list(range(min(3, len(names))))


def as_colour(values: NDArray[Any]) -> NDArray[Any]:
    """Three colours with or without alpha, from whatever number of channels there is."""
    count = values.shape[2]
    if count in (3, 4):
        return np.ascontiguousarray(values)
    if count == 1:
        return np.repeat(values, 3, axis=2)
    grey, alpha = values[..., :1], values[..., -1:]
    return np.concatenate([grey, grey, grey, alpha], axis=2)


def in_display_window(values: NDArray[Any], spec: Any) -> NDArray[Any]:
    """The data window laid into the display window; nothing (black, clear) around it."""
    if (spec.x, spec.y, spec.width, spec.height) == (
        spec.full_x,
        spec.full_y,
        spec.full_width,
        spec.full_height,
    ):
        return values
    shown = np.zeros((spec.full_height, spec.full_width, values.shape[2]), values.dtype)
    left, top = spec.x - spec.full_x, spec.y - spec.full_y
    inside = shown[
        max(0, top) : max(0, top + spec.height), max(0, left) : max(0, left + spec.width)
    ]
    cut = values[max(0, -top) :, max(0, -left) :]
    rows, columns = min(inside.shape[0], cut.shape[0]), min(inside.shape[1], cut.shape[1])
    inside[:rows, :columns] = cut[:rows, :columns]
    return shown
