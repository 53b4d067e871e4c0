"""How kernels are compiled: by Numba, once on a machine, and kept in a folder of ours."""

from __future__ import annotations

import os
import shutil
import tempfile
from atexit import register
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, TypeVar, cast

from waxseal.core.picture.kernel_cache import FOLDER, drop_old, kept_in
from waxseal.core.private_folder import private_folder

__all__ = ["compiled", "inlined"]

F = TypeVar("F", bound=Callable[..., Any])


def use_folder() -> None:
    """Tell Numba where to keep what it compiles: where nobody else can plant code.

    Where that cannot be had, nothing is kept after this process.
    """
    folder = kept_in()
    try:
        private_folder(folder)
        if FOLDER not in os.environ:
            drop_old()
    except OSError:
        folder = Path(tempfile.mkdtemp(prefix="waxseal-kernels-"))
        register(partial(shutil.rmtree, folder, ignore_errors=True))
    os.environ[FOLDER] = str(folder)


use_folder()

import numba  # noqa: E402 - it reads the variable when it is imported


def compiled(function: F) -> F:
    """A kernel: compiled for each kind of arguments. Other threads run while it works.

    No fast-math: the same bits on every machine.
    """
    return cast(F, numba.njit(cache=True, nogil=True)(function))


def inlined(function: F) -> F:
    """A part of kernels."""
    return cast(F, numba.njit(nogil=True)(function))
