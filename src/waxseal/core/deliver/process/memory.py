"""What becomes of the memory of pictures that are done with.

It is kept for the next ones: to get it from the system again takes a twentieth of the time of a
picture of several layers. Where pictures are so large that a machine may not have so much
memory to spare, it goes back to the system at once, and each picture is mapped afresh.
"""

from __future__ import annotations

import ctypes
from contextlib import suppress

from waxseal.core.deliver.codecs.codec import LARGE
from waxseal.core.job.model import Delivery, Job

__all__ = [
    "give_large_pictures_back",
    "has_large_pictures",
    "keep_memory_of_pictures",
    "settle_memory",
]

# Of mallopt, in malloc.h of the GNU C library: from how many bytes on memory is mapped by
# itself, and how many may lie idle before some go back to the system.
MAPPED, IDLE = -3, -1
LARGE_BYTES = 8 << 20
KEPT_BYTES = 256 << 20


def has_large_pictures(job: Job, delivery: Delivery) -> bool:
    sizes = [one.found.size for one in job.sequences]
    sizes += [one for one in (job.reel.size, delivery.size) if one is not None]
    return any(one.width * one.height > LARGE for one in sizes)


def settle_memory(job: Job, delivery: Delivery) -> None:
    """Call it once, before the first picture is made. Does nothing in other C libraries."""
    if has_large_pictures(job, delivery):
        give_large_pictures_back()
    else:
        keep_memory_of_pictures()


def give_large_pictures_back() -> None:
    settle(MAPPED, LARGE_BYTES)


def keep_memory_of_pictures() -> None:
    settle(MAPPED, KEPT_BYTES)
    settle(IDLE, KEPT_BYTES)


def settle(what: int, value: int) -> None:
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).mallopt(what, value)
