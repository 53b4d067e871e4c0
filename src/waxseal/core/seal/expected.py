"""What a finished file is held to. No pixels: the match table is made from it too."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

__all__ = ["COARSE_PSNR", "POOREST_PSNR", "Expected", "ExpectedSound", "LightLevels"]

# dB: below it a frame is another picture, whatever the bitrate; and of the coarsest qualities.
POOREST_PSNR, COARSE_PSNR = 16.0, 12.0

LightLevels = tuple[int, int]  # MaxCLL and MaxFALL, in cd/m²


@dataclass(frozen=True, slots=True)
class ExpectedSound:
    codec: str
    sample_rate: int
    channels: int
    samples: int


@dataclass(frozen=True, slots=True)
class Expected:
    """What was ordered.

    colour: as in Measured. sound: None for no sound track at all.
    has_boxes: whether the boxes of an MP4 are to say the same.
    says_rate: whether the file has words for its rate; frames mostly have none.
    level: the least that the pictures need; empty for none.
    key_frames: from one key frame to the next at the most; most_bytes: 0 for any, both.
    loudness, true_peak: of the sound, LUFS and dBTP; None for any.
    timecode: of the first frame; empty for any. no_flashes: whether none may harm.
    stream: the digest of the pictures as they were encoded; empty where each is a file.
    light: how bright it gets, where the file is to say that.
    mastering: the display that it is to say it was judged on; empty for none.
    pixel_shape: width to height. least_psnr: of each frame that is compared whole, in dB.
    """

    width: int
    height: int
    frames: int
    rate: Fraction
    codec: str
    profile: str
    pixel_format: str
    colour: tuple[int, int, int, bool]
    sound: ExpectedSound | None
    has_boxes: bool = True
    says_rate: bool = True
    stream: str = ""
    level: str = ""
    key_frames: int = 0
    most_bytes: int = 0
    loudness: float | None = None
    true_peak: float | None = None
    timecode: str = ""
    no_flashes: bool = False
    light: LightLevels | None = None
    mastering: str = ""
    pixel_shape: Fraction = Fraction(1)
    least_psnr: float = POOREST_PSNR
