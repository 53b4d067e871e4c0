"""The pixel kernels compiled by Numba: bit for bit what `plain` gives, several times as fast.

Importing this package costs seconds, so it is only done for long work, away
from the thread that waits (see `kernels`). No fast-math: the same bits on
every machine. The loops that matter run over row buffers, which the compiler
vectorises.
"""

from waxseal.core.picture.kernels.compiled.jit import was_kept
from waxseal.core.picture.kernels.compiled.layers import (
    blend,
    divide_alpha,
    lay_over,
    lay_stored,
    multiply_alpha,
    to_linear,
    widen,
)
from waxseal.core.picture.kernels.compiled.planes import (
    is_covered,
    to_rgb,
    to_screen,
    to_ycbcr,
    to_yuv420,
)
from waxseal.core.picture.kernels.compiled.scaling import resample
from waxseal.core.picture.kernels.compiled.views import look_up, to_indexes

__all__ = [
    "blend",
    "divide_alpha",
    "is_covered",
    "lay_over",
    "lay_stored",
    "look_up",
    "multiply_alpha",
    "resample",
    "to_indexes",
    "to_linear",
    "to_rgb",
    "to_screen",
    "to_ycbcr",
    "to_yuv420",
    "was_kept",
    "widen",
]
