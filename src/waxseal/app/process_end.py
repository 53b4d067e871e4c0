"""The end of the window: what works may end, and what hangs on a disk that is gone is left."""

from __future__ import annotations

import os
import sys
import threading
import time
from collections.abc import Iterable
from concurrent.futures import Executor

__all__ = ["end_process", "join_all", "shut"]

LEAVE_S = 2.0  # longer than any look at a disk that is there


def join_all(threads: Iterable[threading.Thread], seconds: float = LEAVE_S) -> None:
    until = time.monotonic() + seconds
    for thread in threads:
        thread.join(max(0.0, until - time.monotonic()))


def shut(pool: Executor) -> None:
    """Nothing more is begun in it; what runs is waited for, but not for ever."""
    ending = threading.Thread(
        target=pool.shutdown, kwargs={"wait": True, "cancel_futures": True}, daemon=True
    )
    ending.start()
    join_all([ending])


def end_process(code: int) -> None:
    """At the very end: the interpreter would wait for every thread, and for a dead disk for ever.

    Returns where there is none to wait for.
    """
    main = threading.main_thread()
    if any(one is not main and not one.daemon for one in threading.enumerate()):
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)
