"""PCM: samples as they are, of 24 bits for those who go on with them, of 16 for old machines."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import LAYOUTS, SoundCodec

__all__ = ["PCM16", "PCM24"]

PCM24 = SoundCodec(
    name="PCM, 24 bits",
    library="pcm_s24le",
    codec="pcm_s24le",
    sample_format="s32",
    layouts=LAYOUTS,
    bits=24,
)
PCM16 = SoundCodec(
    name="PCM, 16 bits",
    library="pcm_s16le",
    codec="pcm_s16le",
    sample_format="s16",
    layouts=LAYOUTS,
    bits=16,
)
