"""Where the kernels' machine code is kept; asked without importing the compiler."""

from __future__ import annotations

import os
import platform
import shutil
import sys
from contextlib import suppress
from functools import cache
from importlib.metadata import version
from pathlib import Path
from time import time

import xxhash

from waxseal.core.folders import kernels_folder
from waxseal.core.private_folder import is_private

__all__ = [
    "FOLDER",
    "are_compiled",
    "drop_old",
    "kept_in",
    "note_compiled",
    "sources",
]

FOLDER = "NUMBA_CACHE_DIR"  # the variable of the environment by which Numba is told
COMPLETE = "complete"  # a file that is there once all have been compiled
LONGEST_S = 30 * 24 * 3600  # for which the code of other sources is left


def sources() -> list[Path]:
    """The files of the kernels, and that of the constants which are compiled into them."""
    here = Path(__file__).parent
    return [*sorted((here / "kernels").glob("*.py")), here / "transfer_tables.py"]


@cache
def stamp() -> str:
    """A digest of the kernels' sources, the compiler's version and the processor.

    Numba notices a change of the file that a kernel stands in, but not of those that it uses:
    so each state of the sources has a folder of its own.
    """
    total = xxhash.xxh3_64()
    for source in sources():
        total.update(source.read_bytes())
    for text in (sys.version, version("numba"), version("numpy"), platform.machine()):
        total.update(text.encode())
    return total.hexdigest()


def kept_in() -> Path:
    """A folder of these sources: of the user's caches, or where the environment says."""
    folder = Path(os.environ.get(FOLDER) or kernels_folder())
    return folder if folder.name == stamp() else folder / stamp()


def are_compiled() -> bool:
    """Whether an earlier run has compiled all kernels, as they are now, on this machine."""
    return is_private(kept_in()) and (kept_in() / COMPLETE).exists()


def note_compiled() -> None:
    with suppress(OSError):  # else the next process asks each kernel again
        (kept_in() / COMPLETE).touch()


def drop_old() -> None:
    """Let go of what was compiled of sources that nobody has used for a month."""
    for other in kernels_folder().iterdir():
        with suppress(OSError):
            if other.name != stamp() and time() - other.stat().st_mtime > LONGEST_S:
                shutil.rmtree(other)
