"""What is said to an encoding process."""

from __future__ import annotations

from enum import StrEnum

__all__ = ["GO_ON", "HOLD", "Before"]

HOLD, GO_ON = b"hold", b"go on"  # while it works, a line each


class Before(StrEnum):
    """What it does in place of a delivery, before there is one."""

    PREDICT = "predict"  # says how large the file becomes, and how long it takes
    AGAINST = "against"  # compares any file with the reel
    AHEAD = "ahead"  # encodes what is there already
