"""Opening a file in OpenImageIO: limits set, one thread a read, names that are no text too."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import OpenImageIO as oiio

from waxseal.core.safe_open import path_for_library

__all__ = ["open_image"]

_limits_lock = threading.Lock()
_limits_set = False


@contextmanager
def open_image(path: Path) -> Iterator[Any]:
    """An OpenImageIO input. Straight alpha stays straight: ours to turn. Raises ValueError."""
    set_limits(oiio)
    hints = oiio.ImageSpec()
    hints.attribute("oiio:UnassociatedAlpha", 1)
    with path_for_library(path) as name:
        source = oiio.ImageInput.open(name, hints)
        if source is None:
            raise ValueError(oiio.geterror() or "it cannot be opened")
        try:
            yield source
        finally:
            source.close()


def set_limits(oiio: Any) -> None:
    """One thread a read (frames run side by side), and no allocation beyond a large frame."""
    global _limits_set
    with _limits_lock:
        if not _limits_set:
            oiio.attribute("threads", 1)
            oiio.attribute("exr_threads", 1)
            oiio.attribute("limits:imagesize_MB", 4400)
            oiio.attribute("limits:channels", 1024)
            _limits_set = True
