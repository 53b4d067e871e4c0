"""Text as a picture: lines in the safe area, drawn by FreeType."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from io import BytesIO
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from waxseal.core.errors import JobError
from waxseal.core.foreign_text import ForeignTextError, read_foreign
from waxseal.core.job.corrections import Text
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.framing import Box
from waxseal.core.picture.transfer_tables import linear_of
from waxseal.core.plan.filestates import FileState, state_of
from waxseal.core.text_format import plain

__all__ = ["SAFE", "draw_text", "own_font"]

SAFE = 0.05  # of each side: SMPTE ST 2046-1's title area is 90 per cent
LEADING = 1.25  # from line to line, in letters' heights
LARGE = 2160  # lines, of the frame in which lines are broken
AROUND = 4  # pixels beyond what letters say they take
MOST_FONT_BYTES = 1 << 28  # the largest of all scripts take half of that


def own_font() -> str:
    """The file of the font that comes with the application."""
    return str(resources.files("waxseal.fonts") / "Lato-Semibold.ttf")


@lru_cache(maxsize=4)
def font_file(file: FileState) -> bytes:
    """A font as it is now. Raises JobError."""
    name = plain(Path(file.path).name)
    try:
        return read_foreign(Path(file.path), MOST_FONT_BYTES)
    except FileNotFoundError:
        raise JobError(f"The font {name} is not there any more: choose it again.") from None
    except ForeignTextError as error:
        raise JobError(f"The font {name} cannot be read: {error}.") from None


@lru_cache(maxsize=32)
def font_of(file: FileState, pixels: int) -> ImageFont.FreeTypeFont:
    """Raises JobError, OSError."""
    content = BytesIO(font_file(file))
    return ImageFont.truetype(content, pixels, layout_engine=ImageFont.Layout.BASIC)


def draw_text(light: Light, text: Text, colour: Light | None = None) -> Light:
    """Lay text over a premultiplied picture of the whole frame, (h, w, 3 or 4), in place.

    colour: of the text, as light, (3,); None takes what was typed as sRGB.
    Raises JobError for a font that cannot be used.
    """
    if colour is None:
        colour = np.array(linear_of(text.colour), np.float32)
    height, width = light.shape[:2]
    font = state_of(text.font or own_font())
    try:
        drawn = draw(text, font, width, height)
    except (OSError, ValueError):  # FreeType's, of a damaged file; here or there in it
        name = plain(Path(font.path).name)
        raise JobError(f"{name} cannot be used as a font: choose another.") from None
    at = drawn.at
    part = light[at.y : at.y + at.height, at.x : at.x + at.width]
    if text.shade:
        part[:] = over(part, np.zeros(3, np.float32), drawn.shade * np.float32(text.shade))
    part[:] = over(part, colour, drawn.letters)
    return light


def over(light: Light, colour: Light, cover: Light) -> Light:
    """One colour over a picture. Source: Porter & Duff 1984."""
    part = cover[..., None]
    front = np.array((*colour, 1.0)[: light.shape[2]], np.float32)
    return np.asarray(front * part + light * (1 - part), np.float32)


@dataclass(frozen=True, slots=True, eq=False)
class Drawn:
    """A part of a frame, and how much the letters and the box behind them cover of each pixel."""

    at: Box
    letters: Light
    shade: Light


@lru_cache(maxsize=8)
def draw(text: Text, file: FileState, width: int, height: int) -> Drawn:
    """The words of a text in a frame of that size."""
    lines, pixels = lines_for(text, file, width, height)
    font = font_of(file, pixels)
    starts = starts_of(lines, font, text.place.value, (width, height))
    lengths = [font.getlength(line) for line in lines]  # all of them inside the room
    pad, (_, top) = pixels * 0.4, starts[0]
    behind = [
        (min(left for left, _ in starts) - pad, top - pad * 0.5),
        (
            max(left + length for (left, _), length in zip(starts, lengths, strict=True)) + pad,
            top + height_of(lines, font) + pad,
        ),
    ]
    boxes = [font.getbbox(line) for line in lines]
    ends = [(left + box[2], down + box[3]) for (left, down), box in zip(starts, boxes, strict=True)]
    at = room_for([*behind, *starts, *ends], (width, height))
    page, shade = (Image.new("L", (at.width, at.height), 0) for _ in range(2))
    for (left, down), line in zip(starts, lines, strict=True):
        ImageDraw.Draw(page).text((left - at.x, down - at.y), line, fill=255, font=font)
    corners = [(left - at.x, down - at.y) for left, down in behind]
    ImageDraw.Draw(shade).rectangle(corners, fill=255)
    return Drawn(at, covering(page), covering(shade))


def starts_of(
    lines: list[str], font: ImageFont.FreeTypeFont, place: str, size: tuple[int, int]
) -> list[tuple[float, float]]:
    """The upper left corner of each line, in a frame of that size."""
    (width, height), (beside, above) = size, (size[0] * SAFE, size[1] * SAFE)
    block = height_of(lines, font)
    top = (height - block) / 2
    if place.startswith("top"):
        top = above
    elif place.startswith("bottom"):
        top = height - above - block
    starts = []
    for number, line in enumerate(lines):
        length = font.getlength(line)
        left = (width - length) / 2
        if place.endswith("left"):
            left = beside
        elif place.endswith("right"):
            left = width - beside - length
        starts.append((left, top + number * font.size * LEADING))
    return starts


def height_of(lines: list[str], font: ImageFont.FreeTypeFont) -> float:
    return font.size * LEADING * (len(lines) - 1) + sum(font.getmetrics())


def room_for(points: list[tuple[float, float]], size: tuple[int, int]) -> Box:
    """The part of a frame that some points span, with a little room around them.

    It begins at a whole pixel, so that what is drawn in it is what would be drawn in the frame.
    """
    spans = []
    for axis, most in enumerate(size):
        values = [point[axis] for point in points]
        first, stop = int(min(values)) - AROUND, int(max(values)) + AROUND
        spans.append((min(max(first, 0), most), min(max(stop, 0), most)))
    (left, right), (top, bottom) = spans
    return Box(left, top, right - left, bottom - top)


def lines_for(text: Text, file: FileState, width: int, height: int) -> tuple[list[str], int]:
    """The lines, broken alike in every size of a frame, and the letters' height in this one.

    They are broken in a large frame of the same shape, where a pixel of the letters matters least.
    """
    within = 1 - 2 * SAFE
    times = LARGE / height
    room = (width * times * within, LARGE * within)
    lines, large = fit_lines(text, file, max(1, round(text.size * LARGE / 1000)), room)
    pixels = max(1, round(large / times))
    while pixels > 1 and not fits(lines, font_of(file, pixels), (width * within, height * within)):
        pixels -= 1
    return lines, pixels


def fits(lines: list[str], font: ImageFont.FreeTypeFont, room: tuple[float, float]) -> bool:
    return widest(lines, font) <= room[0] and height_of(lines, font) <= room[1]


def widest(lines: list[str], font: ImageFont.FreeTypeFont) -> float:
    return max(font.getlength(line) for line in lines)


def fit_lines(
    text: Text, file: FileState, pixels: int, room: tuple[float, float]
) -> tuple[list[str], int]:
    """The lines broken so that they stay in a room, and the letters' height for which they do.

    pixels: the height that was asked for. Lines are broken between words; where that is
    not enough (a word that is too long, too many lines), the letters become smaller.
    """
    while True:
        font = font_of(file, pixels)
        written = text.words.splitlines() or [""]
        lines = [part for line in written for part in broken(line, font, room[0])]
        if pixels == 1 or fits(lines, font, room):
            return lines, pixels
        over = max(widest(lines, font) / room[0], (height_of(lines, font) / room[1]) ** 0.5)
        pixels = max(1, min(pixels - 1, int(pixels / over)))


def broken(line: str, font: ImageFont.FreeTypeFont, room: float) -> list[str]:
    """A line as several, each as long as the room allows; spaces at the breaks go."""
    if font.getlength(line) <= room:
        return [line]
    lines, now = [], ""
    for word in line.split():
        longer = f"{now} {word}" if now else word
        if now and font.getlength(longer) > room:
            lines.append(now)
            longer = word
        now = longer
    return [*lines, now]


def covering(page: Image.Image) -> Light:
    return np.asarray(page, np.float32) / np.float32(255)
