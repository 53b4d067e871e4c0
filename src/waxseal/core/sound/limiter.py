"""A limiter: what swings too far is turned down around its peak, and nothing else is touched."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import correlate1d, minimum_filter1d
from scipy.signal import resample_poly

from waxseal.core.sound.sample_types import Samples

__all__ = ["limited"]

SECONDS = 0.01  # from full level to the peak, and back
OVER = 4  # times the sample rate, as ITU-R BS.1770-5, Annex 2, has it
EDGE = 64  # samples at each end that a part's neighbours change in it, in resampling


def limited(parts: Iterable[Samples], ceiling: float, rate: int) -> Iterator[Samples]:
    """The same samples, none of which swings above a ceiling in dBTP, between samples too.

    The gain is the least of what each peak nearby needs, smoothed over the same time on both
    sides: a weighted mean of values none of which is above what the peak needs.
    """
    most = 10 ** (ceiling / 20)
    reach = int(SECONDS * rate)
    margin = 2 * reach + EDGE
    held: Samples | None = None  # with a margin before what is not given out yet
    for part in parts:
        if held is None:
            held = np.zeros((margin, part.shape[1]), np.float32)
        held = np.concatenate([held, part])
        if len(held) >= 3 * margin + rate:
            yield turned_down(held, most, reach)[margin:-margin]
            held = held[len(held) - 2 * margin :]
    if held is not None:
        held = np.concatenate([held, np.zeros((margin, held.shape[1]), np.float32)])
        yield turned_down(held, most, reach)[margin:-margin]


def turned_down(samples: Samples, most: float, reach: int) -> Samples:
    peaks = true_peaks(samples)
    if peaks.max() <= most:
        return samples
    gain = np.minimum(1.0, most / np.maximum(peaks, 1e-9))
    least = minimum_filter1d(gain, 2 * reach + 1)
    weights = np.hanning(2 * reach + 3)[1:-1]
    smooth = correlate1d(least, weights / weights.sum())
    turned: Samples = (samples * smooth[:, None]).astype(np.float32)
    return turned


def true_peaks(samples: Samples) -> NDArray[np.float64]:
    """How far the wave swings around each sample, in any channel."""
    finer = np.abs(resample_poly(samples.astype(np.float64), OVER, 1, axis=0)).max(axis=1)
    around = finer.reshape(-1, OVER).max(axis=1)
    before = np.concatenate([[0.0], around[:-1]])
    return np.asarray(np.maximum.reduce([around, before, np.abs(samples).max(axis=1)]))
