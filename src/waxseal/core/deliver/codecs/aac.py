"""AAC: the sound of an MP4."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import LAYOUTS, SoundCodec

__all__ = ["AAC"]

AAC = SoundCodec(
    name="AAC",
    library="aac",
    codec="aac",
    sample_format="fltp",
    layouts=LAYOUTS,
    bits_per_second={1: 128_000, 2: 192_000, 6: 384_000},
)
