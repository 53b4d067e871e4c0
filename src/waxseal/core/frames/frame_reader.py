"""Decoding one frame. The library that is quickest for the file does it.

Ordinary EXR (one part, half, scan lines) goes through the OpenEXR package, ordinary PNG
through a bare codec context, everything else through OpenImageIO in the file's own type. All
of them release the interpreter, so frames are decoded side by side in threads, each library
with one thread of its own.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
from numpy.typing import NDArray

from waxseal.core.errors import FrameError
from waxseal.core.filenames import MOVIE_SUFFIXES
from waxseal.core.frames.headers import Format, Header, look
from waxseal.core.frames.image_open import open_image
from waxseal.core.frames.movies import read_movie_frame
from waxseal.core.frames.png_frames import decode_png
from waxseal.core.job.model import Alpha, Part
from waxseal.core.safe_open import open_regular, path_for_library

__all__ = ["Pixels", "read_pixels"]


@dataclass(frozen=True, slots=True, eq=False)
class Pixels:
    """A decoded frame, exactly as its file has it.

    values: (height, width, 3 or 4), uint8, uint16, float16 or float32; the
        display window, turned as it is looked at; colour, then alpha where
        the file has it. Grey, and any single channel, is repeated in all three colours.
    header: what the file says of itself.
    """

    values: NDArray[Any]
    header: Header

    @property
    def has_alpha(self) -> bool:
        return bool(self.values.shape[2] == 4)


def read_pixels(path: Path, *, frame: int | None = None, part: str = "") -> Pixels:
    """Decode a frame whole: the part of that name, or the first.

    frame: for messages, and the number, from 1, in a movie.
    Raises FrameError; a grey rest is never let through.
    """
    if path.suffix.lower() in MOVIE_SUFFIXES:
        return read_from_movie(path, frame or 1)
    header = look(path, frame)
    try:
        wanted = header.part(part)
        if header.format is Format.EXR:
            values = read_exr(path, header, wanted)
        elif header.is_ordinary and header.format is Format.PNG:
            values = decode_png(read_whole(path))
        else:
            values = read_any(path, header, wanted)
    except FrameError as error:
        raise FrameError(
            str(error), path=path, frame=frame, is_not_read=error.is_not_read
        ) from None
    except (OSError, RuntimeError, ValueError, MemoryError) as error:
        # The libraries' own: one gate, one sentence. OSError's child av.FFmpegError is among them.
        raise FrameError("damaged: its pixels cannot be decoded", path=path, frame=frame) from error
    if values.shape[:2] != (header.height, header.width):
        raise FrameError("damaged: its picture has another size than its header", path=path)
    return Pixels(values, header)


def read_from_movie(path: Path, frame: int) -> Pixels:
    values = read_movie_frame(path, frame)
    channels = ("R", "G", "B", "A")[: values.shape[2]]
    return Pixels(
        values,
        Header(
            format=Format.MOVIE,
            width=values.shape[1],
            height=values.shape[0],
            channels=channels,
            depth=values.dtype.name,
            alpha=Alpha.STRAIGHT if len(channels) == 4 else Alpha.NONE,
        ),
    )


TYPES = {"half", "float", "uint8", "uint16"}


def read_exr(path: Path, header: Header, part: Part) -> NDArray[Any]:
    return read_ordinary_exr(path) if header.is_ordinary else read_any(path, header, part)


def read_ordinary_exr(path: Path) -> NDArray[Any]:
    with path_for_library(path) as name, OpenEXR.File(name) as file:
        if not file.parts:  # where it fails it says nothing else
            raise FrameError("damaged: its pixels cannot be unpacked")
        channels = file.channels()
        both = channels.get("RGBA") or channels.get("RGB")
        if both is None:
            raise FrameError("damaged: its channels are not those of its header")
        values: NDArray[Any] = both.pixels
        return values


def read_any(path: Path, header: Header, part: Part) -> NDArray[Any]:
    with open_image(path) as source:
        if part.place and not source.seek_subimage(part.place, 0):
            raise ValueError(f"its part {part.place + 1} cannot be found")
        spec = source.spec()
        names = list(spec.channelnames)
        # Only EXR names its channels; elsewhere they stand in the picture's order.
        named = header.format is Format.EXR
        places = [names.index(name) for name in part.channels] if named else [*range(len(names))]
        first, stop = min(places), max(places) + 1
        kind = type_to_read(spec, places)
        values = source.read_image(part.place, 0, first, stop, kind)
        trouble = source.geterror() if source.has_error else ""
        if values is None or (trouble and not header.oddity):
            raise ValueError(trouble or "its pixels cannot be read")
        values = values.reshape(spec.height, spec.width, stop - first)
        if named:
            values = in_display_window(values[..., [at - first for at in places]], spec)
    return orient(as_colour(values[..., : len(part.channels)], part), header.orientation)


def type_to_read(spec: Any, places: list[int]) -> str:
    """The type that holds all channels of a part: the file's own where it is one that we have."""
    formats = [str(kind) for kind in spec.channelformats] or [str(spec.format)] * spec.nchannels
    kinds = {formats[at] for at in places}
    return kinds.pop() if len(kinds) == 1 and kinds <= TYPES else "float"


def as_colour(values: NDArray[Any], part: Part) -> NDArray[Any]:
    """Three colours with or without alpha, from whatever number of channels there is."""
    count = values.shape[2]
    if count in (3, 4):
        return np.ascontiguousarray(values)
    if count == 1:
        return np.repeat(values, 3, axis=2)
    one, two = values[..., :1], values[..., 1:2]
    if part.has_alpha:
        return np.concatenate([one, one, one, two], axis=2)
    return np.concatenate([one, two, np.zeros_like(one)], axis=2)  # two axes, as of motion


def orient(values: NDArray[Any], orientation: int) -> NDArray[Any]:
    """As it is looked at. Source: TIFF Revision 6.0, Orientation; Exif has the same eight."""
    if orientation == 1:
        return values
    if orientation >= 5:
        values = values.transpose(1, 0, 2)
    if orientation in (3, 4, 7, 8):
        values = values[::-1]
    if orientation in (2, 3, 6, 7):
        values = values[:, ::-1]
    return np.ascontiguousarray(values)


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


def read_whole(path: Path) -> bytes:
    with open_regular(path) as file:
        return file.read()
