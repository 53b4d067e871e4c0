"""Sets of primaries that scene-linear pictures come in, as x, y of red, green, blue, white."""

from __future__ import annotations

import math

__all__ = ["BT709", "PRIMARIES", "Chromaticities", "are_primaries", "primaries_name"]

Chromaticities = tuple[float, float, float, float, float, float, float, float]

BT709: Chromaticities = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)

# ITU-R BT.709-6; SMPTE ST 2065-1 and the Academy's S-2014-004; SMPTE EG 432-1; ITU-R BT.2020-2.
PRIMARIES: dict[str, Chromaticities] = {
    "BT.709": BT709,
    "ACEScg": (0.713, 0.293, 0.165, 0.830, 0.128, 0.044, 0.32168, 0.33767),
    "ACES2065-1": (0.7347, 0.2653, 0.0, 1.0, 0.0001, -0.077, 0.32168, 0.33767),
    "P3": (0.680, 0.320, 0.265, 0.690, 0.150, 0.060, 0.3127, 0.3290),
    "BT.2020": (0.708, 0.292, 0.170, 0.797, 0.131, 0.046, 0.3127, 0.3290),
}
NEAR = 0.002


def are_primaries(points: tuple[float, ...]) -> bool:
    """Whether eight numbers can be a set: finite, near the colours that there are, a triangle."""
    if not all(math.isfinite(one) and abs(one) < 4 for one in points):
        return False
    red, green, blue, white = ((points[at], points[at + 1]) for at in (0, 2, 4, 6))
    area = (green[0] - red[0]) * (blue[1] - red[1]) - (blue[0] - red[0]) * (green[1] - red[1])
    return abs(area) > 1e-3 and white[1] > 1e-3


def primaries_name(chromaticities: Chromaticities) -> str:
    """What a set is called; `own primaries` if it is not known."""
    for name, known in PRIMARIES.items():
        if all(abs(one - other) <= NEAR for one, other in zip(chromaticities, known, strict=True)):
            return name
    return "own primaries"
