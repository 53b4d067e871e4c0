"""What the keys of a spec do to a delivery, and how deliveries and files are held to them."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from typing import TYPE_CHECKING

from waxseal.core.deliver.codecs import codec_named
from waxseal.core.deliver.containers import CONTAINERS, container_for
from waxseal.core.deliver.format.delivery_settings import frame_of, stretch_of
from waxseal.core.deliver.format.output_path import container_of
from waxseal.core.deliver.format.quality import bitrate_words
from waxseal.core.deliver.specs.spec_key import Ordered, Written
from waxseal.core.deliver.specs.spec_values import Purpose
from waxseal.core.job.model import (
    Alpha,
    ConstantQuality,
    Delivery,
    Graded,
    Quality,
    Size,
    Space,
    shape_words,
)
from waxseal.core.job.sizes import inside
from waxseal.core.plan.timeline import Timeline
from waxseal.core.seal.rules import LOUDNESS_TOLERANCE, PEAK_TOLERANCE, tag_words
from waxseal.core.sound.layouts import LAYOUTS
from waxseal.core.text_format import bytes_words, counted, numbered
from waxseal.core.timing.rates import rate_words, write_rate

if TYPE_CHECKING:
    from waxseal.core.deliver.specs.spec import Spec

# ---- the file's kind -------------------------------------------------------------------------


def purpose_taken(delivery: Delivery) -> Purpose:
    return Purpose.FRAMES if container_of(delivery).is_folder else Purpose.LOOKED_AT


def file_given(spec: Spec) -> str:
    return f"{spec.codec} · {spec.container_name}"


def quality_set(spec: Spec, _timeline: Timeline | None) -> Quality:
    return spec.chosen_quality


def quality_taken(delivery: Delivery) -> str:
    quality = delivery.quality
    if not codec_named(delivery.codec).grades:
        return ""
    if isinstance(quality, Graded):
        return quality.grade.value
    if isinstance(quality, ConstantQuality):
        return f"{quality.figure:g}"
    return bitrate_words(quality)


def container_set(spec: Spec, _timeline: Timeline | None) -> str:
    return spec.container_name


def container_taken(delivery: Delivery) -> str:
    return container_of(delivery).name


def container_ordered(one: Ordered) -> Iterator[str]:
    there = container_of(one.delivery).name
    if there != one.spec.container_name:
        yield f"{one.spec.name} wants {one.spec.container_name}, not {there}."


def container_written(one: Written) -> Iterator[str]:
    wanted = CONTAINERS[one.spec.container_name].suffix
    if one.suffix.lower() != wanted:
        folder = "a folder of frames"
        yield f"{one.spec.name} wants {wanted or folder}, not {one.suffix or folder}."


def codec_written(one: Written) -> Iterator[str]:
    facts = codec_named(one.spec.codec).facts
    for what, wanted, there in (
        ("the codec", facts.codec, one.measured.codec),
        ("the profile", facts.profile, one.measured.profile),
    ):
        if wanted != there:
            yield f"{one.spec.name} wants {what} {wanted}, not {there or 'none'}."


def alpha_given(spec: Spec) -> str:
    return f"alpha {spec.alpha}" if spec.alpha is not Alpha.NONE else ""


def alpha_written(one: Written) -> Iterator[str]:
    facts = codec_named(one.spec.codec).facts
    has_alpha = one.spec.alpha is not Alpha.NONE
    wanted = facts.clear_format if has_alpha else facts.pixel_format
    there = one.measured.pixel_format
    if wanted != there:
        yield f"{one.spec.name} wants the pixel format {wanted}, not {there or 'none'}."


def space_set(spec: Spec, _timeline: Timeline | None) -> Space:
    return spec.chosen_space


def space_written(one: Written) -> Iterator[str]:
    spec, there = one.spec, one.measured.colour
    tags = CONTAINERS[spec.container_name].tags_of(codec_named(spec.codec), spec.chosen_space)
    if tags[0] and there != tags:
        yield f"{spec.name} wants the tags {tag_words(tags)}, not {tag_words(there)}."


def mastering_ordered(one: Ordered) -> Iterator[str]:
    if one.spec.mastering and not one.delivery.mastering:
        yield f"{one.spec.name} wants a mastering display: say which one."


def mastering_written(one: Written) -> Iterator[str]:
    tracks = one.measured.boxes.tracks if one.measured.boxes is not None else ()
    if one.spec.mastering and not any(track.mastering for track in tracks):
        yield f"{one.spec.name} wants a mastering display, and the file has none."


def bytes_set(spec: Spec, _timeline: Timeline | None) -> int:
    return spec.most_bytes


def bytes_taken(delivery: Delivery) -> str:
    return f"{delivery.most_bytes} B" if delivery.most_bytes else ""


def bytes_given(spec: Spec) -> str:
    return f"at most {bytes_words(spec.most_bytes)}" if spec.max_size else ""


def bytes_ordered(one: Ordered) -> Iterator[str]:
    if one.spec.most_bytes and not 0 < one.delivery.most_bytes <= one.spec.most_bytes:
        yield f"{one.spec.name} has a size limit of {one.spec.max_size}: set it."


def bytes_written(one: Written) -> Iterator[str]:
    if one.spec.most_bytes and one.measured.size_bytes > one.spec.most_bytes:
        there = bytes_words(one.measured.size_bytes)
        yield f"{one.spec.name} takes {one.spec.max_size}, not {there}."


# ---- its frame -------------------------------------------------------------------------------


def size_set(spec: Spec, timeline: Timeline | None) -> Size | None:
    """The first size of the reel's shape, else the first; of a shape as much as the reel has.

    None where the reel's own will do.
    """
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


def sizes_taken(delivery: Delivery) -> tuple[str, ...]:
    size = delivery.size
    return (f"{size.width}x{size.height}",) if size else ()


def sizes_given(spec: Spec) -> str:
    return " or ".join(map(str, spec.chosen_sizes)) or " or ".join(spec.shapes)


def sizes_ordered(one: Ordered) -> Iterator[str]:
    trouble = one.spec.size_trouble(frame_of(one.timeline.size, one.delivery))
    if trouble:
        yield f"{trouble}: choose another size."


def sizes_written(one: Written) -> Iterator[str]:
    measured = one.measured
    trouble = one.spec.size_trouble(Size(width=measured.width, height=measured.height))
    if trouble:
        yield f"{trouble}."


def pixel_words(shape: Fraction) -> str:
    return shape_words(shape) if shape != 1 else "square"


def pixels_given(spec: Spec) -> str:
    return f"pixels {shape_words(spec.pixel_shape)}" if spec.pixel_shape != 1 else ""


def pixels_written(one: Written) -> Iterator[str]:
    wanted, there = one.spec.pixel_shape, one.measured.pixel_shape
    if there != wanted:
        shown = pixel_words(there)
        yield f"{one.spec.name} wants the pixel shape {pixel_words(wanted)}, not {shown}."


# ---- its time --------------------------------------------------------------------------------


def rate_set(spec: Spec, timeline: Timeline | None) -> Fraction | None:
    """The nearest rate that it takes; None where the reel's own will do."""
    rates = spec.chosen_rates
    if not rates or timeline is None or timeline.rate in rates:
        return rates[0] if rates and timeline is None else None
    return min(rates, key=lambda one: abs(one - timeline.rate))


