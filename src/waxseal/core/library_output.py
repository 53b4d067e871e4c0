"""What libraries print by themselves: words for programmers, which reach nobody's terminal."""

from __future__ import annotations

import os
import sys

__all__ = ["silence_libraries"]

ERRORS = 2  # the descriptor to which libraries print


def silence_libraries() -> None:
    """From now on only this program writes to standard error, by `sys.stderr`. Call it once."""
    if sys.stderr is None:
        return
    try:
        ours = os.dup(ERRORS)
    except OSError:
        return  # it was closed
    sys.stderr = os.fdopen(ours, "w", buffering=1, encoding="utf-8", errors="backslashreplace")
    with open(os.devnull, "w") as nowhere:  # noqa: PTH123 - a device
        os.dup2(nowhere.fileno(), ERRORS)
