"""Curves, primaries and the tables that carry them.

A curve of one channel is a table on the stored integers: 256 entries for
8-bit, 65 536 for 16-bit and for the bit patterns of a half. What was worked
out in linear light is encoded by a table on the upper bits of its float32,
which rounds to the precision of a half (0.06 of an 8-bit code at the worst).
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from waxseal.core.job.model import BT709, Chromaticities, Colour

__all__ = [
    "BITS_LOW",
    "BITS_ROUND",
    "BITS_SHIFT",
    "BT1886",
    "DARKEST",
    "Table",
    "alpha_table",
    "codes_of",
    "decode_film_log",
    "decode_srgb",
    "encode_srgb",
    "encoded_table",
    "encoded_table_of_bits",
    "linear_of",
    "linear_table",
    "primaries_matrix",
    "stored_as_integers",
    "to_xyz",
    "whole_table",
]

Table = NDArray[np.float32]
A = TypeVar("A", np.float32, np.float64)

# A float32 v in DARKEST..1 has the index ((bits(v) + BITS_ROUND) >> BITS_SHIFT) - BITS_LOW.
BITS_SHIFT = 13
BITS_ROUND = 1 << (BITS_SHIFT - 1)
DARKEST = float(np.float32(2.0**-17))
BITS_LOW = int(np.float32(DARKEST).view(np.int32)) >> BITS_SHIFT
BITS_HIGH = int(np.float32(1.0).view(np.int32)) >> BITS_SHIFT


def encode_srgb(linear: NDArray[A]) -> NDArray[A]:
    """Scene-linear 0..1 to sRGB-encoded 0..1; what is outside is clipped, no number is 0.

    In the precision of what is given, float32 or float64.

    Source: IEC 61966-2-1.
    """
    value = np.clip(np.nan_to_num(linear, nan=0.0, posinf=1.0, neginf=0.0), 0.0, 1.0)
    encoded = np.where(value <= 0.0031308, 12.92 * value, 1.055 * value ** (1 / 2.4) - 0.055)
    return encoded.astype(linear.dtype, copy=False)


def decode_srgb(encoded: NDArray[A]) -> NDArray[A]:
    """sRGB-encoded from 0 on to scene-linear, in the precision of what is given.

    Source: IEC 61966-2-1, whose power goes on above 1.
    """
    linear = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    return linear.astype(encoded.dtype, copy=False)


BT1886 = 2.4  # the exponent of ITU-R BT.1886 for a display whose black is black
FILM_BLACK, FILM_WHITE = 95, 685  # codes of 1023
FILM_DENSITY, FILM_GAMMA = 0.002, 0.6  # a code, and of the negative


def decode_film_log(encoded: NDArray[np.float64]) -> NDArray[np.float64]:
    """Film densities 0..1 to scene-linear, white at 1.

    Source: Kodak 1993, Grayscale Transformations of Cineon Digital Film Data.
    """
    code = np.clip(np.nan_to_num(encoded, nan=0.0), 0.0, 1.0) * 1023
    black = 10 ** ((FILM_BLACK - FILM_WHITE) * FILM_DENSITY / FILM_GAMMA)
    light = 10 ** ((code - FILM_WHITE) * FILM_DENSITY / FILM_GAMMA)
    return np.asarray((light - black) / (1 - black))


def stored_as_integers(values: NDArray[Any]) -> NDArray[Any]:
    """Decoded values as the integers that index a table: halves as bits, floats as halves.

    A float32 loses precision to a half here, 0.06 of an 8-bit code at the worst.
    """
    if values.dtype == np.float32:
        with np.errstate(over="ignore", invalid="ignore"):
            values = values.astype(np.float16)
    return values.view(np.uint16) if values.dtype == np.float16 else values


def stored_values(dtype: np.dtype[Any]) -> NDArray[np.float64]:
    """The number that each stored integer means: 0..1, or what the half says."""
    if dtype == np.uint8:
        return np.arange(256, dtype=np.float64) / 255
    whole = np.arange(65_536, dtype=np.uint16)
    if dtype == np.uint16:
        return whole.astype(np.float64) / 65_535
    return whole.view(np.float16).astype(np.float64)


@lru_cache(maxsize=16)
def encoded_table(dtype: np.dtype[Any], colour: Colour) -> Table:
    """Stored integer to sRGB-encoded 0..1."""
    values = stored_values(dtype)
    if colour is Colour.FILM_LOG:
        values = decode_film_log(values)
    if colour in (Colour.LINEAR, Colour.FILM_LOG):
        values = encode_srgb(values)
    return freeze(np.clip(np.nan_to_num(values, nan=0.0, posinf=1.0, neginf=0.0), 0.0, 1.0))


@lru_cache(maxsize=16)
def linear_table(dtype: np.dtype[Any], colour: Colour, *, is_bt1886: bool = False) -> Table:
    """Stored integer to scene-linear; all entries finite, no number is 0.

    is_bt1886: whether what is display-encoded has that curve and not that of sRGB.
    """
    values = np.nan_to_num(stored_values(dtype), nan=0.0, posinf=65_504.0, neginf=-65_504.0)
    if colour is Colour.FILM_LOG:
        values = decode_film_log(values)
    elif colour is not Colour.LINEAR:
        bounded = np.clip(values, 0.0, 1.0)
        values = bounded**BT1886 if is_bt1886 else decode_srgb(bounded)
    return freeze(values)


@lru_cache(maxsize=1)
def whole_table() -> Table:
    """16-bit integer to 0..1: for what is encoded already."""
    return freeze(np.arange(65_536) / 65_535)


@lru_cache(maxsize=8)
def alpha_table(dtype: np.dtype[Any]) -> Table:
    """Stored integer to alpha 0..1."""
    return freeze(np.clip(np.nan_to_num(stored_values(dtype), nan=0.0), 0.0, 1.0))


@lru_cache(maxsize=1)
def encoded_table_of_bits() -> Table:
    """Upper bits of a float32 of scene-linear light to sRGB-encoded 0..1."""
    indexes = np.arange(BITS_HIGH - BITS_LOW + 1, dtype=np.int32) + BITS_LOW
    linear = (indexes << BITS_SHIFT).view(np.float32).astype(np.float64)
    linear[0] = 0.0  # everything as dark as this or darker
    return freeze(encode_srgb(linear))


def freeze(values: NDArray[np.float64]) -> Table:
    table = values.astype(np.float32)
    table.flags.writeable = False
    return table


def codes_of(colour: str) -> tuple[float, float, float]:
    """`#rrggbb` as numbers, 0..1."""
    red, green, blue = (int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))
    return red, green, blue


def linear_of(colour: str) -> tuple[float, float, float]:
    """`#rrggbb` in sRGB to linear light of BT.709 primaries."""
    red, green, blue = decode_srgb(np.array(codes_of(colour)))
    return float(red), float(green), float(blue)


def primaries_matrix(
    chromaticities: Chromaticities, to: Chromaticities = BT709
) -> NDArray[np.float32] | None:
    """RGB of these primaries to RGB of others, (3, 3); None where they are the same.

    White goes to white, by the Bradford adaptation.
    Source: SMPTE RP 177 for the matrix of one set; Lam 1985 for the adaptation.
    """
    matrix = ready_matrix(tuple(chromaticities), tuple(to))
    return None if matrix is None else matrix.copy()  # compiled kernels tell frozen from not


@lru_cache(maxsize=32)
def ready_matrix(
    chromaticities: tuple[float, ...], to: tuple[float, ...]
) -> NDArray[np.float32] | None:
    if np.allclose(chromaticities, to, atol=0.002):
        return None
    source, target = to_xyz(chromaticities), to_xyz(to)
    gains = (BRADFORD @ target.sum(axis=1)) / (BRADFORD @ source.sum(axis=1))
    adapted = np.linalg.inv(BRADFORD) @ (gains[:, None] * BRADFORD)
    return np.asarray(np.linalg.inv(target) @ adapted @ source, np.float32)


BRADFORD = np.array(
    [[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]]
)


def to_xyz(chromaticities: tuple[float, ...]) -> NDArray[np.float64]:
    points = np.array(chromaticities, np.float64).reshape(4, 2)
    xyz = np.column_stack([points, 1 - points.sum(axis=1)])
    xyz /= np.where(np.abs(xyz[:, 1:2]) < 1e-6, 1e-6, xyz[:, 1:2])  # at Y = 1
    primaries, white = xyz[:3].T, xyz[3]
    return np.asarray(primaries * np.linalg.solve(primaries, white))
