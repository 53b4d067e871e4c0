"""One try for each of a row of seeds, in a folder of its own: what is wrong is printed."""

from __future__ import annotations

import shutil
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

__all__ = ["try_each"]


def try_each(seeds: range, one: Callable[[Path, int], str], what: str) -> int:
    """one: takes a folder and a seed, and says what is wrong; nothing where all is well.

    what: what the tries are called, in the plural. Returns the exit code.
    """
    wrong = 0
    for seed in seeds:
        folder = Path(tempfile.mkdtemp(prefix="seed"))
        try:
            found = one(folder, seed)
        finally:
            shutil.rmtree(folder, ignore_errors=True)
        if found:
            wrong += 1
            sys.stdout.write(f"{seed}: {found}\n")
            sys.stdout.flush()
    sys.stdout.write(f"{len(seeds)} {what}, {wrong} wrong\n")
    return int(wrong > 0)
