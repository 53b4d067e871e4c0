"""Compiles a kernel to machine code that needs neither the compiler nor the interpreter.

Imported only for kernels that this machine has not compiled before: it takes half a second.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from types import FunctionType
from typing import Any

import numba as nb
import numpy as np
from llvmlite import ir
from numba.core import types
from numba.core.compiler import Flags, compile_extra
from numba.core.compiler_lock import global_compiler_lock
from numba.core.registry import cpu_target

from waxseal.core.machine.calling import Kind, offsets_of

__all__ = ["compile_kernel"]

# No fast-math, so that every machine gives the same bits. Nothing is counted (`_nrt`): a kernel
# that makes an array does not compile, it is handed what it writes into.
OPTIONS = {"nogil": True, "fastmath": False, "boundscheck": False, "_nrt": False}
FAILED = -1

BYTE, INT, WORD = ir.IntType(8), ir.IntType(32), ir.IntType(64)
# What follows the head of an array's object: `PyArrayObject_fields` of NumPy's ndarraytypes.h.
HEAD = object.__basicsize__
DATA, LENGTHS, STRIDES = HEAD, HEAD + 16, HEAD + 24


def compile_kernel(
    function: Callable[..., Any], inlined: Iterable[Callable[..., Any]], kinds: Sequence[Kind]
) -> list[bytes]:
    """Two object files: the kernel, and its entry, `int32 NAME(packed)`, NAME being its name.

    In one, both would be optimised once more, and come out slower.

    inlined: what the kernel may call.
    packed: its arguments, as `calling` packs them.
    The entry gives FAILED, or what the kernel returned: 1 for True, else 0.
    """
    target, flags, name = cpu_target.target_context, Flags(), function.__name__
    cpu_target.options.parse_as_flags(flags, OPTIONS | {"nopython": True})
    flags.no_cpython_wrapper = flags.no_cfunc_wrapper = True
    taken = tuple(type_of(kind) for kind in kinds)
    with global_compiler_lock:
        function = in_scope(function, inlined)
        made = compile_extra(cpu_target.typing_context, target, function, taken, None, flags, {})
        outer = target.codegen().create_library(name)
        outer.enable_object_caching()
        outer.add_ir_module(entry(name, made.fndesc, offsets_of(kinds)))
        outer.finalize()
    both = (made.library, outer)
    return [library.serialize_using_object_code()[2][0] for library in both]


def in_scope(function: Any, inlined: Iterable[Any]) -> Any:
    """The function among those that are compiled into it: inner loops are short, a call costs."""
    scope = dict(function.__globals__)
    into = nb.njit(forceinline=True, **OPTIONS)
    for one in inlined:
        own = scope if one.__module__ == function.__module__ else one.__globals__
        scope[one.__name__] = into(FunctionType(one.__code__, own, one.__name__))
    return FunctionType(function.__code__, scope, function.__name__)


def type_of(kind: Kind) -> Any:
    if not isinstance(kind, tuple):
        return nb.from_dtype(np.dtype(kind))
    dtype, axes, is_whole, is_aligned = kind
    return types.Array(nb.from_dtype(dtype), axes, "C" if is_whole else "A", aligned=is_aligned)


def entry(name: str, kernel: Any, offsets: Sequence[int]) -> Any:
    """A function that takes the kernel's arguments from where they are packed."""
    target = cpu_target.target_context
    convention, module = target.call_conv, target.create_module(name)
    callee = ir.Function(
        module,
        convention.get_function_type(kernel.restype, kernel.argtypes),
        kernel.llvm_func_name,
    )
    outer = ir.Function(module, ir.FunctionType(INT, [BYTE.as_pointer()]), name)
    builder = ir.IRBuilder(outer.append_basic_block())
    arguments = [
        argument(builder, outer.args[0], offset, wanted)
        for offset, wanted in zip(offsets, kernel.argtypes, strict=True)
    ]
    status, value = convention.call_function(
        builder, callee, kernel.restype, kernel.argtypes, arguments
    )
    with builder.if_then(status.is_error, likely=False):
        builder.ret(INT(FAILED))
    # A kernel that always gives the same value has the type of that value, not `boolean`.
    is_bool = isinstance(kernel.restype, types.Boolean)
    builder.ret(builder.zext(value, INT) if is_bool else INT(0))
    return module


def argument(builder: Any, packed: Any, offset: int, wanted: Any) -> Any:
    """A number, or an array from the address of its object."""
    target = cpu_target.target_context
    if isinstance(wanted, types.Array):
        whole = builder.load(at(builder, packed, offset, BYTE.as_pointer()))
        return array_of(builder, whole, wanted)
    place = at(builder, packed, offset, target.get_data_type(wanted))
    return target.unpack_value(builder, wanted, place)


def array_of(builder: Any, whole: Any, wanted: Any) -> Any:
    """An array as the compiler has it, from its object."""
    target = cpu_target.target_context
    array, data = target.make_array(wanted)(target, builder), target.get_data_type(wanted.dtype)
    words = WORD.as_pointer()

    def numbers(offset: int) -> list[Any]:
        first = builder.load(at(builder, whole, offset, words))
        return [builder.load(builder.gep(first, [WORD(axis)])) for axis in range(wanted.ndim)]

    target.populate_array(
        array,
        data=builder.load(at(builder, whole, DATA, data.as_pointer())),
        shape=numbers(LENGTHS),
        strides=numbers(STRIDES),
        itemsize=WORD(target.get_abi_sizeof(data)),
        meminfo=None,
    )
    return array._getvalue()  # noqa: SLF001 - no other way is documented


def at(builder: Any, place: Any, offset: int, holds: Any) -> Any:
    """A pointer to what begins so many bytes after a place."""
    return builder.bitcast(builder.gep(place, [WORD(offset)]), holds.as_pointer())
