"""Pictures and sounds made on request, as files like any other: bars, tone, slate."""

from __future__ import annotations

import string
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import numpy as np
import soundfile

from waxseal.core.errors import JobError, WaxSealError
from waxseal.core.frames.frame_writer import write_pixels
from waxseal.core.job.corrections import Text, TextPlace
from waxseal.core.job.model import Size
from waxseal.core.picture.transfer_tables import encode_srgb

__all__ = [
    "make_bars",
    "make_card",
    "make_marks",
    "make_slate",
    "make_tone",
    "slate_texts",
    "title_text",
]

# White, yellow, cyan, green, magenta, red, blue, black. ITU-R BT.471, 75 per cent.
BARS = ((1, 1, 1), (1, 1, 0), (0, 1, 1), (0, 1, 0), (1, 0, 1), (1, 0, 0), (0, 0, 1), (0, 0, 0))
SHARE = 0.75
TONE_HZ, TONE_DBFS, SAMPLE_RATE = 1000, -18.0, 48_000  # EBU R 68: the alignment level
MARKED_S, CLAP = 5, 2400  # seconds of marks; samples of a clap
SLATE_DARK, SLATE_RULE = 0.012, 0.16  # scene-linear


def make_bars(folder: Path, size: Size) -> Path:
    """A still of colour bars, 16-bit, whose codes go into a delivery untouched.

    Raises JobError where nothing can be written.
    """
    edges = np.arange(size.width) * len(BARS) // size.width
    line = np.array(BARS, np.float64)[edges] * SHARE
    values = np.broadcast_to(line, (size.height, size.width, 3)) * 65_535 + 0.5
    return write_card(folder / f"{size.width}x{size.height}_bars.png", values.astype(np.uint16))


def make_tone(folder: Path, seconds: float) -> Path:
    """A stereo sine of 1 kHz at the alignment level. Raises JobError."""
    count = round(seconds * SAMPLE_RATE)
    wave = 10 ** (TONE_DBFS / 20) * np.sin(2 * np.pi * TONE_HZ / SAMPLE_RATE * np.arange(count))
    path = folder / f"{seconds:g}s_tone.wav"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        soundfile.write(path, np.repeat(wave[:, None], 2, axis=1), SAMPLE_RATE, subtype="PCM_24")
    except (OSError, RuntimeError) as error:
        raise JobError(f"{path} cannot be written: {error}", path=path) from None
    return path


def make_marks(folder: Path, size: Size, rate: Fraction) -> Path:
    """A film that shows how late a destination plays its sound: each second a flash and a clap.

    Frames and the sound of their name, in a folder of their own. Raises JobError.
    """
    name = f"{size.width}x{size.height}_{float(rate):g}fps_marks"
    place = folder / name
    count = round(MARKED_S * rate)
    flashes = [round(second * rate) for second in range(1, MARKED_S)]  # frames from 0
    dark = np.full((size.height, size.width, 3), 16, np.uint8)
    for frame in range(count):
        values = np.full_like(dark, 255) if frame in flashes else dark
        write_card(place / f"{name}.{frame + 1:04}.png", values)
    samples = np.zeros((round(count * SAMPLE_RATE / rate), 2))
    random = np.random.default_rng(5)
    clap = random.uniform(-0.7, 0.7, CLAP) * np.exp(-np.arange(CLAP) / (CLAP / 6))
    for frame in flashes:
        first = round(frame * SAMPLE_RATE / rate)
        samples[first : first + CLAP] = clap[:, None]
    try:
        soundfile.write(place / f"{name}.wav", samples, SAMPLE_RATE, subtype="PCM_24")
    except (OSError, RuntimeError) as error:
        raise JobError(f"{place} cannot be written: {error}", path=place) from None
    return place


def make_slate(folder: Path, size: Size) -> Path:
    """A still for a slate's words to stand on, with a rule under its title. Raises JobError."""
    light = np.full((size.height, size.width, 3), SLATE_DARK, np.float32)
    top = round(size.height * 0.36)
    rule = slice(top, top + max(1, size.height // 360))
    light[rule, round(size.width * 0.05) : round(size.width * 0.95)] = SLATE_RULE
    codes = (encode_srgb(light) * 255 + 0.5).astype(np.uint8)
    return write_card(free_name(folder, f"{size.width}x{size.height}_slate"), codes)


def slate_texts(title: str, lines: Sequence[str]) -> tuple[Text, Text]:
    """What a slate says: what follows, and lines about it."""
    head = Text(words=title, place=TextPlace.TOP_LEFT, size=110)
    body = Text(words="\n".join(lines), place=TextPlace.BOTTOM_LEFT, size=58, colour="#d8d2c4")
    return head, body


def title_text(words: str) -> Text:
    return Text(words=words, place=TextPlace.MIDDLE, size=90)


def make_card(folder: Path, size: Size, colour: str) -> Path:
    """A still of one colour, `#rrggbb`, for a title to stand on. Raises JobError."""
    code = [int(colour[at : at + 2], 16) for at in (1, 3, 5)]
    values = np.broadcast_to(np.array(code, np.uint8), (size.height, size.width, 3))
    return write_card(free_name(folder, f"{size.width}x{size.height}_title"), values)


def free_name(folder: Path, stem: str) -> Path:
    """Another letter for each: none is written over, and none is taken for a frame."""
    letters = ("", *(f"_{letter}" for letter in string.ascii_lowercase[1:]))
    names = (folder / f"{stem}{letter}.png" for letter in letters)
    free = next((name for name in names if not name.exists()), None)
    if free is None:
        raise JobError(f"{folder} has too many cards: remove some.", path=folder)
    return free


def write_card(path: Path, values: np.ndarray) -> Path:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_pixels(path, values)
    except (OSError, WaxSealError) as error:
        raise JobError(f"{path} cannot be written: {error}", path=path) from None
    return path
