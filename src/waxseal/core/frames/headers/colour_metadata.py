"""What a file states of its colour: by code points, by a curve and primaries, by a profile."""

from __future__ import annotations

import struct
import zlib
from dataclasses import dataclass

from waxseal.core.frames.headers.icc_profile import is_gamma, is_srgb_curve, read_profile
from waxseal.core.job.model import BT709, Chromaticities, Colour
from waxseal.core.job.primaries import PRIMARIES, are_primaries

__all__ = [
    "BT709_VIDEO",
    "LARGEST_PROFILE",
    "StatedColour",
    "by_chunks",
    "by_profile",
    "code_points_of",
]

LARGEST_PROFILE = 4 << 20  # bytes: the largest in use are of printers, and have two million
LINEAR_GAMMA, USUAL_GAMMA = 1.0, 1 / 2.2
CLOSE = 0.01


@dataclass(frozen=True, slots=True)
class StatedColour:
    """words: as people call it. colour: how it is read; None where it cannot be honoured.

    chromaticities: of the colour, where they are not usual for it. space: of the OCIO config,
    where it is one. is_high_range: whether it is one that cannot be honoured.
    """

    words: str
    colour: Colour | None = None
    chromaticities: Chromaticities | None = None
    space: str = ""
    is_high_range: bool = False

    @property
    def is_of_display(self) -> bool:
        """Whether it is what a display shows, in a space of the config."""
        return bool(self.space)


SRGB = StatedColour("sRGB", Colour.SRGB)
BT709_VIDEO = StatedColour("BT.709", Colour.BT709)
P3 = StatedColour("Display P3", Colour.OWN, space="sRGB Encoded P3-D65")
OPRGB = StatedColour("opRGB", Colour.OWN, space="Gamma 2.2 Encoded AdobeRGB")

OPRGB_GAMMA = 563 / 256  # IEC 61966-2-5

# ITU-T H.273, tables 2 and 3: primaries and transfer characteristics that mean one of ours.
BT2020, P3_D65 = 9, 12
PQ, HLG = 16, 18
CODE_POINTS = {
    (1, 13): SRGB,
    (1, 1): BT709_VIDEO,
    (1, 6): BT709_VIDEO,
    (1, 8): StatedColour("linear BT.709", Colour.LINEAR, BT709),
    (P3_D65, 13): P3,
    (P3_D65, 8): StatedColour("linear P3", Colour.LINEAR, PRIMARIES["P3"]),
    (BT2020, 8): StatedColour("linear BT.2020", Colour.LINEAR, PRIMARIES["BT.2020"]),
    (BT2020, 14): StatedColour("BT.2020", Colour.BT709, PRIMARIES["BT.2020"]),
    (BT2020, 15): StatedColour("BT.2020", Colour.BT709, PRIMARIES["BT.2020"]),
    (BT2020, 1): StatedColour("BT.2020", Colour.BT709, PRIMARIES["BT.2020"]),
    (BT2020, 16): StatedColour("BT.2020 PQ", Colour.PQ, PRIMARIES["BT.2020"]),
    (P3_D65, 16): StatedColour("P3 PQ", Colour.PQ, PRIMARIES["P3"]),
    (BT2020, 18): StatedColour("BT.2020 HLG", Colour.HLG, PRIMARIES["BT.2020"]),
}


def code_points_of(stated: StatedColour | None) -> tuple[int, int]:
    """Primaries and transfer of what a file states; 0 where it states none that is known."""
    return next((points for points, known in CODE_POINTS.items() if known == stated), (0, 0))


def by_code_points(chunk: bytes) -> StatedColour | None:
    """Of a cICP chunk. Source: W3C, PNG (third edition), 11.3.2.6."""
    if len(chunk) != 4:
        return None
    primaries, transfer, _, is_full = chunk
    known = CODE_POINTS.get((primaries, transfer))
    if known is not None and is_full == 1:
        return known
    words = f"the colour of code points {primaries}, {transfer}, {is_full}"
    return StatedColour(words, is_high_range=transfer in (PQ, HLG))


def by_gamma(gamma: float, points: Chromaticities | None) -> StatedColour | None:
    """Of gAMA and cHRM, whose curve is a power; None where that is what everybody means by sRGB.

    Source: W3C, PNG (third edition), 11.3.2.1 and 11.3.2.2.
    """
    is_usual = points is None or are_alike(points, BT709)
    if abs(gamma - LINEAR_GAMMA) < CLOSE:
        return StatedColour("linear light", Colour.LINEAR, points or BT709)
    if abs(gamma - USUAL_GAMMA) < CLOSE and is_usual:
        return None
    return StatedColour(
        f"a gamma of {1 / gamma:.2f}{'' if is_usual else ' and primaries of its own'}"
    )


def are_alike(one: Chromaticities, other: Chromaticities) -> bool:
    return all(abs(a - b) < CLOSE for a, b in zip(one, other, strict=True))


def by_profile(content: bytes) -> StatedColour | None:
    """Of an ICC profile, by what it does; None of what everybody means by sRGB: see `by_gamma`."""
    profile = read_profile(content)
    if profile is None:
        return StatedColour("a colour profile that cannot be read")
    name = f"the profile “{profile.name[:80]}”"
    if profile.space not in ("RGB", "GRAY"):
        return StatedColour(f"{name}, of {profile.space}")
    curve, primaries = profile.curve, profile.primaries
    if profile.is_srgb_table:
        return SRGB
    if curve is None or not primaries:
        return StatedColour(name)
    if is_gamma(curve, 1.0) and primaries in PRIMARIES:
        return StatedColour(f"linear light ({name})", Colour.LINEAR, PRIMARIES[primaries])
    if is_srgb_curve(curve) and primaries in ("BT.709", "P3"):
        return SRGB if primaries == "BT.709" else P3
    if primaries == "opRGB" and is_gamma(curve, OPRGB_GAMMA):
        return OPRGB
    if primaries == "BT.709" and is_gamma(curve, 1 / USUAL_GAMMA):
        return None
    return StatedColour(name)


def unpacked(packed: bytes) -> bytes:
    """What a compressed profile holds, as far as any is long. Empty where it is damaged."""
    try:
        return zlib.decompressobj().decompress(packed, LARGEST_PROFILE)
    except zlib.error:
        return b""


def points_of(chunk: bytes) -> Chromaticities | None:
    """Of a cHRM chunk: white, red, green, blue in hundred-thousandths; ours has white last."""
    if len(chunk) != 32:
        return None
    wx, wy, rx, ry, gx, gy, bx, by = (value / 100_000 for value in struct.unpack(">8I", chunk))
    points = (rx, ry, gx, gy, bx, by, wx, wy)
    return points if are_primaries(points) else None


def by_chunks(chunks: dict[bytes, bytes]) -> StatedColour | None:
    """Of the chunks of a PNG, the first that counts. Source: W3C, PNG (third edition), 4.3."""
    if b"cICP" in chunks:
        return by_code_points(chunks[b"cICP"])
    if b"iCCP" in chunks:
        _, _, rest = chunks[b"iCCP"].partition(b"\0")
        return by_profile(unpacked(rest[1:]))  # behind the way it is packed
    if b"sRGB" in chunks:
        return SRGB
    gamma = chunks.get(b"gAMA", b"")
    if len(gamma) == 4:
        return by_gamma(int.from_bytes(gamma) / 100_000, points_of(chunks.get(b"cHRM", b"")))
    return None
