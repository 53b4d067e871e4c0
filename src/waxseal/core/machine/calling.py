"""How a kernel's arguments reach its machine code: packed one after the other, as C would.

A number is packed as it is, an array as the address of its object.
"""

from __future__ import annotations

from collections.abc import Sequence
from struct import Struct, calcsize
from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["ArrayKind", "Kind", "kind_of", "offsets_of", "packing_of", "place_of"]

# Of an array: what it holds, its axes, whether it is in one piece, row by row (C order), and
# whether its numbers begin where the processor likes them to.
ArrayKind = tuple[np.dtype[Any], int, bool, bool]
Kind = ArrayKind | type

ARRAY = "P"


def kind_of(value: NDArray[Any] | Any) -> Kind:
    if isinstance(value, np.ndarray):
        flags = value.flags
        return value.dtype, value.ndim, flags.c_contiguous, flags.aligned
    return type(value)


def place_of(value: NDArray[Any] | Any) -> Any:
    """What is packed: a number itself, or the address of an array's object in CPython."""
    return id(value) if isinstance(value, np.ndarray) else value


def packing_of(kinds: Sequence[Kind]) -> Struct:
    return Struct("".join(letter(kind) for kind in kinds))


def offsets_of(kinds: Sequence[Kind]) -> list[int]:
    """Where each argument begins, in bytes."""
    letters = [letter(kind) for kind in kinds]
    return [
        calcsize("".join(letters[: number + 1])) - calcsize(one)
        for number, one in enumerate(letters)
    ]


def letter(kind: Kind) -> str:
    """A letter of Python's `struct`; for numbers these are NumPy's letters."""
    return ARRAY if isinstance(kind, tuple) else np.dtype(kind).char
