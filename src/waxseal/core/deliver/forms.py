"""The forms that a delivery can have: codec, pixels, and the colours that they carry."""

from __future__ import annotations

from dataclasses import dataclass

from waxseal.core.job.model import Bitrate, Codec, ConstantQuality, Size, Space
from waxseal.core.picture.layout import Layout

__all__ = ["FORMS", "Form", "encoder_options", "size_sentence"]

Tags = tuple[int, int, int, bool]  # ITU-T H.273: primaries, transfer, matrix; whether full range

# What is sRGB is tagged as BT.709, as players take it for: the codes are shown as they are.
STANDARD: dict[Space, Tags] = {
    Space.SRGB: (1, 1, 1, False),
    Space.BT709: (1, 1, 1, False),
    Space.P3: (12, 13, 1, False),
}
LIGHT: dict[Space, Tags] = {Space.LINEAR: (0, 0, 0, True)}  # files of EXR name their primaries
HIGH: dict[Space, Tags] = {Space.PQ: (9, 16, 9, False), Space.HLG: (9, 18, 9, False)}


@dataclass(frozen=True, slots=True)
class Form:
    """What a codec is to the encoder, and what a file of it has to measure.

    encoder: its name in the library; codec, profile, pixel_format: as they are measured.
    tag: how the container calls it; empty for the usual one.
    colours: the spaces that it carries, and how each is tagged.
    most_pixels, longest: of the largest frame of the highest level.
    """

    encoder: str
    codec: str
    profile: str
    pixel_format: str
    layout: Layout
    colours: dict[Space, Tags]
    parameters: tuple[str, str]
    most_pixels: int
    longest: int
    tag: str = ""


FORMS = {
    # cpu-independent: without it the bytes depend on the processor.
    # ITU-T H.264, Table A-1, level 6.2, from memory: 139 264 macroblocks of 16 x 16.
    Codec.H264: Form(
        encoder="libx264",
        codec="h264",
        profile="High",
        pixel_format="yuv420p",
        layout=Layout.YUV420,
        colours=STANDARD,
        parameters=("x264-params", "open-gop=0:cpu-independent=1"),
        most_pixels=139_264 * 256,
        longest=16_384,
    ),
    # One frame at a time: with more, the bytes depend on the machine's threads.
    # ITU-T H.265, Table A.8, level 6.2, from memory: 35 651 584 luma samples.
    Codec.H265: Form(
        encoder="libx265",
        codec="hevc",
        profile="Main 10",
        pixel_format="yuv420p10le",
        layout=Layout.YUV420_10,
        colours=STANDARD | HIGH,
        parameters=("x265-params", "open-gop=0:frame-threads=1:info=0:log-level=error"),
        most_pixels=35_651_584,
        longest=16_888,
        tag="hvc1",
    ),
    Codec.EXR: Form(
        encoder="",
        codec="exr",
        profile="half",
        pixel_format="RGB",
        layout=Layout.LIGHT,
        colours=LIGHT,
        parameters=("", ""),
        most_pixels=16_384 * 16_384,
        longest=32_768,
    ),
}


def encoder_options(form: Form, quality: ConstantQuality | Bitrate) -> dict[str, str]:
    name, parameters = form.parameters
    options = {"preset": "medium", name: parameters}
    if form.codec == "h264":
        options["profile"] = "high"
    if isinstance(quality, ConstantQuality):
        options["crf"] = f"{quality.figure:g}"
    return options


def size_sentence(codec: Codec, size: Size, stored: tuple[int, int]) -> str:
    """Why a frame has no place in a codec; empty where it has."""
    form, (width, height) = FORMS[codec], stored
    if codec is not Codec.EXR and (width < 16 or height < 16):
        return f"A frame of {size} is too small for {codec}: 16 × 16 is the least."
    blocks = -(-width // 16) * -(-height // 16) * 256
    if blocks > form.most_pixels or max(width, height) > form.longest:
        return f"A frame of {size} is larger than any level of {codec}: choose a smaller one."
    return ""
