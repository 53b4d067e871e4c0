"""Machine code, as it is kept and called: what was compiled once is there at once.

The compiler is not needed for this, only the library below it, which is imported in a tenth of
the time.
"""

from __future__ import annotations

import ctypes
import sys
from collections.abc import Callable, Iterable, Iterator
from contextlib import ExitStack, contextmanager, suppress
from fcntl import LOCK_EX, flock
from functools import cache
from pathlib import Path
from shutil import rmtree
from struct import Struct
from time import time

import llvmlite
import llvmlite.binding as llvm
import numpy as np
import xxhash

from waxseal.core.folders import kernels_folder
from waxseal.core.private_folder import is_private, private_folder
from waxseal.core.regular import open_regular
from waxseal.core.safely import write_safely

__all__ = ["Entry", "are_kept", "fetch", "keep", "load", "note_kept"]

Entry = Callable[[bytes], int]
HERE = Path(__file__).parent
SUFFIX = ".code"
DIGEST_BYTES, LENGTH = 16, Struct("<Q")
ALL = "all-"  # begins the file of the names of all kernels, written when none is missing
LOCK = "compiling.lock"
LONGEST_S = 30 * 24 * 3600  # for which code of other sources, or another processor, is left

called: set[str] = set()  # the names of what this process had to do with
engines: list[llvm.ExecutionEngine] = []  # machine code is gone with the engine that loaded it


def fetch(name: str) -> list[bytes] | None:
    """The object files that were kept by this name; None where there are none, or damaged ones."""
    called.add(name)
    for folder in folders():
        if not is_private(folder):
            continue
        with suppress(OSError), open_regular(folder / f"{name}{SUFFIX}") as file:
            whole = file.read()
            digest, packed = whole[:DIGEST_BYTES], whole[DIGEST_BYTES:]
            if xxhash.xxh3_128_digest(packed) == digest:
                return list(parts_of(packed))
    return None


def parts_of(packed: bytes) -> Iterator[bytes]:
    """What `keep` put one after the other, each with its length before it."""
    at = 0
    while at < len(packed):
        begins = at + LENGTH.size
        at = begins + LENGTH.unpack_from(packed, at)[0]
        yield packed[begins:at]


def keep(name: str, objects: Iterable[bytes]) -> None:
    """In one file, as those of two compilations do not go together.

    Where nothing can be written, the next run compiles it again.
    """
    packed = b"".join(LENGTH.pack(len(one)) + one for one in objects)
    for folder in folders():
        with suppress(OSError):
            private_folder(folder)
            write_safely(folder / f"{name}{SUFFIX}", xxhash.xxh3_128_digest(packed) + packed)
            return


@contextmanager
def compiling() -> Iterator[None]:
    """Compile while no other process does: what it compiled may be what is wanted here.

    Where nothing can be written, nobody waits.
    """
    with ExitStack() as stack:
        for folder in folders():
            with suppress(OSError):
                private_folder(folder.parent)
                flock(stack.enter_context((folder.parent / LOCK).open("ab")), LOCK_EX)
                break
        yield


def are_kept(sense: str) -> bool:
    """Whether an earlier run compiled all kernels for this processor; sense: of `sense_of_all`."""
    names = fetch(ALL + sense)
    return names is not None and all(is_there(name.decode()) for name in names)


def is_there(name: str) -> bool:
    return any(is_private(folder) and (folder / f"{name}{SUFFIX}").exists() for folder in folders())


def note_kept(sense: str) -> None:
    """Note that every kernel has been called by now: all that can be kept are kept."""
    names = sorted(name for name in called if not name.startswith(ALL))
    keep(ALL + sense, [name.encode() for name in names])
    for folder in folders():
        for other in folder.parent.glob("kernels-*"):
            with suppress(OSError):
                if other != folder and time() - other.stat().st_mtime > LONGEST_S:
                    rmtree(other)


def folders() -> list[Path]:
    """Beside the sources, as Python keeps what it compiles; or where the user's caches are."""
    name = f"kernels-{stamp()}"
    return [HERE / "__pycache__" / name, kernels_folder() / name]


@cache
def stamp() -> str:
    """A digest of the compiler's version and of the processor: each has code of its own."""
    total = xxhash.xxh3_128()
    for source in ("calling.py", "compiler.py"):
        total.update((HERE / source).read_bytes())
    processor = f"{llvm.get_host_cpu_name()} {llvm.get_host_cpu_features().flatten()}"
    # A version of this library goes with one version of the compiler.
    for text in (sys.version, np.__version__, llvmlite.__version__, processor):
        total.update(text.encode())
    return total.hexdigest()


def load(objects: Iterable[bytes], function: str) -> Entry:
    """A function of some object files, as `compiler` makes them. Other threads run meanwhile."""
    engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), target().create_target_machine())
    for code in objects:
        engine.add_object_file(llvm.ObjectFileRef.from_data(code))
    engine.finalize_object()
    engines.append(engine)
    signature = ctypes.CFUNCTYPE(ctypes.c_int32, ctypes.c_char_p)
    return signature(engine.get_function_address(function))


@cache
def target() -> llvm.Target:
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    return llvm.Target.from_default_triple()
