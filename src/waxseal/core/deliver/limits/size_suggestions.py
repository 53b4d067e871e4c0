"""What would look better under a limit than a picture that is too coarse: smaller ones, tried."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import av
import cv2
import numpy as np

from waxseal.core.deliver.encode.encode_state import EncodeState
from waxseal.core.deliver.encode.loudness_target import coded_bytes
from waxseal.core.deliver.encode.segments.segment_cuts import Piece
from waxseal.core.deliver.encode.segments.segment_encoding import SegmentInMemory, encode_piece
from waxseal.core.deliver.encode.segments.segment_pictures import encoder_of
from waxseal.core.deliver.format.delivery_settings import form_of, frame_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.deliver.limits.size_limit import FittedFile
from waxseal.core.errors import JobError
from waxseal.core.frames.movies.pixel_planes import read_planes
from waxseal.core.job.model import ConstantQuality, Delivery, Size, change
from waxseal.core.picture.arrays import Plane
from waxseal.core.picture.make import make
from waxseal.core.plan.recipe_range import Film
from waxseal.core.progress import CancelToken, silent
from waxseal.core.seal.likeness import ssim
from waxseal.core.text_format import bytes_words
from waxseal.core.timing.ranges import FrameRange

__all__ = ["coarse_words"]

PARTS = (0.75, 0.5, 1 / 3)  # of both sides
LEAST = 64  # pixels of the shorter side
SAMPLE = 24  # frames out of the middle
TRIES = 6
WORTH_HAVING = 0.85  # of likeness; common practice, no source
SOUND_BITS = (128_000, 96_000, 64_000, 48_000, 32_000)
BETTER = 0.01  # of likeness: less is not seen


@dataclass(frozen=True, slots=True)
class SizeSuggestion:
    """A smaller size that fits. likeness: of it, enlarged, to the full picture, 0..1."""

    size: Size
    likeness: float


def coarse_words(film: Film, delivery: Delivery, fitted: FittedFile, token: CancelToken) -> str:
    """Why what fits under a limit is not worth having, and what would be better.

    Empty where it is like the reel all the same: some codecs are good at their coarsest.
    Raises as `encode` does.
    """
    form = fitted.form
    pictures = max(1, sum(fitted.encoded.sizes.values()))
    beside = max(0, fitted.size - pictures)
    most = max(0.0, min(1.0, (form.most_bytes - beside) / pictures))
    sample = FilmExcerpt(film, form, token, most=most)
    now = sample.likeness(form)
    is_over = not fitted.fits
    if not is_over and now >= WORTH_HAVING:
        return ""
    limit = bytes_words(form.most_bytes)
    if form.sound is not None and 3 * beside > form.most_bytes:
        offer = quieter_words(sample, form, pictures, beside, token)
        if offer:
            return f"{limit} cannot be kept well: the sound takes {bytes_words(beside)}. {offer}"
    smaller = sample.smaller(delivery)
    better = [one for one in smaller if is_over or one.likeness > now + BETTER]
    words = (
        f"{limit} can only be kept by a picture too coarse to use: its likeness to the "
        f"reel would be {now:.2f}."
    )
    if is_over:
        words = (
            f"{limit} cannot be kept: even at the coarsest quality, with a likeness to the reel of "
            f"{now:.2f}, the file has {bytes_words(fitted.size)}."
        )
    if not better:
        return f"{words} Choose a lower rate, a shorter range or a higher limit."
    better.sort(key=lambda one: -one.likeness)
    sizes = ", ".join(f"{one.size} comes to {one.likeness:.2f}" for one in better)
    offer = "A smaller size fits" if is_over else "A smaller size looks better"
    return f"{words} {offer}: {sizes}. Choose one, or a shorter range."


def quieter_words(
    sample: FilmExcerpt, form: ResolvedFormat, pictures: int, beside: int, token: CancelToken
) -> str:
    """Which bitrate of the sound leaves enough for the picture; empty where none does.

    Each is tried: the sound is encoded, and the sample in what is left.
    """
    plan, codec = form.sound, form.sound_codec
    if plan is None or codec is None or not codec.bits_per_second:
        return ""
    now = coded_bytes(plan, codec)
    for bits in SOUND_BITS:
        if bits >= codec.bits_per_second[plan.channels]:
            continue
        token.check()
        saved = now - coded_bytes(plan, codec.at(bits))
        likeness = sample.likeness_within((form.most_bytes - beside + saved) / pictures)
        if likeness is not None and likeness >= WORTH_HAVING:
            return (
                f"With a sound bitrate of {bits // 1000}k it can, with a likeness to the reel of "
                f"{likeness:.2f}."
            )
    return ""


class FilmExcerpt:
    """A few frames out of the middle of a film, as they would be in other forms."""

    def __init__(
        self, film: Film, form: ResolvedFormat, token: CancelToken, *, most: float
    ) -> None:
        """most: bytes that it may take, as a part of what it takes in the form."""
        self._film, self._token = film, token
        frames = film.frames
        count = min(SAMPLE, frames.count)
        first = frames.first + (frames.count - count) // 2
        self._span = FrameRange(first, first + count - 1)
        self._made = [make(film.recipe(frame), form.target).planes[0] for frame in self._span]
        self._form = form
        self._whole = self._encode(form).segment.size_bytes
        self._budget = self._whole * most

    def likeness_within(self, part: float) -> float | None:
        """How like the sample is in so large a part of its bytes; None where it does not fit."""
        if part <= 0:
            return None
        fitted = self._fitted(self._form, self._whole * part)
        return None if fitted is None else self.likeness(fitted)

    def likeness(self, form: ResolvedFormat) -> float:
        held = self._encode(form)
        whole = self._made[0].shape
        alike = [
            ssim(made, as_large(luma, whole))
            for made, luma in zip(self._made, decoded_luma(held, form), strict=True)
        ]
        return float(np.mean(alike))

    def smaller(self, delivery: Delivery) -> Iterator[SizeSuggestion]:
        timeline = self._film.timeline
        whole = frame_of(timeline.size, delivery)
        for part in PARTS:
            size = Size(width=even(whole.width * part), height=even(whole.height * part))
            if min(size.width, size.height) < LEAST:
                continue
            try:
                form = form_of(timeline, change(delivery, size=size))
            except JobError:
                continue
            fitted = None if form.codec.size_trouble(size) else self._fitted(form, self._budget)
            if fitted is not None:
                yield SizeSuggestion(size, self.likeness(fitted))

    def _fitted(self, form: ResolvedFormat, budget: float) -> ResolvedFormat | None:
        """The finest quality at which the sample takes no more than so many bytes; or None."""
        codec = form.codec
        low, high = 0.0, 1.0  # how coarse: too large, and small enough
        if self._encode(at_coarseness(form, high)).segment.size_bytes > budget:
            return None
        for _ in range(TRIES):
            middle = (low + high) / 2
            size = self._encode(at_coarseness(form, middle)).segment.size_bytes
            low, high = (low, middle) if size <= budget else (middle, high)
            if math.isclose(low, high, abs_tol=1 / abs(codec.coarsest - codec.best)):
                break
        return at_coarseness(form, high)

    def _encode(self, form: ResolvedFormat) -> SegmentInMemory:
        held = SegmentInMemory()
        recipes = tuple(self._film.recipe(frame) for frame in self._span)
        work = EncodeState(self._film, form, silent, self._token)
        encode_piece(Piece(0, self._span, recipes, form), work, held)
        return held


def at_coarseness(form: ResolvedFormat, part: float) -> ResolvedFormat:
    figure = form.codec.best + part * (form.codec.coarsest - form.codec.best)
    if encoder_of(form).is_whole:
        figure = round(figure)
    return replace(form, quality=ConstantQuality(figure=round(figure, 2)))


def even(pixels: float) -> int:
    return round(pixels / 2) * 2


def decoded_luma(held: SegmentInMemory, form: ResolvedFormat) -> Iterator[Plane]:
    """The luma of each frame, in the order in which they are shown."""
    name = {"av1": "libdav1d"}.get(form.codec.facts.codec, form.codec.facts.codec)
    decoder = av.CodecContext.create(name, "r")
    if not isinstance(decoder, av.VideoCodecContext):
        return
    decoder.extradata = held.segment.head or None
    for coded in held.segment.coded:
        for frame in decoder.decode(coded.as_packet()):
            yield read_planes(frame)[0].copy()
    for frame in decoder.decode(None):
        yield read_planes(frame)[0].copy()


def as_large(plane: Plane, shape: tuple[int, ...]) -> Plane:
    if plane.shape == shape:
        return plane
    return np.asarray(cv2.resize(plane, (shape[1], shape[0]), interpolation=cv2.INTER_CUBIC))
