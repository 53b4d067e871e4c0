"""The level that a decoder has to have: what a size and a rate need, by the standards' tables.

From memory: ITU-T H.264, Table A-1; ITU-T H.265, Tables A.8 and A.9; AV1 bitstream
specification, Annex A.3. Bitrates, which have bounds of their own, are not looked at.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from waxseal.core.job.model import Size

__all__ = ["least_level"]


@dataclass(frozen=True, slots=True)
class CodecLevel:
    """picture: units in one, at the most. second: units in a second. side: pixels of a side."""

    name: str
    picture: int
    second: int
    sides: tuple[int, int] = (0, 0)


# Units are macroblocks of 16 x 16.
H264 = tuple(
    CodecLevel(*one)
    for one in (
        *(("1", 99, 1485), ("1.1", 396, 3000), ("1.2", 396, 6000), ("1.3", 396, 11_880)),
        *(("2.1", 792, 19_800), ("2.2", 1620, 20_250), ("3", 1620, 40_500)),
        *(("3.1", 3600, 108_000), ("3.2", 5120, 216_000), ("4", 8192, 245_760)),
        *(("4.2", 8704, 522_240), ("5", 22_080, 589_824), ("5.1", 36_864, 983_040)),
        *(("5.2", 36_864, 2_073_600), ("6", 139_264, 4_177_920)),
        *(("6.1", 139_264, 8_355_840), ("6.2", 139_264, 16_711_680)),
    )
)
# Units are luma samples.
H265 = tuple(
    CodecLevel(*one)
    for one in (
        *(("1", 36_864, 552_960), ("2", 122_880, 3_686_400), ("2.1", 245_760, 7_372_800)),
        *(("3", 552_960, 16_588_800), ("3.1", 983_040, 33_177_600)),
        *(("4", 2_228_224, 66_846_720), ("4.1", 2_228_224, 133_693_440)),
        *(("5", 8_912_896, 267_386_880), ("5.1", 8_912_896, 534_773_760)),
        *(("5.2", 8_912_896, 1_069_547_520), ("6", 35_651_584, 1_069_547_520)),
        *(("6.1", 35_651_584, 2_139_095_040), ("6.2", 35_651_584, 4_278_190_080)),
    )
)
AV1 = tuple(
    CodecLevel(*one)
    for one in (
        *(("2", 147_456, 4_423_680, (2048, 1152)), ("2.1", 278_784, 8_363_520, (2816, 1584))),
        *(("3", 665_856, 19_975_680, (4352, 2448)), ("3.1", 1_065_024, 31_950_720, (5504, 3096))),
        *(
            ("4", 2_359_296, 70_778_880, (6144, 3456)),
            ("4.1", 2_359_296, 141_557_760, (6144, 3456)),
        ),
        ("5", 8_912_896, 267_386_880, (8192, 4352)),
        ("5.1", 8_912_896, 534_773_760, (8192, 4352)),
        ("5.2", 8_912_896, 1_069_547_520, (8192, 4352)),
        ("6", 35_651_584, 1_069_547_520, (16_384, 8704)),
        ("6.1", 35_651_584, 2_139_095_040, (16_384, 8704)),
        ("6.2", 35_651_584, 4_278_190_080, (16_384, 8704)),
    )
)
TABLES = {"h264": H264, "hevc": H265, "av1": AV1}
BLOCK = {"h264": 16, "hevc": 1, "av1": 1}  # pixels of a unit's side


def least_level(codec: str, size: Size, rate: Fraction) -> str:
    """By its name, `4.1`; empty for a codec without levels, and where none is enough.

    codec: the library's name. size: as it is stored.
    """
    block = BLOCK.get(codec, 1)
    across, down = -(-size.width // block), -(-size.height // block)
    for one in TABLES.get(codec, ()):
        # Of H.264 and H.265 a side is at most the root of eight times the picture.
        longest = max(across, down) ** 2 <= 8 * one.picture
        if one.sides != (0, 0):
            longest = size.width <= one.sides[0] and size.height <= one.sides[1]
        if longest and across * down <= one.picture and across * down * rate <= one.second:
            return one.name
    return ""