def rates_taken(delivery: Delivery) -> tuple[str, ...]:
    return (write_rate(delivery.rate),) if delivery.rate else ()


def rates_given(spec: Spec) -> str:
    return f"{', '.join(map(rate_words, spec.chosen_rates))} fps" if spec.rates else ""


def rates_ordered(one: Ordered) -> Iterator[str]:
    rates, rate = one.spec.chosen_rates, stretch_of(one.timeline, one.delivery).rate
    if rates and rate not in rates:
        names = ", ".join(map(rate_words, rates))
        yield f"{one.spec.name} takes {names} fps, not {rate_words(rate)}: choose another rate."


def rates_written(one: Written) -> Iterator[str]:
    rates, rate = one.spec.chosen_rates, one.measured.rate
    if rate is None:
        spec = one.spec
        if rates or spec.longest or spec.shortest or spec.key_seconds:
            there = "a rate that changes" if one.measured.is_uneven else "no rate"
            yield f"The file has {there}: whether {spec.name} takes it cannot be said."
    elif rates and rate not in rates:
        names = ", ".join(map(rate_words, rates))
        yield f"{one.spec.name} takes {names} fps, not {rate_words(rate)}."


def seconds_ordered(one: Ordered) -> float:
    stretch = stretch_of(one.timeline, one.delivery)
    return float(stretch.shown.count / stretch.rate)


