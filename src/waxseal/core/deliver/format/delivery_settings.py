"""What a delivery's settings come to: its form, its target, about how large it gets."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from fractions import Fraction

from waxseal.core.deliver.codecs import codec_named
from waxseal.core.deliver.containers import container_for
from waxseal.core.deliver.format.output_path import container_of, path_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.errors import JobError
from waxseal.core.job.model import Bitrate, Delivery, Framing, Size
from waxseal.core.picture.colour.colour_file_states import config_states
from waxseal.core.picture.framing import Box, placed_box, scale_size
from waxseal.core.picture.target import Layout, Target
from waxseal.core.plan.filestates import state_of
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.recipe_keys import digest, store_key
from waxseal.core.plan.recipe_range import Film, Stretch
from waxseal.core.plan.sound_pieces import sound_plan
from waxseal.core.plan.timeline import Timeline
from waxseal.core.sound.mix_plan import SoundPlan
from waxseal.core.timing.ranges import FrameRange

__all__ = [
    "bytes_of",
    "estimate_bytes",
    "film_keys",
    "film_of",
    "form_of",
    "frame_of",
    "frames_of",
    "frames_shown",
    "has_subjects",
    "made_of",
    "reel_key_of",
    "reel_target_of",
    "shown_frame_of",
    "silent_form_of",
    "sound_of",
    "stretch_of",
    "target_of",
]

SOUND_BYTES_PER_SECOND, AROUND = 48_000, 64_000  # what sound and container take, at the most


def reel_target_of(size: Size, delivery: Delivery) -> Target:
    """What pictures of the reel's own size are coded as in a delivery. Raises JobError."""
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


def frame_of(size: Size, delivery: Delivery) -> Size:
    """The pixels of a delivery's frame; size: of the reel."""
    if delivery.size is not None or delivery.pixel_shape == 1:
        return delivery.size or size
    return size.kept_in(delivery.pixel_shape)


def shown_frame_of(size: Size, delivery: Delivery) -> Size:
    """The same frame in square pixels, as it is seen."""
    return frame_of(size, delivery).seen_in(delivery.pixel_shape)


def target_of(size: Size, delivery: Delivery) -> Target:
    """What pictures are made for when they are delivered; size: of the reel. Raises JobError."""
    frame, shown = frame_of(size, delivery), shown_frame_of(size, delivery)
    target = reel_target_of(frame, delivery)
    if frame == size and frame == shown:
        return target
    box = placed_in(size, shown, frame, delivery.framing, target.layout)
    is_whole = box == Box(0, 0, target.width, target.height)
    is_other = size.width * shown.height != size.height * shown.width
    is_stretched = is_whole and is_other and delivery.framing is Framing.STRETCH
    return replace(
        target, placed=None if is_whole else box, is_stretched=is_stretched or frame != shown
    )


def placed_in(reel: Size, shown: Size, frame: Size, framing: Framing, layout: Layout) -> Box:
    """Where the reel's picture is in a frame, on whole pixels of chroma.

    shown: the frame in square pixels.
    """
    seen, stored = (shown.width, shown.height), (frame.width, frame.height)
    box = scale_size(placed_box((reel.width, reel.height), seen, framing), seen, stored)
    columns, rows = (layout.chroma_columns, layout.chroma_rows) if layout.is_ycbcr else (1, 1)
    left, top = box.x - box.x % columns, box.y - box.y % rows
    right, below = box.x + box.width, box.y + box.height
    return Box(left, top, right - left + -right % columns, below - top + -below % rows)


def frames_of(timeline: Timeline, delivery: Delivery) -> FrameRange:
    """The frames of the reel that a delivery shows. Raises JobError for some that are not there."""
    if delivery.range is None:
        return timeline.frames
    first, last = delivery.range
    if not 1 <= first <= last <= timeline.length:
        raise JobError(
            f"The reel has frames 1 to {timeline.length}: {delivery.name} wants {first}-{last}."
        )
    return FrameRange(first, last)


def film_of(planned: Programme, delivery: Delivery) -> Film:
    """What a delivery shows, frame by frame. Raises JobError."""
    frames = frames_of(planned.timeline, delivery)
    return planned.film(frames, delivery.rate, has_subjects=has_subjects(delivery))


