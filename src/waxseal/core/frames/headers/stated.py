"""What a file states of its colour: by code points, by a curve and primaries, by a profile."""

from __future__ import annotations

import io
import struct
import zlib
from dataclasses import dataclass
from typing import Any

from waxseal.core.job.model import BT709, Chromaticities, Colour
from waxseal.core.job.primaries import PRIMARIES, are_primaries

__all__ = ["LARGEST_PROFILE", "Stated", "by_chunks", "by_profile", "code_points_of"]

LARGEST_PROFILE = 4 << 20  # bytes: the largest in use are of printers, and have two million
LINEAR_GAMMA, USUAL_GAMMA = 1.0, 1 / 2.2
CLOSE = 0.01
MOST_TAGS = 100


@dataclass(frozen=True, slots=True)
class Stated:
    """words: as people call it. colour: how it is read; None where it cannot be honoured.

    chromaticities: of scene-linear colour. space: of the OCIO config, where it is one.
    """

    words: str
    colour: Colour | None = None
    chromaticities: Chromaticities | None = None
    space: str = ""

    @property
    def is_of_display(self) -> bool:
        """Whether it is what a display shows, in a space of the config."""
        return bool(self.space)


SRGB = Stated("sRGB", Colour.SRGB)
P3 = Stated("Display P3", Colour.OWN, space="sRGB Encoded P3-D65")
OPRGB = Stated("opRGB", Colour.OWN, space="Gamma 2.2 Encoded AdobeRGB")

# IEC 61966-2-5: what a profile of opRGB says of its primaries, X Y Z under D50, and its gamma.
OPRGB_PRIMARIES = ((0.6097, 0.3111, 0.0195), (0.2053, 0.6257, 0.0609), (0.1492, 0.0632, 0.7446))
OPRGB_GAMMA = 563 / 256

# ITU-T H.273, tables 2 and 3: primaries and transfer characteristics that mean one of ours.
BT2020, P3_D65 = 9, 12
CODE_POINTS = {
    (1, 13): SRGB,
    (1, 1): Stated("BT.709", Colour.BT709),
    (1, 6): Stated("BT.709", Colour.BT709),
    (1, 8): Stated("linear BT.709", Colour.LINEAR, BT709),
    (P3_D65, 13): P3,
    (P3_D65, 8): Stated("linear P3", Colour.LINEAR, PRIMARIES["P3"]),
    (BT2020, 8): Stated("linear BT.2020", Colour.LINEAR, PRIMARIES["BT.2020"]),
    (BT2020, 16): Stated("BT.2020 PQ"),
    (BT2020, 18): Stated("BT.2020 HLG"),
}


def code_points_of(stated: Stated | None) -> tuple[int, int]:
    """Primaries and transfer of what a file states; 0 where it states none that is known."""
    return next((points for points, known in CODE_POINTS.items() if known == stated), (0, 0))


def by_code_points(chunk: bytes) -> Stated | None:
    """Of a cICP chunk. Source: W3C, PNG (third edition), 11.3.2.6."""
    if len(chunk) != 4:
        return None
    primaries, transfer, _, is_full = chunk
    known = CODE_POINTS.get((primaries, transfer))
    if known is not None and is_full == 1:
        return known
    return Stated(f"the colour of code points {primaries}, {transfer}, {is_full}")


def by_gamma(gamma: float, points: Chromaticities | None) -> Stated | None:
    """Of gAMA and cHRM, whose curve is a power; None where that is what everybody means by sRGB.

    Source: W3C, PNG (third edition), 11.3.2.1 and 11.3.2.2.
    """
    is_usual = points is None or are_alike(points, BT709)
    if abs(gamma - LINEAR_GAMMA) < CLOSE:
        return Stated("linear light", Colour.LINEAR, points or BT709)
    if abs(gamma - USUAL_GAMMA) < CLOSE and is_usual:
        return None
    return Stated(f"a gamma of {1 / gamma:.2f}{'' if is_usual else ' and primaries of its own'}")


def are_alike(one: Chromaticities, other: Chromaticities) -> bool:
    return all(abs(a - b) < CLOSE for a, b in zip(one, other, strict=True))


def by_profile(profile: bytes) -> Stated | None:
    """Of an ICC profile, by its own description."""
    from PIL import ImageCms  # littleCMS: only where there is one

    try:
        opened = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        name = ImageCms.getProfileDescription(opened).strip()
        space = opened.profile.xcolor_space.strip()
    except (ImageCms.PyCMSError, OSError, ValueError, AttributeError):
        return Stated("a colour profile that cannot be read")
    if space not in ("RGB", "GRAY"):
        return Stated(f"the profile “{name[:80]}”, of {space}")
    plain = name.casefold()
    if "srgb" in plain and "linear" not in plain:
        return SRGB
    if "p3" in plain and "display" in plain:
        return P3
    if is_oprgb(opened.profile, profile):
        return OPRGB
    return Stated(f"the profile “{name[:80]}”")


def is_oprgb(opened: Any, profile: bytes) -> bool:
    """By what a profile does: it goes by several names."""
    colorants = (opened.red_colorant, opened.green_colorant, opened.blue_colorant)
    if None in colorants:
        return False
    there = [part for colorant in colorants for part in colorant[0]]
    wanted = [part for primary in OPRGB_PRIMARIES for part in primary]
    is_near = all(abs(one - other) < CLOSE / 5 for one, other in zip(there, wanted, strict=True))
    return is_near and abs(gamma_of(profile) - OPRGB_GAMMA) < CLOSE


def gamma_of(profile: bytes) -> float:
    """The gamma of a profile's red; 0 where it is another curve, or cannot be read.

    Source: ICC.1:2004-10, 7.3 (tag table) and 10.5 (curveType: one value, u8Fixed8).
    """
    try:
        (count,) = struct.unpack_from(">I", profile, 128)
        for number in range(min(count, MOST_TAGS)):
            name, offset, _ = struct.unpack_from(">4sII", profile, 132 + 12 * number)
            if name == b"rTRC":
                kind, values, value = struct.unpack_from(">4s4xIH", profile, offset)
                return value / 256 if (kind, values) == (b"curv", 1) else 0.0
    except struct.error:
        pass
    return 0.0


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


def by_chunks(chunks: dict[bytes, bytes]) -> Stated | None:
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
