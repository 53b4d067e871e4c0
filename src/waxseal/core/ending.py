"""How a process ends: quickly, and without messages of its libraries."""

from __future__ import annotations

import atexit
import gc
import sys

__all__ = ["end_quickly"]


def end_quickly() -> None:
    """Spare the collector's last look through all objects, which takes a tenth of a second.

    OpenImageIO prints a complaint for each of its objects that is left at the end. So where it
    is in use, the collector looks.
    """
    atexit.register(look_through_or_not)


def look_through_or_not() -> None:
    if "OpenImageIO" in sys.modules:
        gc.unfreeze()
    else:
        gc.freeze()
