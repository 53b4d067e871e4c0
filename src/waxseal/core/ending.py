"""The end of a process: quick, and without a word of what its libraries count."""

from __future__ import annotations

import atexit
import gc
import sys

__all__ = ["end_quickly"]


def end_quickly() -> None:
    """Once this process ends, do not look through all of its objects: it takes a tenth of a second.

    OpenImageIO counts what is left of its own at the end, and complains: where it is in use,
    all are looked through.
    """
    atexit.register(look_through_or_not)


def look_through_or_not() -> None:
    if "OpenImageIO" in sys.modules:
        gc.unfreeze()
    else:
        gc.freeze()
