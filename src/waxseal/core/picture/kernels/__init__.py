"""The loops over pixels, compiled by Numba. They make the same bits on every machine.

The loops that matter run over buffers of a row, which the compiler vectorises. A kernel makes no
arrays: what it needs is handed to it.
"""

from waxseal.core.picture.kernels.blending import (
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
from waxseal.core.picture.kernels.code_planes import (
    index_light,
    light_to_yuv420,
    to_rgb,
    to_screen,
    to_ycbcr,
    to_yuv420,
)
from waxseal.core.picture.kernels.lookups import bend, look_up, to_indexes
from waxseal.core.picture.kernels.opaque import is_covered
from waxseal.core.picture.kernels.resampling import resample

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
