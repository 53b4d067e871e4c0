"""The form of a delivery: all that its file is to be, apart from the pictures themselves."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from waxseal.core.deliver.codecs import Codec, SoundCodec
from waxseal.core.deliver.codecs.codec import Tags
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.job.model import Bitrate, Chromaticities, Quality, Space
from waxseal.core.picture.target import Target
from waxseal.core.seal.frame_sketches import Coarseness
from waxseal.core.seal.likeness import comparison_for
from waxseal.core.sound.mix_plan import SoundPlan
from waxseal.core.timing.ranges import FrameRange

__all__ = ["ResolvedFormat"]


if TYPE_CHECKING:
    from waxseal.core.seal.likeness import Comparison

COARSE, COARSE_PARTS = 2, (0.6, 0.75, 0.85)  # see `seal.frame_sketches.Coarseness`
COARSE_BITS = 0.05  # a pixel: measured


@dataclass(frozen=True, slots=True)
class ResolvedFormat:
    """path: the name that it gets in the end. frames: of the reel. primaries: of its light.
    container: by its name. key_seconds, most_bytes, loudness, true_peak, timecode,
    no_flashes, mastering and pixel_shape: see Delivery.

    sound, sound_codec: None where no sound goes into it.
    """

    path: Path
    codec: Codec
    container: str
    target: Target
    quality: Quality
    rate: Fraction
    frames: FrameRange
    primaries: Chromaticities
    sound: SoundPlan | None
    sound_codec: SoundCodec | None
    key_seconds: float = 0.0
    most_bytes: int = 0
    loudness: float | None = None
    true_peak: float | None = None
    timecode: str = ""
    no_flashes: bool = False
    mastering: str = ""
    pixel_shape: Fraction = Fraction(1)

    @property
    def key_frames(self) -> int:
        """Frames from one key frame to the next, at the most; 0 for as many as the codec likes."""
        return max(1, int(self.key_seconds * self.rate)) if self.key_seconds else 0

    @property
    def coarseness(self) -> int:
        """How coarse the quality is, as `seal.frame_sketches.Coarseness` counts."""
        if isinstance(self.quality, Bitrate):
            pixels = self.target.width * self.target.height * self.rate
            # How fine a bitrate turns out depends on the film: it is never taken for fine.
            return 3 if self.quality.bits_per_second < COARSE_BITS * pixels else 1
        figure = self.codec.figure_for(self.quality)
        if figure is None:
            return 0
        return bisect_left(COARSE_PARTS, self.codec.coarseness(figure))

    @property
    def is_coarse(self) -> bool:
        """Whether the quality is so low that single frames may stay as the ones before them."""
        return self.coarseness >= COARSE

    @property
    def comparison(self) -> Comparison:
        """How what is decoded is compared with what was made."""
        return comparison_for(
            self.target.stored_size,
            is_lossless=self.codec.is_lossless,
            coarse=Coarseness(self.coarseness),
            is_rgb=self.target.layout.is_rgb,
            has_levels=self.says_light_levels,
            least_step=self.codec.step_at(self.codec.figure_for(self.quality)),
        )

    @property
    def says_light_levels(self) -> bool:
        """Whether its file says how bright the film gets: what is in PQ, in boxes."""
        is_lossy = self.target.layout.is_ycbcr and not self.codec.is_lossless
        return self.space is Space.PQ and is_lossy and CONTAINERS[self.container].has_boxes

    @property
    def space(self) -> Space:
        return self.target.space

    @property
    def tags(self) -> Tags:
        return self.codec.spaces[self.space]
