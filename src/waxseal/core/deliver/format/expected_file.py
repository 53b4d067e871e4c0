"""What the file of a form has to measure. The match table says it, and the judge holds it to it."""

from __future__ import annotations

from waxseal.core.deliver.codecs import StreamEncoder
from waxseal.core.deliver.codecs.codec_levels import least_level
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.job.model import Size
from waxseal.core.seal.expected import (
    COARSE_PSNR,
    POOREST_PSNR,
    Expected,
    ExpectedSound,
    LightLevels,
)

__all__ = ["expected_of"]


def expected_of(
    form: ResolvedFormat, stream: str = "", light: LightLevels | None = None
) -> Expected:
    """What a file of this form has to measure; stream: see Encoded. light: see Expected."""
    width, height = form.target.stored_size
    coding = form.codec.coding
    facts, container = form.codec.facts, CONTAINERS[form.container]
    return Expected(
        width=width,
        height=height,
        frames=form.frames.count,
        rate=form.rate,
        says_rate=isinstance(coding, StreamEncoder) or coding.says_rate,
        codec=facts.codec,
        profile=facts.profile,
        pixel_format=facts.clear_format if form.target.has_alpha else facts.pixel_format,
        colour=container.tags_of(form.codec, form.space),
        sound=expected_sound(form),
        has_boxes=container.has_boxes,
        stream=stream,
        level=least_level(facts.codec, Size(width=width, height=height), form.rate),
        key_frames=form.key_frames,
        most_bytes=form.most_bytes,
        loudness=form.loudness,
        true_peak=form.true_peak,
        timecode=form.timecode,
        no_flashes=form.no_flashes,
        light=light,
        mastering=form.mastering if form.says_light_levels else "",
        pixel_shape=form.pixel_shape,
        least_psnr=COARSE_PSNR if form.is_coarse else POOREST_PSNR,
    )


def expected_sound(form: ResolvedFormat) -> ExpectedSound | None:
    sound, codec = form.sound, form.sound_codec
    if sound is None or codec is None:
        return None
    return ExpectedSound(codec.codec, sound.sample_rate, sound.channels, sound.count)
