"""Whether a finished file, made by whatever, is what a spec takes."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from waxseal.core.deliver.codecs import codec_named
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.specs.spec import SoundWish, Spec
from waxseal.core.job.model import Alpha, Size, shape_words
from waxseal.core.seal.measure.file_facts import Measured
from waxseal.core.seal.rules import LOUDNESS_TOLERANCE, PEAK_TOLERANCE, tag_words
from waxseal.core.text_format import bytes_words, counted, numbered
from waxseal.core.timing.rates import rate_words

__all__ = ["file_troubles"]


def file_troubles(spec: Spec, measured: Measured, suffix: str) -> Iterator[str]:
    """What a spec does not take of a file, in sentences. What cannot be looked at is said too.

    suffix: of its name; empty for a folder of frames.
    """
    container = CONTAINERS[spec.container_name]
    if suffix.lower() != container.suffix:
        there = suffix or "a folder of frames"
        yield f"{spec.name} wants {container.suffix or 'a folder of frames'}, not {there}."
    yield from kind_troubles(spec, measured)
    yield from time_troubles(spec, measured)
    size = Size(width=measured.width, height=measured.height)
    if spec.size_trouble(size):
        yield f"{spec.size_trouble(size)}."
    if measured.pixel_shape != spec.pixel_shape:
        wanted, there = shape_words(spec.pixel_shape), shape_words(measured.pixel_shape)
        yield f"{spec.name} wants pixels of the shape {wanted}, not {there}."
    if spec.most_bytes and measured.size_bytes > spec.most_bytes:
        yield f"{spec.name} takes {spec.max_size}, not {bytes_words(measured.size_bytes)}."
    if spec.timecode and measured.timecode != spec.timecode:
        yield f"{spec.name} begins at {spec.timecode}, not {measured.timecode or 'at none'}."
    tracks = measured.boxes.tracks if measured.boxes is not None else ()
    if spec.mastering and not any(one.mastering for one in tracks):
        yield f"{spec.name} wants a mastering display, and the file says none."
    if spec.no_flashes:
        yield (
            f"{spec.name} takes no flashes that may harm. They are looked for with the job: "
            "give it with --against."
        )
    yield from sound_troubles(spec, measured)


def time_troubles(spec: Spec, measured: Measured) -> Iterator[str]:
    rates, rate = spec.chosen_rates, measured.rate
    if rate is None:
        if rates or spec.longest or spec.shortest or spec.key_seconds:
            there = "a rate that changes" if measured.is_uneven else "no rate"
            yield f"The file has {there}: whether {spec.name} takes it cannot be said."
        return
    if rates and rate not in rates:
        names = ", ".join(map(rate_words, rates))
        yield f"{spec.name} takes {names} fps, not {rate_words(rate)}."
    seconds = float(measured.frames / rate)
    if spec.longest and seconds > spec.longest:
        yield f"{spec.name} takes {spec.longest:g} s at the most, not {seconds:.2f} s."
    if seconds < spec.shortest:
        yield f"{spec.name} takes {spec.shortest:g} s at the least, not {seconds:.2f} s."
    most = max(1, int(Fraction(spec.key_seconds) * rate))
    if spec.key_seconds and measured.key_gap > most:
        yield f"{spec.name} wants a key frame every {most} frames, not {measured.key_gap}."


def kind_troubles(spec: Spec, measured: Measured) -> Iterator[str]:
    codec = codec_named(spec.codec)
    facts, has_alpha = codec.facts, spec.alpha is not Alpha.NONE
    wanted = facts.clear_format if has_alpha else facts.pixel_format
    for what, ours, there in (
        ("the codec", facts.codec, measured.codec),
        ("the profile", facts.profile, measured.profile),
        ("the pixel format", wanted, measured.pixel_format),
    ):
        if ours != there:
            yield f"{spec.name} wants {what} {ours}, not {there or 'none'}."
    tags = CONTAINERS[spec.container_name].tags_of(codec, spec.chosen_space)
    if tags[0] and measured.colour != tags:
        yield f"{spec.name} wants the tags {tag_words(tags)}, not {tag_words(measured.colour)}."


def sound_troubles(spec: Spec, measured: Measured) -> Iterator[str]:
    sound = measured.sound
    if sound is None:
        if spec.sound is SoundWish.NEEDED:
            yield f"{spec.name} needs sound, and the file has none."
        return
    if spec.sound is SoundWish.NONE:
        yield f"{spec.name} takes no sound."
    if spec.channels and sound.channels not in spec.channels:
        names = " or ".join(map(str, spec.channels))
        yield f"{spec.name} takes {names} channels, not {counted(sound.channels, 'channel')}."
    codec = CONTAINERS[spec.container_name].sound_codec(spec.sound_codec)
    if spec.sound_codec and codec is not None and sound.codec != codec.codec:
        yield f"{spec.name} wants sound in {codec.name}, not {sound.codec}."
    heard = measured.loudness
    if heard is None:
        if spec.loudness is not None or spec.true_peak is not None:
            yield f"The loudness of the sound cannot be measured: {spec.name} says how loud it is."
        return
    lufs = heard.integrated_lufs
    wanted = spec.loudness
    if wanted is not None and lufs is not None and abs(lufs - wanted) > LOUDNESS_TOLERANCE:
        words = numbered(wanted, 1)
        yield f"{spec.name} wants a sound of {words} LUFS, not {numbered(lufs, 1)}."
    if spec.true_peak is not None and heard.true_peak_dbtp > spec.true_peak + PEAK_TOLERANCE:
        words, there = numbered(spec.true_peak, 1), numbered(heard.true_peak_dbtp, 1)
        yield f"{spec.name} takes peaks of {words} dBTP at the most, not {there}."
