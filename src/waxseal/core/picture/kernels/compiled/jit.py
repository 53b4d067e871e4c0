"""How the kernels are compiled: no fast-math, so that every machine gives the same bits."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

import numba as nb

__all__ = ["compiled", "inlined"]

F = TypeVar("F", bound=Callable[..., Any])


def compiled(function: F) -> F:
    """Compiled on its first call, kept on disk from then on; runs without the interpreter.

    What is kept is out of date when the function's own file is another: so all that it
    inlines stands in that file.
    """
    return cast(F, nb.njit(nogil=True, cache=True, fastmath=False, boundscheck=False)(function))


def inlined(function: F) -> F:
    """Compiled into each function that uses it: inner loops are short, so a call would cost."""
    jit = nb.njit(nogil=True, fastmath=False, boundscheck=False, forceinline=True)
    return cast(F, jit(function))