def has_subjects(delivery: Delivery) -> bool:
    """Whether it may cut the reel's picture, so that a shot says what is kept of it."""
    is_other = delivery.size is not None or delivery.pixel_shape != 1
    return is_other and delivery.framing is Framing.FILL


def made_of(film: Film) -> str:
    """The key of all that a film is made of now: its recipes, and what its config depends on."""
    states = config_states(film.timeline.job.reel.colour.config)
    return store_key(film.key(), *states) if states else film.key()


def film_keys(planned: Programme, deliveries: Iterable[Delivery]) -> dict[str, str]:
    """What each delivery would be made of now, by its id; another than ever where nothing can."""
    keys: dict[tuple[object, ...], str] = {}
    found = {}
    for one in deliveries:
        shown = (one.range, one.rate, has_subjects(one))
        if shown not in keys:
            try:
                keys[shown] = made_of(film_of(planned, one))
            except JobError:
                keys[shown] = "nothing"
        found[one.id] = keys[shown]
    return found


def stretch_of(timeline: Timeline, delivery: Delivery) -> Stretch:
    """The frames of the reel that a delivery shows, and its own. Raises JobError."""
    rate = delivery.rate or timeline.rate
    return Stretch(frames_of(timeline, delivery), timeline.rate, rate)


def reel_key_of(programme: Programme, delivery: Delivery) -> str:
    """What a delivery is made from, as one text: of the marks only where it follows them."""
    marked = programme.timeline.job.reel.marked
    if marked is None or delivery.range is not None:
        return programme.key
    return digest(programme.key, marked)


def frames_shown(timeline: Timeline, deliveries: Iterable[Delivery]) -> Iterator[tuple[str, int]]:
    """How many frames each delivery has, by its id; those without any are left out."""
    for one in deliveries:
        try:
            yield one.id, stretch_of(timeline, one).shown.count
        except JobError:
            continue


def sound_of(timeline: Timeline, delivery: Delivery) -> SoundPlan | None:
    """The sound that goes into a delivery, where there is one. Raises JobError, SoundError."""
    codec = container_of(delivery).sound_codec(delivery.sound_codec)
    if codec is None:
        return None
    stretch = stretch_of(timeline, delivery)
    seconds = None
    if stretch.rate != stretch.reel_rate:
        seconds = stretch.shown.count / stretch.rate
    return sound_plan(
        *(timeline, stretch.reel, codec.rates),
        seconds=seconds,
        channels=delivery.sound_channels,
    )


def form_of(timeline: Timeline, delivery: Delivery) -> ResolvedFormat:
    """Raises JobError for a codec that is not known, SoundError for a sound that has no place."""
    sound = sound_of(timeline, delivery)
    return replace(silent_form_of(timeline, delivery), sound=sound)


def silent_form_of(timeline: Timeline, delivery: Delivery) -> ResolvedFormat:
    """The same without its sound. Raises JobError."""
    codec = codec_named(delivery.codec)
    container = container_for(codec, delivery.container)
    sound_codec = container.sound_codec(delivery.sound_codec)
    if sound_codec is not None and sound_codec.bits_per_second and delivery.sound_bits:
        sound_codec = sound_codec.at(delivery.sound_bits)
    stretch = stretch_of(timeline, delivery)
    return ResolvedFormat(
        path=path_of(delivery),
        codec=codec,
        container=container.name,
        target=target_of(timeline.size, delivery),
        quality=delivery.quality,
        rate=stretch.rate,
        frames=stretch.shown,
        primaries=timeline.job.reel.colour.working.chromaticities,
        sound=None,
        sound_codec=sound_codec,
        key_seconds=delivery.key_seconds,
        most_bytes=delivery.most_bytes,
        loudness=delivery.loudness,
        true_peak=delivery.true_peak,
        timecode=delivery.timecode,
        no_flashes=delivery.no_flashes,
        mastering=delivery.mastering,
        pixel_shape=delivery.pixel_shape,
    )


def bytes_of(timeline: Timeline, delivery: Delivery) -> int:
    """About how large a delivery gets. Raises JobError."""
    stretch = stretch_of(timeline, delivery)
    size = frame_of(timeline.size, delivery)
    return estimate_bytes(delivery, size, stretch.shown.count, stretch.rate)


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
