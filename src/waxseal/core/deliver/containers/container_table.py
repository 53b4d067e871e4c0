"""The containers, a value each."""

from __future__ import annotations

from fractions import Fraction

from waxseal.core.deliver.codecs.aac import AAC
from waxseal.core.deliver.codecs.flac import FLAC
from waxseal.core.deliver.codecs.opus import OPUS
from waxseal.core.deliver.codecs.pcm import PCM16, PCM24
from waxseal.core.deliver.containers.container import Container
from waxseal.core.job.model import Space

__all__ = ["TABLE"]

# The index in front, so that it plays while it is loaded.
IN_FRONT = {"movflags": "+faststart"}

# SMPTE ST 379 knows no others.
BROADCAST_RATES = tuple(
    Fraction(*one)
    for one in (
        *((24_000, 1001), (24, 1), (25, 1), (30_000, 1001), (30, 1)),
        *((50, 1), (60_000, 1001), (60, 1)),
    )
)

# What a player hears of each is as long as it was to the sample. (AAC in MKV is not: nothing
# there says how many samples of its last packet are only padding.)
SAMPLES = (PCM24, PCM16)

MP4 = Container(
    name="MP4",
    suffix=".mp4",
    sounds=(AAC, OPUS, FLAC, *SAMPLES),
    has_boxes=True,
    format="mp4",
    options=IN_FRONT,
)
MOV = Container(
    name="MOV",
    suffix=".mov",
    sounds=(*SAMPLES, AAC),
    has_boxes=True,
    format="mov",
    options=IN_FRONT,
)
MKV = Container(name="MKV", suffix=".mkv", sounds=(FLAC, *SAMPLES, OPUS), format="matroska")
WEBM = Container(name="WebM", suffix=".webm", sounds=(OPUS,), format="webm")
AVI = Container(
    name="AVI", suffix=".avi", sounds=(PCM16,), format="avi", has_tags=False, has_timecode=False
)
MXF = Container(
    name="MXF",
    suffix=".mxf",
    sounds=SAMPLES,
    format="mxf",
    rates=BROADCAST_RATES,
    unsaid=(Space.P3,),
)
APNG = Container(
    name="APNG", suffix=".apng", sounds=(), has_tags=False, has_timecode=False, largest=65_535
)
FRAMES = Container(name="frames", suffix="", sounds=(PCM24, PCM16), has_timecode=False)

TABLE = {one.name: one for one in (MP4, MOV, MKV, WEBM, AVI, MXF, APNG, FRAMES)}
