"""What a container can carry and say. What writes it is in `deliver.encode.writers`."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction

from waxseal.core.deliver.codecs import Codec, SoundCodec
from waxseal.core.deliver.codecs.codec import FrameFile, Tags
from waxseal.core.errors import JobError
from waxseal.core.job.model import Space
from waxseal.core.timing.rates import rate_words

__all__ = ["Container"]

LONGEST, LONGEST_IN_FRAMES = 65_535, 100  # numbers that a pixel shape is written with


@dataclass(frozen=True, slots=True, kw_only=True)
class Container:
    """A container.

    suffix: of its file, with the dot; empty where it is a folder.
    sounds: the codecs of sound that it carries, the usual one first; empty for none.
    has_timecode: whether it says the timecode of its first frame.
    has_tags: whether it says itself of what colour its pictures are.
    unsaid: colours that it has no words for.
    rates: those that it takes; empty for any. largest: of the two numbers that its rate is
        written with; 0 for any.
    has_boxes: whether it has the boxes of an MP4, and one scale of time for all tracks.
    format: the library's name for it; empty where the library does not write it.
    options: what the library is told.
    """

    name: str
    suffix: str
    sounds: tuple[SoundCodec, ...]
    has_boxes: bool = False
    format: str = ""
    options: Mapping[str, str] = field(default_factory=dict)
    has_tags: bool = True
    has_timecode: bool = True
    unsaid: tuple[Space, ...] = ()
    rates: tuple[Fraction, ...] = ()
    largest: int = 0

    def tags_of(self, codec: Codec, space: Space) -> Tags:
        """How the colour of a finished file measures."""
        return codec.spaces.get(space, codec.untagged) if self.has_tags else codec.untagged

    def sound_codec(self, name: str = "") -> SoundCodec | None:
        """The codec of that name, in whatever case, or the usual one; None where it carries none.

        Raises JobError for one that it does not carry.
        """
        if not self.sounds:
            return None
        for known in self.sounds:
            if known.name.casefold() == (name or self.sounds[0].name).casefold():
                return known
        names = " or ".join(one.name for one in self.sounds)
        raise JobError(f"{self.name} carries no sound in {name}: choose {names}.")

    def colour_trouble(self, space: Space, codec: Codec) -> str:
        """Why a file cannot be of a colour, or not say that it is; empty where it can."""
        spaces = [one for one in codec.spaces if codec.says_colour or one not in self.unsaid]
        if space in spaces:
            return ""
        names = ", ".join(one.value for one in spaces)
        if space in codec.spaces:
            return (
                f"{codec.name} in {self.name} cannot say that its colour is {space}: choose MOV, "
                f"or one of {names}."
            )
        return f"{codec.name} cannot carry {space}: choose one of {names}."

    def mastering_trouble(self, mastering: str, space: Space) -> str:
        """Why a file cannot say on which display it was judged; empty where it can, or need not."""
        if not mastering:
            return ""
        if space is not Space.PQ:
            return (
                f"A file in {space} says no mastering display: leave it out, or choose {Space.PQ}."
            )
        if not self.has_boxes:
            return (
                f"{self.name} says no mastering display here: choose MP4 or MOV, or leave it out."
            )
        return ""

    def says_pixel_shape(self, codec: Codec) -> bool:
        """Whether a file says which shape its pixels have."""
        coding = codec.coding
        return coding.says_pixel_shape if isinstance(coding, FrameFile) else self.has_boxes

    def pixel_shape_trouble(self, shape: Fraction, codec: Codec) -> str:
        """Why a file cannot say the shape of its pixels; empty where it can, or need not."""
        if shape == 1:
            return ""
        if not self.says_pixel_shape(codec):
            return (
                f"{codec.name} in {self.name} does not say which shape its pixels have: choose "
                "MP4, MOV, frames in EXR or DPX, or square pixels."
            )
        most = LONGEST if self.has_boxes else LONGEST_IN_FRAMES
        if max(shape.numerator, shape.denominator) > most:
            return (
                f"A pixel shape of {shape} cannot be said exactly in a file: choose a simpler one, "
                "such as 64:45."
            )
        return ""

    def rate_trouble(self, rate: Fraction) -> str:
        """Why pictures cannot come at a rate in it; empty where they can."""
        if self.largest and max(rate.numerator, rate.denominator) > self.largest:
            return f"{self.name} cannot say {rate} fps exactly: choose another rate."
        if not self.rates or rate in self.rates:
            return ""
        names = ", ".join(rate_words(one) for one in self.rates)
        return f"{self.name} takes no {rate_words(rate)} fps: choose one of {names}."

    @property
    def is_folder(self) -> bool:
        return not self.suffix
