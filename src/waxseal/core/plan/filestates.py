"""Files as they are when they are asked for: a changed size or time makes another file of them.

A thread that must never wait for a disk (a window's) is answered from what is known: see
`answer_by`.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from contextvars import ContextVar
from dataclasses import dataclass
from pathlib import Path

__all__ = ["GONE", "UNKNOWN", "FileState", "answer_by", "look_at", "state_of"]

GONE, UNKNOWN = -1, -2  # in place of a size


@dataclass(frozen=True, slots=True)
class FileState:
    """A file as it was when the recipe was made: a changed size or time makes it another file."""

    path: str
    size_bytes: int  # GONE: not there. UNKNOWN: nobody has looked yet
    modified_ns: int

    @property
    def is_there(self) -> bool:
        """As far as is known."""
        return self.size_bytes >= 0


Answers = Callable[[str], FileState]
_answers: ContextVar[Answers | None] = ContextVar("answers", default=None)


def answer_by(known: Answers | None) -> None:
    """In this thread `state_of` asks `known` from now on, and no disk; None: the disk again."""
    _answers.set(known)


def state_of(path: Path | str) -> FileState:
    known = _answers.get()
    return look_at(path) if known is None else known(str(path))


def look_at(path: Path | str) -> FileState:
    """On the disk, whatever thread this is."""
    try:
        status = os.stat(path)  # noqa: PTH116 - Path.stat costs twice as much, once a frame
    except OSError:
        return FileState(str(path), GONE, 0)
    return FileState(str(path), status.st_size, status.st_mtime_ns)
