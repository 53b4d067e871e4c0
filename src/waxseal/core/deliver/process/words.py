"""What is said to an encoding process while it works, a line each."""

from __future__ import annotations

__all__ = ["GO_ON", "HOLD"]

HOLD, GO_ON = b"hold", b"go on"
