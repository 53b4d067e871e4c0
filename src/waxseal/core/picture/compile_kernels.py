"""Compiles all kernels, by calling each once for each kind of picture."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from waxseal.core.picture import kernels
from waxseal.core.picture.colour.display_values import in_display_values
from waxseal.core.picture.kernel_cache import are_compiled, note_compiled
from waxseal.core.picture.kernels.stored_picture import StoredPicture
from waxseal.core.picture.scale_weights import weights
from waxseal.core.picture.target import Filter
from waxseal.core.progress import Progress, Report

__all__ = ["ready_kernels"]

COMPILING = "compiling for this machine, once"


def ready_kernels(report: Report) -> None:
    """Compile the kernels if no earlier run has: half a minute, which is reported."""
    if are_compiled():
        return
    report(Progress(COMPILING, 0, 1))
    compile_kernels()
    note_compiled()
    report(Progress(COMPILING, 1, 1))


def compile_kernels() -> None:
    """Compile what this machine has not compiled before."""
    table = np.zeros(65_536, np.float32)
    table.flags.writeable = False
    y, cb, cr = (np.empty((n, n), np.uint8) for n in (4, 2, 2))
    matrix = np.eye(3, dtype=np.float32)
    half = weights(4, to=2, first=0, last=1, chosen=Filter.AREA)
    for dtype, channels in ((np.uint16, 4), (np.uint16, 3), (np.uint8, 3), (np.uint8, 4)):
        values: NDArray[Any] = np.zeros((4, 4, channels), dtype)
        kernels.to_yuv420(values, table, y, cb, cr)
        deep = (y.astype(np.uint16), cb.astype(np.uint16), cr.astype(np.uint16))
        kernels.to_ycbcr(values, table, deep, (0.2126, 0.0722), 10, np.ones((1, 1), np.float32))
        kernels.to_screen(values, table, np.empty((4, 4, 4), np.uint8))
        for one in (np.uint8, np.uint16):
            red, green, blue = (np.empty((4, 4), one) for _ in range(3))
            spread = np.ones((1, 1), np.float32)
            kernels.to_rgb(values, table, (red, green, blue), 255, spread)
        stored = StoredPicture(values, table, table, matrix, is_straight=True, channels=channels)
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
        in_display_values()[0].apply(light)
    light, four = np.zeros((2, 2, 3), np.float32), np.empty((2, 2, 4), np.float32)
    kernels.widen(light, four)
    kernels.narrow(four, light)
