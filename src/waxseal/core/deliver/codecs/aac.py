"""AAC: the sound of an MP4."""

from __future__ import annotations

from waxseal.core.deliver.codecs.codec import SoundCodec

__all__ = ["AAC"]

AAC = SoundCodec(
    name="AAC",
    library="aac",
    sample_format="fltp",
    layouts={1: "mono", 2: "stereo", 6: "5.1"},
    block=1024,
    bits_per_second={1: 128_000, 2: 192_000, 6: 384_000},
)
