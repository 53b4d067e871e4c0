"""The helper process: `python -m waxseal.core.helpers LINE MEMORY NICE`.

LINE and MEMORY are open files; NICE is how far it steps back for others.

A function and what it is given come in by name; what it returns goes out,
large arrays through the shared memory. The end of the line is the end.
"""

from __future__ import annotations

import contextlib
import os
import pickle
import resource
import signal
import sys
from multiprocessing.connection import Connection
from typing import Any

from waxseal.core.errors import FrameError, UnreadableInput

LEAST_SHARED = 1 << 16  # bytes: what is smaller goes along the line


def main() -> None:
    # They reach the whole group of processes: the parent decides what they mean.
    for number in (signal.SIGINT, signal.SIGHUP, signal.SIGQUIT):
        signal.signal(number, signal.SIG_IGN)
    os.nice(int(sys.argv[3]))
    limit_memory()
    line, memory = Connection(int(sys.argv[1])), int(sys.argv[2])
    while True:
        try:
            order = line.recv_bytes()
        except (EOFError, OSError):
            return
        is_raised, value = done(order)
        buffers: list[pickle.PickleBuffer] = []
        content = pickle.dumps(value, protocol=5, buffer_callback=collector(buffers))
        try:
            write(memory, buffers)
        except OSError as error:  # no room for so much: not the file's fault
            lack = FrameError(f"not decoded: {error.strerror}", is_passing=True)
            is_raised, buffers, content = True, [], pickle.dumps(lack)
        sizes = [buffer.raw().nbytes for buffer in buffers]
        try:
            line.send_bytes(pickle.dumps((is_raised, sizes, content)))
        except OSError:
            return  # nobody listens any more


LEAST_MEMORY, MOST_MEMORY = 4 << 30, 16 << 30  # bytes of addresses
PART_OF_MACHINE = 0.75


def limit_memory() -> None:
    """A file that unpacks to more than any frame takes this process down, not the machine."""
    whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    limit = max(LEAST_MEMORY, min(MOST_MEMORY, int(whole * PART_OF_MACHINE)))
    with contextlib.suppress(ValueError, OSError):  # a narrower limit is there already
        resource.setrlimit(resource.RLIMIT_AS, (limit, limit))


def done(order: bytes) -> tuple[bool, Any]:
    function, args, kwargs = pickle.loads(order)  # noqa: S301 - of our own parent
    try:
        return False, function(*args, **kwargs)
    except Exception as error:  # noqa: BLE001 - the process's edge: said, and it goes on
        return True, portable(error)


def portable(error: Exception) -> Exception:
    """Ours as they are; a library's, which may not be made again from its parts, in words."""
    is_known = type(error).__module__.startswith(("waxseal.", "builtins"))
    return error if is_known else UnreadableInput(f"{type(error).__name__}: {error}")


def collector(buffers: list[pickle.PickleBuffer]) -> Any:
    def collect(buffer: pickle.PickleBuffer) -> bool:
        if buffer.raw().nbytes < LEAST_SHARED:
            return True  # in the stream itself
        buffers.append(buffer)
        return False

    return collect


def write(memory: int, buffers: list[pickle.PickleBuffer]) -> None:
    at = 0
    for buffer in buffers:
        view = buffer.raw()
        while view:
            written = os.pwrite(memory, view, at)
            view, at = view[written:], at + written


if __name__ == "__main__":
    main()
