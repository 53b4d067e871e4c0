"""A delivery as its spec wants it, and where it is not so."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

from waxseal.core.deliver.codecs import codec_named
from waxseal.core.deliver.containers import container_for
from waxseal.core.deliver.format.delivery_settings import frame_of, sound_of, stretch_of
from waxseal.core.deliver.format.output_path import container_of, stem_of
from waxseal.core.deliver.format.quality import bitrate_words
from waxseal.core.deliver.specs.name_pattern import fill
from waxseal.core.deliver.specs.spec import Purpose, SoundWish, Spec
from waxseal.core.errors import JobError, SoundError
from waxseal.core.job.edits import add_delivery, change_delivery
from waxseal.core.job.model import ConstantQuality, Delivery, Graded, Job, Size, make, shape_words
from waxseal.core.job.sizes import inside
from waxseal.core.plan.timeline import Timeline, timeline_of
from waxseal.core.sound.layouts import LAYOUTS
from waxseal.core.text_format import counted, numbered
from waxseal.core.timing.rates import rate_words, write_rate

__all__ = ["add_as", "settings_as", "spec_from", "spec_troubles"]


MOST_VERSIONS = 1000


def add_as(job: Job, spec: Spec, *, folder: str, day: str = "") -> Job:
    """One more delivery, as a spec wants it. day: what {date} says. Raises JobError."""
    timeline = timeline_or_none(job)
    settings = settings_as(spec, timeline)
    size = settings["size"] or (timeline.size if timeline else None)
    rate = settings["rate"] or (timeline.rate if timeline else None)
    length = timeline.frames if timeline else None
    named = partial(
        fill,
        spec.naming,
        job=job.name,
        spec=spec.name,
        size=f"{size.width}x{size.height}" if size else "",
        rate=rate_words(rate) if rate else "",
        first=str(length.first) if length else "",
        last=str(length.last) if length else "",
        date=day,
    )
    name = named()
    if "{version}" in spec.naming:
        taken = taken_names(job, folder)
        versions = (named(version=f"v{number:03}") for number in range(1, MOST_VERSIONS))
        name = next((one for one in versions if one not in taken), name)
    job = add_delivery(job, name=free_name(job, name, folder), folder=folder)
    return change_delivery(job, delivery=job.deliveries[-1].id, **settings)


def taken_names(job: Job, folder: str) -> set[str]:
    """Names of deliveries of the job, and of whatever is in their folder, without suffixes."""
    taken = {stem_of(one.name) for one in job.deliveries if one.folder == folder}
    try:
        there = [one.name for one in Path(folder).iterdir()] if folder else []
    except OSError:
        there = []
    return taken | {stem_of(one) for one in there}


def timeline_or_none(job: Job) -> Timeline | None:
    try:
        return timeline_of(job)
    except JobError:
        return None


def settings_as(spec: Spec, timeline: Timeline | None) -> dict[str, Any]:
    """The settings of a delivery; size and rate None where the reel's own will do."""
    return {
        "spec": spec.name,
        "codec": spec.codec,
        "container": spec.container_name,
        "quality": spec.chosen_quality,
        "alpha": spec.alpha,
        "space": spec.chosen_space,
        "dither": spec.dither,
        "framing": spec.framing,
        "pixel_shape": spec.pixel_shape,
        "key_seconds": spec.key_seconds,
        "most_bytes": spec.most_bytes,
        "sound_codec": sound_codec_for(spec),
        "sound_channels": channels_for(spec, timeline),
        "loudness": spec.loudness,
        "true_peak": spec.true_peak,
        "timecode": spec.timecode,
        "no_flashes": spec.no_flashes,
        "mastering": spec.mastering,
        "size": size_for(spec, timeline),
        "rate": rate_for(spec, timeline),
    }


def spec_from(delivery: Delivery, name: str) -> Spec:
    """The settings of a delivery as a spec. Raises JobError."""
    if not name.strip():
        raise JobError("The spec has no name: give it one.")
    quality = delivery.quality
    text = bitrate_words(quality)
    if isinstance(quality, Graded):
        text = quality.grade.value
    elif isinstance(quality, ConstantQuality):
        text = f"{quality.figure:g}"
    size, rate, codec = delivery.size, delivery.rate, codec_named(delivery.codec)
    folder = container_of(delivery).is_folder
    return make(
        Spec,
        name=name.strip(),
        purpose=Purpose.FRAMES if folder else Purpose.LOOKED_AT,
        codec=codec.name,
        container=container_of(delivery).name,
        quality=text if codec.grades else "",
        alpha=delivery.alpha,
        space=delivery.space,
        dither=delivery.dither,
        sizes=(f"{size.width}x{size.height}",) if size else (),
        framing=delivery.framing,
        pixel_shape=delivery.pixel_shape,
        rates=(write_rate(rate),) if rate else (),
        key_seconds=delivery.key_seconds,
        max_size=f"{delivery.most_bytes} B" if delivery.most_bytes else "",
        sound_codec=delivery.sound_codec,
        channels=(delivery.sound_channels,) if delivery.sound_channels else (),
        loudness=delivery.loudness,
        true_peak=delivery.true_peak,
        timecode=delivery.timecode,
        no_flashes=delivery.no_flashes,
        mastering=delivery.mastering,
    )


def sound_codec_for(spec: Spec) -> str:
    """As the container calls it; empty for its usual one."""
    if not spec.sound_codec:
        return ""
    found = container_for(codec_named(spec.codec), spec.container).sound_codec(spec.sound_codec)
    return found.name if found is not None else ""


