"""Light that is kept while somebody changes what is done to it, or for the next frames."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.framing import Box

__all__ = ["MOST_RECURRING_BYTES", "LightStore"]

Framed = tuple[NDArray[np.float32], Box]  # the part in the frame, and its whole box


MOST_ASKED = 1000  # keys that are remembered where only what comes again is kept
MOST_RECURRING_BYTES = 1 << 27  # of layers that come again in a film: one of 2160p with alpha


class LightStore:
    """Framed light by what it was made from, bounded in bytes; asked from several threads.

    only_recurring: whether only what is asked for again is kept, as among frames of a film,
        most of which are asked for once.
    What it gives is the caller's: corrections work in place.
    """

    def __init__(self, most_bytes: int, *, only_recurring: bool = False) -> None:
        self._most = most_bytes
        self.only_recurring = only_recurring
        self._asked: OrderedDict[Hashable, None] = OrderedDict()
        self._kept: OrderedDict[Hashable, Framed] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], Framed]) -> Framed:
        """What is kept under a key, or what is made now."""
        with self._lock:
            framed = self._kept.get(key)
            if framed is not None:
                self._kept.move_to_end(key)
            is_kept = framed is not None or self._is_worth_it(key)
        if framed is None:
            framed = make()
            if is_kept:
                self._keep(key, framed)
        return (framed[0].copy(), framed[1]) if is_kept else framed

    def _is_worth_it(self, key: Hashable) -> bool:
        if not self.only_recurring or key in self._asked:
            return True
        self._asked[key] = None
        if len(self._asked) > MOST_ASKED:
            self._asked.popitem(last=False)
        return False

    def _keep(self, key: Hashable, framed: Framed) -> None:
        size = framed[0].nbytes
        with self._lock:
            if key not in self._kept and size <= self._most:
                self._kept[key] = framed
                self._bytes += size
            while self._bytes > self._most:
                _, dropped = self._kept.popitem(last=False)
                self._bytes -= dropped[0].nbytes
