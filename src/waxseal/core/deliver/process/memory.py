"""What becomes of large pictures that are done with: they go back to the system at once.

Each is mapped afresh then, which costs a little; so it is done where they are so large that
keeping them would cost more memory than a machine has to spare.
"""

from __future__ import annotations

import ctypes
from contextlib import suppress

from waxseal.core.deliver.codecs.codec import LARGE
from waxseal.core.job.model import Delivery, Job

__all__ = ["give_large_pictures_back", "has_large_pictures"]

THRESHOLD = -3  # M_MMAP_THRESHOLD of mallopt, in malloc.h of the GNU C library
BYTES = 8 << 20


def has_large_pictures(job: Job, delivery: Delivery) -> bool:
    sizes = [one.found.size for one in job.sequences]
    sizes += [one for one in (job.reel.size, delivery.size) if one is not None]
    return any(one.width * one.height > LARGE for one in sizes)


def give_large_pictures_back() -> None:
    """Call it once, before the first picture is made. Does nothing in other C libraries."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).mallopt(THRESHOLD, BYTES)
