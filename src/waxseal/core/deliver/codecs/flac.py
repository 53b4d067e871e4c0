"""FLAC: samples of 24 bits, smaller, and nothing lost."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import LAYOUTS, SoundCodec

__all__ = ["FLAC"]

FLAC = SoundCodec(
    name="FLAC",
    library="flac",
    codec="flac",
    sample_format="s32",
    layouts=LAYOUTS,
    bits=24,
)
