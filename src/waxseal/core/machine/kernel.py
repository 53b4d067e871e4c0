"""Functions on arrays that are compiled to machine code at their first call; the code is kept."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from struct import Struct
from threading import RLock
from types import ModuleType
from typing import TYPE_CHECKING, Any, TypeVar, cast

import numpy as np
import xxhash

from waxseal.core.machine.calling import Kind, kind_of, packing_of, place_of

if TYPE_CHECKING:
    from waxseal.core.machine.code import Entry

__all__ = ["Kernel", "compiled", "inlined", "is_at_hand", "sense_of_all"]

F = TypeVar("F", bound=Callable[..., Any])
Ready = tuple[Struct, "Entry"]

into: dict[str, list[Callable[..., Any]]] = {}  # what is compiled into others, by its module
kernels: list[Kernel] = []
preparing = RLock()  # so that two threads do not compile the same


def inlined(function: F) -> F:
    """Compiled into each function of its own module that calls it, and of modules that import it.

    One that is imported calls no other.
    """
    into.setdefault(function.__module__, []).append(function)
    return function


def among_of(function: Callable[..., Any]) -> list[Callable[..., Any]]:
    """What may be compiled into a function: what is inlined in its module, or imported there."""
    own, seen = function.__module__, function.__globals__
    every = [(module, one) for module, ones in into.items() for one in ones]
    return [one for module, one in every if module == own or seen.get(one.__name__) is one]


def compiled(function: F) -> F:
    """A Kernel, which is called like the function."""
    kernels.append(Kernel(function))
    return cast(F, kernels[-1])


def is_at_hand(kernel: Callable[..., Any], *arguments: Any) -> bool:
    """Whether a kernel can be called with arguments like these without its compiler.

    It can after a first call, and where an earlier run has kept it.
    """
    kinds = tuple([kind_of(one) for one in arguments])
    try:
        return cast(Kernel, kernel).has(kinds)
    except ImportError:
        return False  # nothing on this machine that loads machine code


def sense_of_all() -> str:
    """A digest of what all imported kernels compute."""
    return xxhash.xxh3_128_hexdigest(b"".join(sorted(kernel.sense for kernel in kernels)))


class Kernel:
    """A function of arrays and numbers, compiled for each combination of their kinds.

    It writes into arrays and makes none; it gives a bool, or nothing (False). Python's other
    threads run while it works.
    """

    def __init__(self, function: Callable[..., Any]) -> None:
        self._function, self.__name__ = function, function.__name__
        self._ready: dict[tuple[Kind, ...], Ready] = {}
        self._sense = b""

    def __call__(self, *arguments: Any) -> bool:
        """Raises ArithmeticError where the function raises."""
        kinds = tuple([kind_of(one) for one in arguments])
        packing, entry = self._ready.get(kinds) or self._prepare(kinds)
        given = entry(packing.pack(*[place_of(one) for one in arguments]))
        if given < 0:
            raise ArithmeticError(f"The kernel {self.__name__} failed.")
        return bool(given)

    def has(self, kinds: tuple[Kind, ...]) -> bool:
        """Whether there is code for arguments of these kinds, here or kept."""
        return kinds in self._ready or self._fetch(kinds)

    @property
    def sense(self) -> bytes:
        """A digest of its code, and of the constants that it reads."""
        if not self._sense:
            functions = [self._function, *among_of(self._function)]
            parts = [repr(part).encode() for one in functions for part in seen_of(one)]
            self._sense = xxhash.xxh3_128_digest(b"\0".join(parts))
        return self._sense

    def _prepare(self, kinds: tuple[Kind, ...]) -> Ready:
        with preparing:
            if not self.has(kinds):
                self._compile(kinds)
            return self._ready[kinds]

    def _compile(self, kinds: tuple[Kind, ...]) -> None:
        from waxseal.core.machine import code
        from waxseal.core.machine.compiler import compile_kernel

        with code.compiling():
            if not self.has(kinds):  # another process may have been at it
                objects = compile_kernel(self._function, among_of(self._function), kinds)
                code.keep(self._name(kinds), objects)
                self._load(kinds, objects)

    def _fetch(self, kinds: tuple[Kind, ...]) -> bool:
        """Take what an earlier run kept: False where there is none."""
        from waxseal.core.machine import code

        with preparing:
            if kinds in self._ready:  # another thread was quicker
                return True
            objects = code.fetch(self._name(kinds))
            if objects is not None:
                self._load(kinds, objects)
            return objects is not None

    def _load(self, kinds: tuple[Kind, ...], objects: Sequence[bytes]) -> None:
        from waxseal.core.machine import code

        self._ready[kinds] = packing_of(kinds), code.load(objects, self.__name__)

    def _name(self, kinds: tuple[Kind, ...]) -> str:
        whole = self.sense + repr(kinds).encode()
        return f"{self.__name__}-{xxhash.xxh3_64_hexdigest(whole)}"


def seen_of(function: Any) -> Iterator[Any]:
    """A function's code, and the values of the names that it reads outside of itself.

    Raises TypeError for a value that a compiler would build in and that has no short text.
    """
    code = function.__code__
    yield from (code.co_code, code.co_consts, code.co_varnames, code.co_names)
    for name in code.co_names:
        value = function.__globals__.get(name)
        if isinstance(value, np.ndarray):
            raise TypeError(f"The kernel {function.__name__} reads the array {name}: hand it over.")
        if isinstance(value, str | int | float | np.generic | tuple):
            yield value
        elif not (value is None or callable(value) or isinstance(value, ModuleType)):
            raise TypeError(f"The kernel {function.__name__} reads {name}: hand it over.")