def channels_for(spec: Spec, timeline: Timeline | None) -> int:
    """How many channels a delivery is mixed to, so that the spec takes it; 0 for the reel's own."""
    if not spec.channels or timeline is None:
        return 0
    there = max((sound.channels for sound in timeline.sounds), default=0)
    if not there or there in spec.channels:
        return 0
    fewer = [one for one in spec.channels if one in LAYOUTS and one < there]
    return max(fewer) if fewer else min((one for one in spec.channels if one in LAYOUTS), default=0)


def size_for(spec: Spec, timeline: Timeline | None) -> Size | None:
    """The first size of the reel's shape, else the first; of a shape as much as the reel has."""
    sizes = spec.chosen_sizes
    if timeline is None:
        return sizes[0] if sizes else None
    reel, pixel = timeline.size, spec.pixel_shape
    if not spec.size_trouble(reel.kept_in(pixel)):
        return None
    if not sizes:
        return inside(reel, spec.chosen_shapes[0]).kept_in(pixel)
    alike = [one for one in sizes if one.width * pixel * reel.height == one.height * reel.width]
    return (alike or list(sizes))[0]


def rate_for(spec: Spec, timeline: Timeline | None) -> Fraction | None:
    """The nearest rate that it takes."""
    rates = spec.chosen_rates
    if not rates or timeline is None or timeline.rate in rates:
        return rates[0] if rates and timeline is None else None
    return min(rates, key=lambda one: abs(one - timeline.rate))


def free_name(job: Job, name: str, folder: str) -> str:
    """Another number where a delivery of the job has the name already."""
    taken = {one.name for one in job.deliveries if one.folder == folder}
    number, free = 2, name
    while free in taken:
        free, number = f"{name}_{number}", number + 1
    return free


def spec_troubles(spec: Spec, timeline: Timeline, delivery: Delivery) -> Iterator[str]:
    """Where a delivery is not as its spec wants it, in sentences. Raises JobError."""
    wants = settings_as(spec, timeline)
    for name, words in EXACTLY:
        there = getattr(delivery, name)
        if there != wants[name]:
            wanted, found = written(wants[name]), written(there)
            yield f"{spec.name} wants {words} {wanted}, not {found}."
    if container_of(delivery).name != spec.container_name:
        yield f"{spec.name} wants {spec.container_name}, not {container_of(delivery).name}."
    trouble = spec.size_trouble(frame_of(timeline.size, delivery))
    if trouble:
        yield f"{trouble}: choose another size."
    stretch = stretch_of(timeline, delivery)
    rates = spec.chosen_rates
    if rates and stretch.rate not in rates:
        names = ", ".join(rate_words(one) for one in rates)
        yield f"{spec.name} takes {names} fps, not {rate_words(stretch.rate)}: choose another rate."
    seconds = float(stretch.shown.count / stretch.rate)
    if spec.longest and seconds > spec.longest:
        yield (
            f"{spec.name} takes {spec.longest:g} s at the most, and this is {seconds:.2f} s: "
            "choose a range."
        )
    if seconds < spec.shortest:
        yield f"{spec.name} takes {spec.shortest:g} s at the least, and this is {seconds:.2f} s."
    if spec.key_seconds and not 0 < delivery.key_seconds <= spec.key_seconds:
        yield f"{spec.name} wants a key frame every {spec.key_seconds:g} s."
    if spec.no_flashes and not delivery.no_flashes:
        yield f"{spec.name} takes no flashes that may harm: have them refused."
    if spec.mastering and not delivery.mastering:
        yield f"{spec.name} wants a mastering display: say which one."
    if spec.timecode and delivery.timecode != spec.timecode:
        yield f"{spec.name} begins at {spec.timecode}: set its timecode."
    if spec.most_bytes and not 0 < delivery.most_bytes <= spec.most_bytes:
        yield f"{spec.name} has a size limit of {spec.max_size}: set it."
    yield from sound_troubles(spec, timeline, delivery)


# What a spec wants just so, and what it is called.
EXACTLY = (
    *(("codec", "the codec"), ("alpha", "alpha"), ("space", "the colour")),
    ("pixel_shape", "the pixel shape"),
)


def written(value: object) -> str:
    return shape_words(value) if isinstance(value, Fraction) else str(value)


def sound_troubles(spec: Spec, timeline: Timeline, delivery: Delivery) -> Iterator[str]:
    try:
        sound = sound_of(timeline, delivery)
    except SoundError:
        return  # said elsewhere
    if sound is None:
        if spec.sound is SoundWish.NEEDED:
            yield f"{spec.name} needs sound, and the reel has none: lay a sound."
        return
    if spec.sound is SoundWish.NONE:
        yield f"{spec.name} takes no sound: take it off the reel."
    if spec.channels and sound.channels not in spec.channels:
        names = " or ".join(str(one) for one in spec.channels)
        there = counted(sound.channels, "channel")
        yield f"{spec.name} takes {names} channels of sound, not {there}."
    codec = container_of(delivery).sound_codec(delivery.sound_codec)
    if spec.sound_codec and codec is not None and codec.name != sound_codec_for(spec):
        yield f"{spec.name} wants sound in {sound_codec_for(spec)}, not {codec.name}."
    if spec.loudness is not None and delivery.loudness != spec.loudness:
        yield f"{spec.name} wants a sound of {numbered(spec.loudness, 1)} LUFS: set its loudness."
    most = delivery.true_peak
    if spec.true_peak is not None and (most is None or most > spec.true_peak):
        yield f"{spec.name} takes peaks of {numbered(spec.true_peak, 1)} dBTP at the most: set it."
