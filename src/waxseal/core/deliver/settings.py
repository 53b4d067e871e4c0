"""What a delivery's settings come to: its form, its target, about how large it gets."""

from __future__ import annotations

from fractions import Fraction

from waxseal.core.deliver.codecs import codec_named
from waxseal.core.deliver.containers import container_for
from waxseal.core.deliver.form import Form
from waxseal.core.deliver.naming import path_of
from waxseal.core.job.model import Bitrate, Delivery, Size
from waxseal.core.picture.target import Target
from waxseal.core.plan.recipe import state_of
from waxseal.core.plan.timeline import Timeline
from waxseal.core.sound.timeline import sound_plan

__all__ = ["estimate_bytes", "form_of", "target_of"]

SOUND_BYTES_PER_SECOND, AROUND = 48_000, 64_000  # what sound and container take, at the most


def target_of(size: Size, delivery: Delivery) -> Target:
    """What pictures are made for when they are delivered. Raises JobError."""
    return Target(
        size.width,
        size.height,
        codec_named(delivery.codec).layout,
        space=delivery.space,
        exact=delivery.exact,
        lut=state_of(delivery.lut) if delivery.lut else None,
        dither=delivery.dither,
        alpha=delivery.alpha,
    )


def form_of(timeline: Timeline, delivery: Delivery) -> Form:
    """Raises JobError for a codec that is not known, SoundError for a sound that has no place."""
    codec = codec_named(delivery.codec)
    container = container_for(codec, delivery.container)
    sound_codec = container.sound
    frames, job = timeline.frames, timeline.job
    return Form(
        path=path_of(delivery),
        codec=codec,
        container=container.name,
        target=target_of(timeline.size, delivery),
        quality=delivery.quality,
        rate=timeline.rate,
        frames=frames,
        primaries=job.reel.colour.working.chromaticities,
        sound=sound_plan(job, frames, timeline.rate, sound_codec.rates)
        if sound_codec is not None
        else None,
        sound_codec=sound_codec,
    )


def estimate_bytes(delivery: Delivery, size: Size, frames: int, rate: Fraction) -> int:
    """About how large a delivery gets. For constant quality a grainy film's guess: rather more.

    Raises JobError for a codec that is not known.
    """
    codec, seconds = codec_named(delivery.codec), float(frames / rate)
    if isinstance(delivery.quality, Bitrate) and codec.has_bitrate:
        bits = delivery.quality.bits_per_second * seconds
    else:
        figure = codec.figure_for(delivery.quality) or 0.0
        bits = codec.bits_a_pixel(figure) * size.width * size.height * frames
    if container_for(codec, delivery.container).is_folder:
        return int(bits / 8) + frames * 4096
    return int(bits / 8 + seconds * SOUND_BYTES_PER_SECOND + AROUND)
