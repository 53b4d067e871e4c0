"""An ICC profile by what it does: its primaries and its curve are measured, its name is not asked.

Source: ICC.1:2022, 7.3 (tag table), 10.6 (curveType), 10.18 (parametricCurveType).
"""

from __future__ import annotations

import io
import struct
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PIL import Image, ImageCms

__all__ = ["Curve", "Profile", "curve_of", "is_gamma", "is_srgb_curve", "read_profile"]

MOST_TAGS = 100
STEPS = 32  # places, 0 to 1, at which curves are compared
CLOSE_LIGHT = 0.0025  # of full light: less than a code of 8 bits but near black
CLOSE_PRIMARIES = 0.002  # of X, Y and Z under D50: several roundings are in use
CODES = 2  # of 8 bits, for profiles that are tables

Curve = Callable[[float], float]
Colorants = tuple[tuple[float, float, float], ...]

# X, Y, Z under D50, by Bradford's adaptation (tests work them out with another library).
COLORANTS: dict[str, Colorants] = {
    "BT.709": ((0.4361, 0.2225, 0.0139), (0.3851, 0.7169, 0.0971), (0.1431, 0.0606, 0.7141)),
    "P3": ((0.5151, 0.2412, -0.0011), (0.2920, 0.6922, 0.0419), (0.1571, 0.0666, 0.7841)),
    "BT.2020": ((0.6735, 0.2790, -0.0019), (0.1657, 0.6753, 0.0300), (0.1251, 0.0456, 0.7968)),
    "opRGB": ((0.6097, 0.3111, 0.0195), (0.2053, 0.6257, 0.0609), (0.1492, 0.0632, 0.7446)),
}


@dataclass(frozen=True, slots=True)
class Profile:
    """name: its own description. space: of its numbers: RGB, GRAY, CMYK, …

    primaries: a name of COLORANTS; empty if they are others, and of grey. curve: from a number to
    light, both 0..1; None where it has none, or none that all three channels share.
    is_srgb_table: whether a profile that is a table does what sRGB does.
    """

    name: str
    space: str
    primaries: str = ""
    curve: Curve | None = None
    is_srgb_table: bool = False


def read_profile(content: bytes) -> Profile | None:
    """Measure a profile; None where it cannot be read."""
    try:
        opened = ImageCms.ImageCmsProfile(io.BytesIO(content))
        name = ImageCms.getProfileDescription(opened).strip()
        space = opened.profile.xcolor_space.strip()
    except (ImageCms.PyCMSError, OSError, ValueError, AttributeError):
        return None
    tags = tags_of(content)
    if space == "GRAY":
        return Profile(name, space, "BT.709", curve_of(tags.get(b"kTRC", b"")))
    if any(tag.startswith((b"A2B", b"D2B")) for tag in tags):
        return Profile(name, space, is_srgb_table=space == "RGB" and does_as_srgb(opened))
    curves = {tags.get(tag, b"") for tag in (b"rTRC", b"gTRC", b"bTRC")}
    curve = shared(tuple(curve_of(one) for one in curves))
    return Profile(name, space, primaries_of(opened.profile), curve)


def shared(curves: tuple[Curve | None, ...]) -> Curve | None:
    """One curve for all channels; None where they differ to the eye."""
    first = curves[0]
    if first is None:
        return None
    for other in curves[1:]:
        if other is None or not are_near(first, other):
            return None
    return first


def primaries_of(opened: Any) -> str:
    colorants = (opened.red_colorant, opened.green_colorant, opened.blue_colorant)
    if None in colorants:
        return ""
    there = [part for colorant in colorants for part in colorant[0]]
    for name, known in COLORANTS.items():
        wanted = [part for colorant in known for part in colorant]
        if all(abs(a - b) < CLOSE_PRIMARIES for a, b in zip(there, wanted, strict=True)):
            return name
    return ""


def does_as_srgb(opened: Any) -> bool:
    """Whether a profile leaves the numbers of sRGB as they are, by the library's own transform."""
    steps = range(0, 256, 51)
    patches = [(r, g, b) for r in steps for g in steps for b in steps]
    source = Image.new("RGB", (len(patches), 1))
    source.putdata(patches)
    try:
        seen = ImageCms.profileToProfile(
            source, opened, ImageCms.createProfile("sRGB"), ImageCms.Intent.RELATIVE_COLORIMETRIC
        )
    except (ImageCms.PyCMSError, OSError, ValueError):
        return False
    if seen is None:
        return False
    return all(
        abs(before - after) <= CODES
        for before, after in zip(source.tobytes(), seen.tobytes(), strict=True)
    )


# ---- curves ----------------------------------------------------------------------------------


def tags_of(content: bytes) -> dict[bytes, bytes]:
    """The data of each tag by its name; as far as they are inside of the profile."""
    tags = {}
    try:
        (count,) = struct.unpack_from(">I", content, 128)
        for number in range(min(count, MOST_TAGS)):
            name, offset, length = struct.unpack_from(">4sII", content, 132 + 12 * number)
            tags[name] = content[offset : offset + length]
    except struct.error:
        pass
    return tags


def curve_of(tag: bytes) -> Curve | None:
    """The curve that a tag holds; None where it cannot be read."""
    try:
        if tag[:4] == b"curv":
            (count,) = struct.unpack_from(">I", tag, 8)
            if 12 + 2 * count > len(tag):
                return None
            values = struct.unpack_from(f">{count}H", tag, 12)
            return table_curve(values)
        if tag[:4] == b"para":
            (kind,) = struct.unpack_from(">H", tag, 8)
            count = (1, 3, 4, 5, 7)[kind]
            numbers = struct.unpack_from(f">{count}i", tag, 12)
            return parametric_curve(kind, [one / 65_536 for one in numbers])
    except (struct.error, IndexError):
        return None
    return None


def table_curve(values: tuple[int, ...]) -> Curve:
    """None is linear, one number a gamma in 256ths, more are a table from 0 to 1."""
    if not values:
        return lambda x: x
    if len(values) == 1:
        return lambda x: x ** (values[0] / 256)

    def look_up(x: float) -> float:
        place = x * (len(values) - 1)
        below = min(int(place), len(values) - 2)
        share = place - below
        return (values[below] * (1 - share) + values[below + 1] * share) / 65_535

    return look_up


def parametric_curve(kind: int, numbers: list[float]) -> Curve:
    """Source: ICC.1:2022, table 68."""
    g, a, b, c, d, e, f = (*numbers, *[0.0] * (7 - len(numbers)))
    if kind == 0:
        return lambda x: x**g
    if kind in (1, 2):
        start, low = (-b / a if a else 0.0), (c if kind == 2 else 0.0)
        return lambda x: max(a * x + b, 0.0) ** g + low if x >= start else low
    high = e if kind == 4 else 0.0
    low = f if kind == 4 else 0.0
    return lambda x: max(a * x + b, 0.0) ** g + high if x >= d else c * x + low


def are_near(one: Curve, other: Curve) -> bool:
    places = [step / (STEPS - 1) for step in range(STEPS)]
    try:
        return all(abs(one(x) - other(x)) < CLOSE_LIGHT for x in places)
    except (OverflowError, ValueError, TypeError):
        return False


def is_srgb_curve(curve: Curve) -> bool:
    return are_near(curve, srgb)


def is_gamma(curve: Curve, gamma: float) -> bool:
    return are_near(curve, lambda x: x**gamma)


def srgb(x: float) -> float:
    """From code to light. Source: IEC 61966-2-1."""
    return x / 12.92 if x <= 0.04045 else ((x + 0.055) / 1.055) ** 2.4
