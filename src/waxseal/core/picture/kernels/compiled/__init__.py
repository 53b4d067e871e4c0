"""The pixel kernels compiled by Numba: bit for bit what `plain` gives, several times as fast.

What a kernel is compiled to is kept, and called without the compiler from then
on. No fast-math: the same bits on every machine. The loops that matter run
over row buffers, which the compiler vectorises; a kernel makes no arrays, so
each is handed to it as scratch.
"""

from waxseal.core.picture.kernels.compiled.covering import is_covered
from waxseal.core.picture.kernels.compiled.layers import (
    blend,
    divide_alpha,
    keep_added,
    lay_stored,
    mark_clear,
    multiply_alpha,
    narrow,
    to_linear,
    widen,
)
from waxseal.core.picture.kernels.compiled.planes import (
    index_light,
    light_to_yuv420,
    to_rgb,
    to_screen,
    to_ycbcr,
    to_yuv420,
)
from waxseal.core.picture.kernels.compiled.scaling import resample
from waxseal.core.picture.kernels.compiled.views import bend, look_up, to_indexes

__all__ = [
    "bend",
    "blend",
    "divide_alpha",
    "index_light",
    "is_covered",
    "keep_added",
    "lay_stored",
    "light_to_yuv420",
    "look_up",
    "mark_clear",
    "multiply_alpha",
    "narrow",
    "resample",
    "to_indexes",
    "to_linear",
    "to_rgb",
    "to_screen",
    "to_ycbcr",
    "to_yuv420",
    "widen",
]
