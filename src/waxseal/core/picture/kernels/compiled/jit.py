"""The kernels' functions: compiled when they are called first, and kept from then on."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from struct import Struct
from threading import RLock
from typing import Any, TypeVar, cast

import xxhash

from waxseal.core.picture.kernels.compiled import machine
from waxseal.core.picture.kernels.compiled.calling import Kind, kind_of, packing_of, place_of

__all__ = ["Kernel", "compiled", "inlined"]

F = TypeVar("F", bound=Callable[..., Any])

into: dict[str, list[Callable[..., Any]]] = {}  # what is compiled into others, by its module
preparing = RLock()  # so that two threads do not compile the same


def inlined(function: F) -> F:
    """Compiled into each function of its own module that calls it."""
    into.setdefault(function.__module__, []).append(function)
    return function


def compiled(function: F) -> F:
    return cast(F, Kernel(function))


class Kernel:
    """A function of arrays and numbers, compiled for each combination of their kinds.

    It writes into arrays and makes none; it gives a bool, or nothing (False). Python's other
    threads run while it works.
    """

    def __init__(self, function: Callable[..., Any]) -> None:
        self._function, self.__name__ = function, function.__name__
        self._ready: dict[tuple[Kind, ...], tuple[Struct, machine.Entry]] = {}

    def __call__(self, *arguments: Any) -> bool:
        """Raises ArithmeticError where the function raises."""
        kinds = tuple([kind_of(one) for one in arguments])
        packing, entry = self._ready.get(kinds) or self._prepare(kinds)
        given = entry(packing.pack(*[place_of(one) for one in arguments]))
        if given < 0:
            raise ArithmeticError(f"The kernel {self.__name__} failed.")
        return bool(given)

    def _prepare(self, kinds: tuple[Kind, ...]) -> tuple[Struct, machine.Entry]:
        with preparing:
            if kinds not in self._ready:
                entry = machine.load(self._objects(kinds), self.__name__)
                self._ready[kinds] = packing_of(kinds), entry
            return self._ready[kinds]

    def _objects(self, kinds: Sequence[Kind]) -> list[bytes]:
        name = f"{self.__name__}-{xxhash.xxh3_64_hexdigest(repr(kinds).encode())}"
        objects = machine.fetch(name)
        if objects is None:
            from waxseal.core.picture.kernels.compiled.compiler import compile_kernel

            among = into.get(self._function.__module__, ())
            objects = compile_kernel(self._function, among, kinds)
            machine.keep(name, objects)
        return objects
