"""How bright a film in PQ gets: its brightest pixel, and its brightest frame on the average.

Sources: CTA-861.3-A, Annex P (MaxCLL and MaxFALL, from the largest of R, G and B of each
pixel); SMPTE ST 2084 (the curve); ITU-R BT.2100, Table 6 (Y'CbCr of constant weights).
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture.arrays import Plane
from waxseal.core.seal.expected import LightLevels

__all__ = ["levels_of", "light_levels", "light_levels_of"]

FINE = 4  # parts of a code of 10 bits, and of a cd/m², that are told apart
BLACK, RANGE, CHROMA_RANGE, GREY = 64, 876, 896, 512  # codes of 10 bits, limited range
RED_OF_CR, BLUE_OF_CB, GREEN_OF_CB, GREEN_OF_CR = 1.4746, 1.8814, -0.16455, -0.57135
M1, M2, C1, C2, C3 = 2610 / 16384, 2523 / 32, 3424 / 4096, 2413 / 128, 2392 / 128
PEAK = 10_000  # cd/m²


def nits_of_codes() -> NDArray[np.float32]:
    """cd/m² of each code of R', G' or B', in parts of FINE from black."""
    signal = np.minimum(np.arange(RANGE * FINE + 1) / (RANGE * FINE), 1.0) ** (1 / M2)
    light = np.maximum(signal - C1, 0) / (C2 - C3 * signal)
    return np.asarray(PEAK * light ** (1 / M1), np.float32)


TABLE = nits_of_codes()


def levels_of(planes: Sequence[Plane]) -> NDArray[np.uint16]:
    """The brightest pixel of a picture and its mean, in parts of FINE of a cd/m².

    planes: Y', Cb, Cr of 10 bits, limited range, BT.2020; chroma may have fewer columns and rows.
    """
    luma, blue, red = planes[:3]
    cb = (blue.astype(np.float32) - GREY) * np.float32(RANGE * FINE / CHROMA_RANGE)
    cr = (red.astype(np.float32) - GREY) * np.float32(RANGE * FINE / CHROMA_RANGE)
    beyond = np.maximum(cr * np.float32(RED_OF_CR), cb * np.float32(BLUE_OF_CB))
    green = cb * np.float32(GREEN_OF_CB) + cr * np.float32(GREEN_OF_CR)
    beyond = np.rint(np.maximum(beyond, green)).astype(np.int16)
    rows, columns = beyond.shape
    # All pixels of luma that have one of chroma, side by side.
    blocks = luma.reshape(rows, luma.shape[0] // rows, columns, luma.shape[1] // columns)
    codes = (blocks.astype(np.int16) - BLACK) * FINE + beyond[:, None, :, None]
    nits = TABLE[np.clip(codes, 0, RANGE * FINE)]
    found = (float(nits.max()), float(nits.mean(dtype=np.float64)))
    return np.array([round(one * FINE) for one in found], np.uint16)


def light_levels(frames: Iterable[NDArray[np.uint16]]) -> LightLevels:
    """MaxCLL and MaxFALL of a film, in whole cd/m², from the levels of its frames."""
    every = np.stack(list(frames))
    brightest, mean = (math.ceil(int(one) / FINE) for one in every.max(axis=0))
    return brightest, mean


def light_levels_of(marks: Iterable[Any]) -> LightLevels:
    """Of a film whose frames have marks that end with theirs."""
    return light_levels(mark[-1] for mark in marks)
