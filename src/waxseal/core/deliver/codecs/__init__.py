"""The codecs that a delivery can have: a file each, and a line in the table here."""

from __future__ import annotations

from waxseal.core.deliver.codecs.av1 import AV1
from waxseal.core.deliver.codecs.codec import Codec, FrameFile, SoundCodec, StreamEncoder
from waxseal.core.deliver.codecs.dnxhr import DNXHR
from waxseal.core.deliver.codecs.exr_codec import EXR
from waxseal.core.deliver.codecs.h264 import H264
from waxseal.core.deliver.codecs.h265 import H265
from waxseal.core.deliver.codecs.lossless import LOSSLESS
from waxseal.core.deliver.codecs.mjpeg import MJPEG
from waxseal.core.deliver.codecs.prores import PRORES, PRORES_4444
from waxseal.core.deliver.codecs.still_codecs import (
    ANIMATED_PNG,
    DPX,
    JPEG,
    PNG,
    PNG_16,
    TIFF,
    TIFF_8,
)
from waxseal.core.deliver.codecs.vp9 import VP9
from waxseal.core.errors import JobError

__all__ = ["CODECS", "Codec", "FrameFile", "SoundCodec", "StreamEncoder", "codec_named"]

CODECS: dict[str, Codec] = {
    one.name: one
    for one in (
        *(H264, H265, VP9, AV1, MJPEG),
        *(*PRORES, PRORES_4444, *DNXHR),
        *LOSSLESS,
        *(EXR, PNG, PNG_16, TIFF, TIFF_8, DPX, JPEG, ANIMATED_PNG),
    )
}


def codec_named(name: str) -> Codec:
    """The codec of that name, in whatever case. Raises JobError."""
    for known in CODECS.values():
        if known.name.casefold() == name.casefold():
            return known
    raise JobError(f"There is no codec “{name}” here: choose one of {', '.join(CODECS)}.")
