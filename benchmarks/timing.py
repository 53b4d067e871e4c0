"""How long a call takes: the best of several turns."""

from __future__ import annotations

import time
from collections.abc import Callable

__all__ = ["best_of"]


def best_of(act: Callable[[], object], rounds: int = 5) -> float:
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        act()
        times.append(time.perf_counter() - start)
    return min(times)
