"""From one layout of channels to another: mono, stereo and 5.1 (L R C LFE Ls Rs).

Source: Recommendation ITU-R BS.775-3, table 2 (downward mixing of 3/2 programmes), from memory.
Its LFE channel is left out of a downmix. The way up has no table there: stereo is heard from left
and right of 5.1, mono from its centre, and in stereo from both sides with its energy kept.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

__all__ = ["mixing"]

HALF = math.sqrt(0.5)

# Rows: the channels that are made. Columns: those that are there.
TABLES: dict[tuple[int, int], list[list[float]]] = {
    (1, 2): [[HALF], [HALF]],
    (1, 6): [[0], [0], [1], [0], [0], [0]],
    (2, 1): [[HALF, HALF]],
    (2, 6): [[1, 0], [0, 1], [0, 0], [0, 0], [0, 0], [0, 0]],
    (6, 1): [[HALF, HALF, 1, 0, 0.5, 0.5]],
    (6, 2): [[1, 0, HALF, 0, HALF, 0], [0, 1, HALF, 0, 0, HALF]],
}


@lru_cache(maxsize=256)
def mixing(there: int, wanted: int, gain: float, pan: float) -> NDArray[np.float32] | None:
    """What channels are multiplied with: (wanted, there) factors; None where nothing changes.

    gain: a factor. pan: -1..1, of equal power from one mono channel; of more, the side that it
    is turned away from gets quieter. Without a left and a right nothing is panned.
    """
    table = np.array(TABLES[there, wanted]) if there != wanted else np.eye(there)
    if pan and wanted > 1:
        if there == 1:
            angle = (pan + 1) * math.pi / 4
            table = np.zeros((wanted, 1))
            table[0], table[1] = math.cos(angle), math.sin(angle)
        else:
            sides = {0: min(1, 1 - pan), 1: min(1, 1 + pan), 4: min(1, 1 - pan), 5: min(1, 1 + pan)}
            for row, factor in sides.items():
                if row < wanted:
                    table[row] *= factor
    table = table * gain
    if there == wanted and np.array_equal(table, np.eye(there)):
        return None
    return table.astype(np.float32)
