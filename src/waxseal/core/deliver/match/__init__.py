"""The match table of a delivery: what the sources are, what the reel is, what the file will be.

Row by row, from the programme and the delivery, and in words what is done in between. The
check before a delivery, the notes in its seal and what its file is held to come from the same
rows: they cannot disagree.
"""

from __future__ import annotations

from collections.abc import Callable

from waxseal.core.deliver.match.file_rows import file_size, sound
from waxseal.core.deliver.match.match_drawings import Drawings, drawings_of
from waxseal.core.deliver.match.match_row import Matched, Row, State
from waxseal.core.deliver.match.picture_rows import alpha, colour, pixel_shape, size
from waxseal.core.deliver.match.time_rows import (
    frames,
    has_guessed_rate,
    length,
    rate,
    sources_lacking,
)
from waxseal.core.job.model import Delivery
from waxseal.core.plan.programme import Programme

__all__ = [
    "Drawings",
    "Row",
    "State",
    "has_guessed_rate",
    "match",
    "match_drawn",
    "notes_in",
    "reasons_in",
    "sources_lacking",
]

ROWS: tuple[Callable[[Matched], Row], ...] = (
    *(frames, rate, size, pixel_shape, colour, alpha, sound, length, file_size),
)


def match(planned: Programme, delivery: Delivery) -> tuple[Row, ...]:
    """The rows of a delivery. Raises JobError for settings that make no file."""
    matched = Matched(planned, delivery)
    return tuple(row(matched) for row in ROWS)


def match_drawn(planned: Programme, delivery: Delivery) -> tuple[tuple[Row, ...], Drawings]:
    """The same, with what is drawn. Raises JobError."""
    matched = Matched(planned, delivery)
    return tuple(row(matched) for row in ROWS), drawings_of(matched)


def notes_in(rows: tuple[Row, ...]) -> tuple[str, ...]:
    """What is done on the way that somebody should know, in sentences."""
    return tuple(note for row in rows for note in row.notes)


def reasons_in(rows: tuple[Row, ...]) -> tuple[str, ...]:
    """Why it cannot be made, in sentences."""
    return tuple(reason for row in rows for reason in row.reasons)