def seconds_written(one: Written) -> float | None:
    return float(one.measured.frames / one.measured.rate) if one.measured.rate else None


def shortest_ordered(one: Ordered) -> Iterator[str]:
    least, seconds = one.spec.shortest, seconds_ordered(one)
    if seconds < least:
        yield f"{one.spec.name} takes at least {least:g} s, and this is {seconds:.2f} s."


def shortest_written(one: Written) -> Iterator[str]:
    least, seconds = one.spec.shortest, seconds_written(one)
    if seconds is not None and seconds < least:
        yield f"{one.spec.name} takes at least {least:g} s, not {seconds:.2f} s."


def longest_given(spec: Spec) -> str:
    return f"at most {spec.longest:g} s" if spec.longest else ""


def longest_ordered(one: Ordered) -> Iterator[str]:
    most, seconds = one.spec.longest, seconds_ordered(one)
    if most and seconds > most:
        there = f"{seconds:.2f} s"
        yield f"{one.spec.name} takes at most {most:g} s, and this is {there}: choose a range."


def longest_written(one: Written) -> Iterator[str]:
    most, seconds = one.spec.longest, seconds_written(one)
    if most and seconds is not None and seconds > most:
        yield f"{one.spec.name} takes at most {most:g} s, not {seconds:.2f} s."


def keys_ordered(one: Ordered) -> Iterator[str]:
    most = one.spec.key_seconds
    if most and not 0 < one.delivery.key_seconds <= most:
        yield f"{one.spec.name} wants a key frame every {most:g} s."


def keys_written(one: Written) -> Iterator[str]:
    if not one.spec.key_seconds or one.measured.rate is None:
        return
    most = max(1, int(Fraction(one.spec.key_seconds) * one.measured.rate))
    if one.measured.key_gap > most:
        yield f"{one.spec.name} wants a key frame every {most} frames, not {one.measured.key_gap}."


def timecode_written(one: Written) -> Iterator[str]:
    wanted, there = one.spec.timecode, one.measured.timecode
    if wanted and there != wanted:
        yield f"{one.spec.name} begins at {wanted}, not {there or 'at none'}."


def timecode_ordered(one: Ordered) -> Iterator[str]:
    if one.spec.timecode and one.delivery.timecode != one.spec.timecode:
        yield f"{one.spec.name} begins at {one.spec.timecode}: set its timecode."


def flashes_ordered(one: Ordered) -> Iterator[str]:
    if one.spec.no_flashes and not one.delivery.no_flashes:
        yield f"{one.spec.name} takes no flashes that may harm: have them refused."


def flashes_written(one: Written) -> Iterator[str]:
    if one.spec.no_flashes:
        yield (
            f"{one.spec.name} takes no flashes that may harm. They are looked for with the job: "
            "give it with --against."
        )


# ---- its sound -------------------------------------------------------------------------------


def sound_ordered(one: Ordered) -> Iterator[str]:
    if one.spec.sound.is_needed and one.is_silent:
        yield f"{one.spec.name} needs sound, and the reel has none: lay a sound."
    if one.spec.sound.is_refused and one.sound is not None:
        yield f"{one.spec.name} takes no sound: take it off the reel."


def sound_written(one: Written) -> Iterator[str]:
    if one.spec.sound.is_needed and one.measured.sound is None:
        yield f"{one.spec.name} needs sound, and the file has none."
    if one.spec.sound.is_refused and one.measured.sound is not None:
        yield f"{one.spec.name} takes no sound."


