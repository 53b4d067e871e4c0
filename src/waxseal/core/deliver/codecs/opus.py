"""Opus: the sound of a WebM."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import LAYOUTS, SoundCodec

__all__ = ["OPUS"]

OPUS = SoundCodec(
    name="Opus",
    library="libopus",
    codec="opus",
    sample_format="flt",
    layouts=LAYOUTS,
    block=960,
    rates=(48_000,),  # RFC 6716: whatever else comes is resampled
    bits_per_second={1: 96_000, 2: 160_000, 6: 320_000},
)
