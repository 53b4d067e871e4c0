"""The form of a delivery: all that its file is to be, apart from the pictures themselves."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from waxseal.core.deliver.codecs import Codec, SoundCodec
from waxseal.core.deliver.codecs.codec import Tags
from waxseal.core.job.model import Chromaticities, Quality, Space
from waxseal.core.picture.target import Target
from waxseal.core.sound.timeline import SoundPlan
from waxseal.core.timing.ranges import FrameRange

__all__ = ["Form"]


@dataclass(frozen=True, slots=True)
class Form:
    """path: the name that it gets in the end. frames: of the reel. primaries: of its light.

    sound, sound_codec: None where no sound goes into it.
    """

    path: Path
    codec: Codec
    target: Target
    quality: Quality
    rate: Fraction
    frames: FrameRange
    primaries: Chromaticities
    sound: SoundPlan | None
    sound_codec: SoundCodec | None

    @property
    def space(self) -> Space:
        return self.target.space

    @property
    def tags(self) -> Tags:
        return self.codec.spaces[self.space]
