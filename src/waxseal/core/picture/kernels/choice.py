"""Which kernels make the pixels: plain ones at once, compiled ones as soon as they are worth it.

Both give the same bits, so they can change places in the middle of a film.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import partial
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from waxseal.core.frames import exr
from waxseal.core.machine.kernel import sense_of_all
from waxseal.core.picture.arrays import Light
from waxseal.core.picture.kernels import plain
from waxseal.core.picture.kernels.stored import Stored
from waxseal.core.picture.scaling import Weights, weights
from waxseal.core.picture.target import Filter

__all__ = ["KernelChoice", "Kernels"]

# Pixels that are taken to light and coded, or what costs as much: see `picture.work`. Compiling
# takes twenty seconds; what was kept by an earlier run is there in a tenth of one.
WORTH_COMPILING, WORTH_FETCHING = 300_000_000, 10_000_000
PATIENCE_S = 2.0  # for what is fetched: plain pictures made meanwhile would only slow it down


class Kernels(Protocol):
    """What `plain` and `compiled` have in common; see `plain` for what each does."""

    to_yuv420: Callable[..., bool]
    to_rgb: Callable[..., None]
    to_screen: Callable[..., None]
    index_light: Callable[..., None]
    light_to_yuv420: Callable[..., None]
    lay_stored: Callable[..., None]
    bend: Callable[..., None]
    blend: Callable[..., None]
    divide_alpha: Callable[..., None]
    multiply_alpha: Callable[..., None]
    mark_clear: Callable[..., bool]
    keep_added: Callable[..., None]
    to_indexes: Callable[..., None]
    to_ycbcr: Callable[..., None]
    widen: Callable[..., None]
    narrow: Callable[..., None]
    is_covered: Callable[..., bool]
    look_up: Callable[..., None]

    def to_linear(self, stored: Stored) -> Light: ...

    def resample(
        self, light: Light, down: Weights, across: Weights, least: float = ...
    ) -> Light: ...


class KernelChoice:
    """The kernels of one viewer or delivery; `current` is asked for each picture."""

    def __init__(self) -> None:
        self.current: Kernels = plain
        self._thread: threading.Thread | None = None

    def warm_for(self, work: int) -> None:
        """Fetch the compiled kernels in a thread of their own, if that much work is to come.

        Those that were kept by an earlier run are waited for.
        """
        if self._thread is not None or work < WORTH_FETCHING:
            return
        are_there = are_kept()
        if are_there or work >= WORTH_COMPILING:
            warm = partial(self._warm, are_there=are_there)
            self._thread = threading.Thread(target=warm, name="kernels", daemon=True)
            self._thread.start()
        if are_there and self._thread is not None:
            self._thread.join(PATIENCE_S)

    def wait(self) -> None:
        """Until a thread that was started is done: for tests, and for an orderly end."""
        if self._thread is not None:
            self._thread.join()

    def _warm(self, *, are_there: bool) -> None:
        try:
            from waxseal.core.picture.kernels import compiled

            if not are_there:
                exercise(compiled)
                exr.exercise()
                note_kept()
        except ImportError:
            return  # no compiler on this machine: the plain kernels go on
        self.current = compiled  # each is fetched when it is called first


def are_kept() -> bool:
    """Whether an earlier run compiled all kernels, as they are now, on this machine."""
    try:
        from waxseal.core.machine import code
        from waxseal.core.picture.kernels import compiled  # noqa: F401 - all have to be known
    except ImportError:
        return False  # no compiler on this machine: the plain kernels go on
    return code.are_kept(sense_of_all())


def note_kept() -> None:
    from waxseal.core.machine import code

    code.note_kept(sense_of_all())


def exercise(kernels: Kernels) -> None:
    """Call every kernel once for each kind of picture, so that none compiles in mid-film."""
    from waxseal.core.picture.colour.displayvalues import in_display_values

    table = np.zeros(65_536, np.float32)
    table.flags.writeable = False
    y, cb, cr = (np.empty((n, n), np.uint8) for n in (4, 2, 2))
    matrix = np.eye(3, dtype=np.float32)
    half = weights(4, to=2, first=0, last=1, chosen=Filter.AREA)
    for dtype, channels in ((np.uint16, 4), (np.uint16, 3), (np.uint8, 3), (np.uint8, 4)):
        values: NDArray[Any] = np.zeros((4, 4, channels), dtype)
        kernels.to_yuv420(values, table, y, cb, cr)
        deep = tuple(plane.astype(np.uint16) for plane in (y, cb, cr))
        kernels.to_ycbcr(values, table, deep, (0.2126, 0.0722), 10, np.ones((1, 1), np.float32))
        kernels.to_screen(values, table, np.empty((4, 4, 4), np.uint8))
        for one in (np.uint8, np.uint16):
            codes = tuple(np.empty((4, 4), one) for _ in range(3))
            kernels.to_rgb(values, table, codes, 255, np.ones((1, 1), np.float32))
        stored = Stored(values, table, table, matrix, is_straight=True, channels=channels)
        light = kernels.to_linear(stored)
        light = kernels.resample(light, half, half)
        for mode in range(4):
            kernels.blend(np.zeros((2, 2, 3), np.float32), light, (0, 0), 1.0, mode)
        if channels == 4:
            kernels.lay_stored(np.zeros((4, 4, 3), np.float32), stored, 1.0)
            kernels.is_covered(values, 1)
            kernels.divide_alpha(light)
            kernels.multiply_alpha(light)
            marks = np.empty(light.shape[:2], np.uint8)
            kernels.mark_clear(light, marks)
            kernels.keep_added(light, marks, np.zeros(4, np.float32))
    light, indexes = np.zeros((4, 4, 3), np.float32), np.empty((4, 4, 3), np.uint16)
    kernels.light_to_yuv420(light, table, y, cb, cr)
    kernels.index_light(light, indexes)
    kernels.to_indexes(light, indexes)
    grid, rough = np.zeros((3, 3, 3, 3), np.float32), np.zeros((2, 2, 2), np.uint8)
    for channels in (3, 4):
        light = np.zeros((2, 2, channels), np.float32)
        shown, unsure = np.empty((2, 2, 3), np.float32), np.empty((2, 2), np.uint8)
        kernels.look_up(light, matrix, grid, rough, shown, unsure)
        in_display_values()[0].apply(light, kernels)
    light, four = np.zeros((2, 2, 3), np.float32), np.empty((2, 2, 4), np.float32)
    kernels.widen(light, four)
    kernels.narrow(four, light)
