"""What an animated PNG is, measured: every frame decoded, and how long its chunks say it stays."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from waxseal.core.errors import UnreadableInput
from waxseal.core.progress import CancelToken, Report, silent
from waxseal.core.safe_open import open_regular
from waxseal.core.seal.measure.file_facts import Look, Measured
from waxseal.core.seal.measure.measure_movie import measure_movie
from waxseal.core.text_format import plain

__all__ = ["is_animation", "measure_animation"]

SIGNATURE = b"\x89PNG\r\n\x1a\n"
HUNDREDTHS = 100  # of a second, where a chunk says 0: as the standard has it


def is_animation(path: Path) -> bool:
    return path.suffix.lower() == ".apng"


def measure_animation(
    path: Path,
    *,
    look: Look | None = None,
    expected_frames: int = 0,
    report: Report = silent,
    token: CancelToken | None = None,
) -> Measured:
    """As `measure_movie`, with the exact rate: the library rounds it. Raises as that does."""
    measured = measure_movie(
        path, look=look, expected_frames=expected_frames, report=report, token=token
    )
    try:
        delays = set(delays_in(path))
    except (OSError, struct.error) as error:
        raise UnreadableInput(f"{plain(path.name)} is damaged.", path=path) from error
    rate = 1 / delays.pop() if len(delays) == 1 else None
    return replace(
        measured,
        rate=rate,
        is_uneven=rate is None,
        seconds=float(measured.frames / rate) if rate else measured.seconds,
        stream="",  # each frame is compared by itself
    )


def delays_in(path: Path) -> Iterator[Fraction]:
    """How long each frame stays, in seconds. Raises OSError, struct.error where it is damaged.

    Source: W3C, Portable Network Graphics, third edition, 11.3.5.2: `fcTL`.
    """
    with open_regular(path) as file:
        file.seek(len(SIGNATURE))
        while head := file.read(8):
            length, name = struct.unpack(">I4s", head)
            if name == b"fcTL":
                over, under = struct.unpack_from(">HH", file.read(length), 20)
                if over:
                    yield Fraction(over, under or HUNDREDTHS)
                file.seek(4, 1)
            else:
                file.seek(length + 4, 1)