def channels_set(spec: Spec, timeline: Timeline | None) -> int:
    """How many channels a delivery is mixed to, so that the spec takes it; 0 for the reel's own."""
    if not spec.channels or timeline is None:
        return 0
    there = max((sound.channels for sound in timeline.sounds), default=0)
    if not there or there in spec.channels:
        return 0
    known = [one for one in spec.channels if one in LAYOUTS]
    fewer = [one for one in known if one < there]
    return max(fewer) if fewer else min(known, default=0)


def channels_taken(delivery: Delivery) -> tuple[int, ...]:
    return (delivery.sound_channels,) if delivery.sound_channels else ()


def channels_ordered(one: Ordered) -> Iterator[str]:
    sound = one.sound
    if sound is not None and one.spec.channels and sound.channels not in one.spec.channels:
        names, there = or_words(one.spec.channels), counted(sound.channels, "channel")
        yield f"{one.spec.name} takes {names} channels of sound, not {there}."


def channels_written(one: Written) -> Iterator[str]:
    sound = one.measured.sound
    if sound is not None and one.spec.channels and sound.channels not in one.spec.channels:
        names, there = or_words(one.spec.channels), counted(sound.channels, "channel")
        yield f"{one.spec.name} takes {names} channels, not {there}."


def or_words(numbers: tuple[int, ...]) -> str:
    return " or ".join(map(str, numbers))


def sound_codec_set(spec: Spec, _timeline: Timeline | None = None) -> str:
    """As the container calls it; empty for its usual one."""
    if not spec.sound_codec:
        return ""
    found = container_for(codec_named(spec.codec), spec.container).sound_codec(spec.sound_codec)
    return found.name if found is not None else ""


def sound_codec_ordered(one: Ordered) -> Iterator[str]:
    wanted = sound_codec_set(one.spec)
    codec = container_of(one.delivery).sound_codec(one.delivery.sound_codec)
    if wanted and one.sound is not None and codec is not None and codec.name != wanted:
        yield f"{one.spec.name} wants sound in {wanted}, not {codec.name}."


def sound_codec_written(one: Written) -> Iterator[str]:
    sound = one.measured.sound
    codec = CONTAINERS[one.spec.container_name].sound_codec(one.spec.sound_codec)
    if not one.spec.sound_codec or sound is None or codec is None:
        return
    if sound.codec != codec.codec:
        yield f"{one.spec.name} wants sound in {codec.name}, not {sound.codec}."


def loudness_given(spec: Spec) -> str:
    return f"{numbered(spec.loudness, 1)} LUFS" if spec.loudness is not None else ""


def loudness_ordered(one: Ordered) -> Iterator[str]:
    wanted = one.spec.loudness
    if one.sound is not None and wanted is not None and one.delivery.loudness != wanted:
        words = numbered(wanted, 1)
        yield f"{one.spec.name} wants a sound of {words} LUFS: set its loudness."


def loudness_written(one: Written) -> Iterator[str]:
    wanted, heard = one.spec.loudness, one.measured.loudness
    if one.measured.sound is None:
        return
    if heard is None:
        if wanted is not None or one.spec.true_peak is not None:
            yield (
                f"The loudness of the sound cannot be measured: {one.spec.name} says how loud "
                "it is."
            )
        return
    lufs = heard.integrated_lufs
    if wanted is not None and lufs is not None and abs(lufs - wanted) > LOUDNESS_TOLERANCE:
        words, there = numbered(wanted, 1), numbered(lufs, 1)
        yield f"{one.spec.name} wants a sound of {words} LUFS, not {there}."


def peak_ordered(one: Ordered) -> Iterator[str]:
    wanted, most = one.spec.true_peak, one.delivery.true_peak
    if one.sound is not None and wanted is not None and (most is None or most > wanted):
        yield f"{one.spec.name} takes peaks of at most {numbered(wanted, 1)} dBTP: set it."


def peak_written(one: Written) -> Iterator[str]:
    wanted, heard = one.spec.true_peak, one.measured.loudness
    if one.measured.sound is None or heard is None or wanted is None:
        return
    if heard.true_peak_dbtp > wanted + PEAK_TOLERANCE:
        words, there = numbered(wanted, 1), numbered(heard.true_peak_dbtp, 1)
        yield f"{one.spec.name} takes peaks of at most {words} dBTP, not {there}."
