"""How the kernels are compiled: no fast-math, so that every machine gives the same bits."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Any, TypeVar, cast

import numba as nb
from numba.np import linalg

__all__ = ["compiled", "inlined", "was_kept"]

F = TypeVar("F", bound=Callable[..., Any])


def leave_blas_out() -> None:
    """Spare the import of SciPy's linear algebra, a quarter of a second: no kernel asks for it."""

    def find_none() -> None:
        raise ImportError("no kernel multiplies matrices")

    before, linalg.ensure_blas = linalg.ensure_blas, find_none
    try:
        import numba.np.arraymath  # noqa: F401 - here it is looked for
    finally:
        linalg.ensure_blas = before


def leave_c_out() -> None:
    """Spare the import of a parser for C, a twentieth of a second: no kernel calls C."""
    modules = cast(dict[str, Any], sys.modules)
    before = modules.get("cffi")
    modules["cffi"] = None  # an import of it fails; nobody else here asks for it
    try:
        import numba.core.typing.cffi_utils  # noqa: F401 - here it is looked for
    finally:
        del modules["cffi"]
        if before is not None:
            modules["cffi"] = before


leave_blas_out()
leave_c_out()


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


def was_kept(function: Callable[..., Any]) -> bool:
    """Whether all that was called of a compiled function was kept by an earlier run.

    Another compiler, or another processor, keeps its own.
    """
    return not cast(Any, function).stats.cache_misses
