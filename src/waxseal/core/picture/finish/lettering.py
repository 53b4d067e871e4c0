"""Text as a picture: lines in the safe area, cover_of by FreeType."""

from __future__ import annotations

from functools import lru_cache
from importlib import resources

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from waxseal.core.errors import JobError
from waxseal.core.job.corrections import Text
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.colour.curves import linear_of

__all__ = ["SAFE", "draw_text", "own_font"]

SAFE = 0.05  # of each side: SMPTE ST 2046-1's title area is 90 per cent
LEADING = 1.25  # from line to line, in letters' heights


def own_font() -> str:
    """The file of the font that comes with the application."""
    return str(resources.files("waxseal.fonts") / "Lato-Semibold.ttf")


@lru_cache(maxsize=32)
def font_of(path: str, pixels: int) -> ImageFont.FreeTypeFont:
    try:
        return ImageFont.truetype(path or own_font(), pixels, layout_engine=ImageFont.Layout.BASIC)
    except OSError:
        raise JobError(f"{path} cannot be used as a font: choose another.") from None


def draw_text(light: Light, text: Text, colour: Light | None = None) -> Light:
    """Lay text over a premultiplied picture of the whole frame, (h, w, 3 or 4).

    colour: of the text, as light, (3,); None takes what was typed as sRGB.
    Raises JobError for a font that cannot be used.
    """
    if colour is None:
        colour = np.array(linear_of(text.colour), np.float32)
    height, width = light.shape[:2]
    cover, shade = cover_of(text, width, height)
    done = light
    if text.shade:
        done = over(done, np.zeros(3, np.float32), shade * np.float32(text.shade))
    return over(done, colour, cover)


def over(light: Light, colour: Light, cover: Light) -> Light:
    """One colour over a picture. Source: Porter & Duff 1984."""
    part = cover[..., None]
    front = np.array((*colour, 1.0)[: light.shape[2]], np.float32)
    return np.asarray(front * part + light * (1 - part), np.float32)


@lru_cache(maxsize=8)
def cover_of(text: Text, width: int, height: int) -> tuple[Light, Light]:
    """How much of each pixel the letters cover, and the box behind them."""
    room = (width * (1 - 2 * SAFE), height * (1 - 2 * SAFE))
    lines, pixels = fit_lines(text, max(1, round(text.size * height / 1000)), room)
    font = font_of(text.font, pixels)
    page = Image.new("L", (width, height), 0)
    pen = ImageDraw.Draw(page)
    step = pixels * LEADING
    widths = [font.getlength(line) for line in lines]  # all of them inside the room
    block = step * (len(lines) - 1) + sum(font.getmetrics())
    place = text.place.value
    margin = (width * SAFE, height * SAFE)
    top = (height - block) / 2
    if place.startswith("top"):
        top = margin[1]
    elif place.startswith("bottom"):
        top = height - margin[1] - block
    edges = []
    for number, (line, length) in enumerate(zip(lines, widths, strict=True)):
        left = (width - length) / 2
        if place.endswith("left"):
            left = margin[0]
        elif place.endswith("right"):
            left = width - margin[0] - length
        pen.text((left, top + number * step), line, fill=255, font=font)
        edges.append((left, left + length))
    shade = Image.new("L", (width, height), 0)
    if edges:
        pad = pixels * 0.4
        ImageDraw.Draw(shade).rectangle(
            (
                min(left for left, _ in edges) - pad,
                top - pad * 0.5,
                max(right for _, right in edges) + pad,
                top + block + pad,
            ),
            fill=255,
        )
    return covering(page), covering(shade)


def fit_lines(text: Text, pixels: int, room: tuple[float, float]) -> tuple[list[str], int]:
    """The lines broken so that they stay in a room, and the letters' height for which they do.

    pixels: the height that was asked for. Lines are broken between words; where that is
    not enough (a word that is too long, too many lines), the letters become smaller.
    """
    while True:
        font = font_of(text.font, pixels)
        lines = [part for line in text.words.splitlines() for part in broken(line, font, room[0])]
        tall = pixels * LEADING * (len(lines) - 1) + sum(font.getmetrics())
        wide = max((font.getlength(line) for line in lines), default=0.0)
        if pixels == 1 or (wide <= room[0] and tall <= room[1]):
            return lines, pixels
        over = max(wide / room[0], (tall / room[1]) ** 0.5)
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
