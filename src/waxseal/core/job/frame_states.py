"""Why a frame of a source cannot be used: one word for one thing."""

from __future__ import annotations

from enum import StrEnum

__all__ = ["FrameState"]


class FrameState(StrEnum):
    LOST = "lost"  # its folder, or its one file, is not where it was
    MISSING = "missing"  # its number has no file
    DAMAGED = "damaged"  # its file is there and has lost data
    NOT_READ = "not read"  # its file is whole, and of a kind that has to be converted
    ARRIVING = "still arriving"  # not whole yet, and written a moment ago
