"""Work that may take its process down, done in a helper process.

A native decoder that meets a hostile file can crash, or never come back. In a
helper that costs one frame: the helper is replaced, and the frame has a
sentence. What a helper returns comes back through shared memory; exceptions
come back as themselves. Helpers are this program's own: they run what they are
sent by name, and end when their parent does.
"""

from __future__ import annotations

import atexit
import os
import pickle
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, ParamSpec, TypeVar

import numpy as np

from waxseal.core.errors import HelperLost

__all__ = ["HELPERS", "are_helping", "dismiss_helpers", "run_apart", "use_helpers"]

P = ParamSpec("P")
R = TypeVar("R")

HELPERS = 4  # what is under the playhead does not wait for what is looked at meanwhile
LONGEST_S = 600.0  # that a helper may work on one thing: the packets of a long movie, say
MOST_OPEN = 6  # movies that a helper keeps open: see frames.movies.reader
MOST_KEPT = 1 << 28  # bytes of shared memory that stay taken between two answers


class Helper:
    """A process, the line to it, and the memory that it answers in."""

    def __init__(self, nice: int) -> None:
        ours, theirs = socket.socketpair()
        self._memory = os.memfd_create("waxseal-helper")
        with theirs:
            self._process = subprocess.Popen(
                [
                    sys.executable,
                    "-P",
                    "-m",
                    __name__,
                    str(theirs.fileno()),
                    str(self._memory),
                    str(nice),
                ],
                stdin=subprocess.DEVNULL,
                stdout=sys.stderr.fileno() if has_errors() else subprocess.DEVNULL,
                pass_fds=(theirs.fileno(), self._memory),
            )
        self._line = Connection(ours.detach())
        self.keeps: list[str] = []  # the affinities of what it has open, the latest last

    def run(self, function: Callable[..., Any], args: tuple[Any, ...], kwargs: Any) -> Any:
        """Raises HelperLost, and whatever the function raises."""
        try:
            self._line.send_bytes(pickle.dumps((function, args, kwargs)))
            if not self._line.poll(LONGEST_S):
                raise HelperLost(f"its decoder did not come back within {LONGEST_S:.0f} s")
            answer = self._line.recv_bytes()
        except (EOFError, OSError):
            raise self._lost() from None
        is_raised, sizes, content = pickle.loads(answer)  # noqa: S301 - of our own process
        value = pickle.loads(content, buffers=self._buffers(sizes))  # noqa: S301 - as above
        if is_raised:
            raise value
        return value

    def _buffers(self, sizes: list[int]) -> list[Any]:
        buffers, at = [], 0
        for size in sizes:
            buffer = np.empty(size, np.uint8)
            view = buffer.data
            while view:  # the kernel gives at most 2 GB at once
                read = os.preadv(self._memory, [view], at)
                if read == 0:
                    raise HelperLost("its decoder returned less than it announced")
                view, at = view[read:], at + read
            buffers.append(buffer)
        if at > MOST_KEPT:
            os.ftruncate(self._memory, 0)
        return buffers

    def _lost(self) -> HelperLost:
        try:
            code = self._process.wait(5)
        except subprocess.TimeoutExpired:
            return HelperLost("its decoder failed without a message")
        if -code == signal.SIGKILL:
            # Nothing that a decoder does to itself: memory ran out, or somebody ended it.
            return HelperLost(
                "its decoder was stopped from outside, as happens when memory runs out",
                is_outside=True,
            )
        how = f"signal {-code}" if code < 0 else f"it ended with {code}"
        return HelperLost(f"its decoder failed ({how})")

    def close(self) -> None:
        """May be called twice: by the one who works with it, and at the end of all."""
        self._process.kill()
        self._process.wait()
        self._line.close()
        memory, self._memory = self._memory, -1
        if memory >= 0:
            os.close(memory)


class Pool:
    """A few helpers, started when they are needed; asked from several threads."""

    def __init__(self, most: int, nice: int) -> None:
        self._most, self._nice = most, nice
        self._free: list[Helper] = []
        self._busy: set[Helper] = set()
        self._starting = 0
        self._worked_on: set[str] = set()  # affinities, each by one helper at a time
        self._changed = threading.Condition()

    def take(self, affinity: str) -> Helper:
        """A free helper, by preference the one that did the like before; waits for one."""
        with self._changed:
            self._changed.wait_for(lambda: self._can_take(affinity))
            self._worked_on.add(affinity)
            helper = self._fitting(affinity)
            if helper is not None:
                self._free.remove(helper)
                self._busy.add(helper)
            else:
                self._starting += 1
        return helper or self._started(affinity)

    def _can_take(self, affinity: str) -> bool:
        if affinity and affinity in self._worked_on:
            return False
        return bool(self._free) or len(self._busy) + self._starting < self._most

    def _fitting(self, affinity: str) -> Helper | None:
        """The one that keeps open what is asked for, else one that keeps least; none: a new one."""
        for helper in self._free:
            if affinity and affinity in helper.keeps:
                return helper
        may_start = len(self._free) + len(self._busy) + self._starting < self._most
        free = [one for one in self._free if not one.keeps] if may_start else self._free
        return min(free, key=lambda one: len(one.keeps), default=None)

    def _started(self, affinity: str) -> Helper:
        helper = None
        try:
            helper = Helper(self._nice)
            return helper
        finally:
            with self._changed:
                self._starting -= 1
                if helper is not None:
                    self._busy.add(helper)
                else:
                    self._worked_on.discard(affinity)
                self._changed.notify_all()

    def give_back(self, helper: Helper, affinity: str, *, is_well: bool) -> None:
        with self._changed:
            self._busy.discard(helper)
            self._worked_on.discard(affinity)
            if is_well:
                if affinity:
                    helper.keeps = [*(one for one in helper.keeps if one != affinity), affinity]
                    helper.keeps = helper.keeps[-MOST_OPEN:]
                self._free.append(helper)
            self._changed.notify_all()
        if not is_well:
            helper.close()

    def close(self) -> None:
        with self._changed:
            helpers = [*self._free, *self._busy]
            self._free.clear()
        for helper in helpers:
            helper.close()


def has_errors() -> bool:
    try:
        return sys.stderr.fileno() >= 0
    except (AttributeError, OSError, ValueError):
        return False


_pool: Pool | None = None


def use_helpers(most: int = HELPERS, *, nice: int = 0) -> None:
    """From now on `run_apart` of this process runs elsewhere.

    nice: how far helpers step back where others want the same cores, 0..19.
    """
    global _pool
    if _pool is None:
        _pool = Pool(most, nice)
        atexit.register(dismiss_helpers)


def dismiss_helpers() -> None:
    """End them; what is asked from now on is done in this process."""
    global _pool
    pool, _pool = _pool, None
    if pool is not None:
        pool.close()


def are_helping() -> bool:
    return _pool is not None


def run_apart(affinity: str, function: Callable[P, R], *args: P.args, **kwargs: P.kwargs) -> R:
    """A module's function run in a helper, or here where this process has none.

    affinity: what helpers keep open for one another call; empty for nothing.
    Raises HelperLost where the helper did not survive it, and what the
    function itself raises.
    """
    pool = _pool
    if pool is None:
        return function(*args, **kwargs)
    helper = pool.take(affinity)
    is_well = False
    try:
        result: R = helper.run(function, args, kwargs)
        is_well = True
        return result
    except HelperLost:
        raise
    except Exception:
        is_well = True  # the function's own
        raise
    finally:
        pool.give_back(helper, affinity, is_well=is_well)
