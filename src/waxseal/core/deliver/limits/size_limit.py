"""A film under a limit of bytes: the best quality that stays under it, and is worth having.

All segments have one quality, found by the secant over ln(bytes), which is nearly a line
over a codec's figure. The finished file is what is weighed: sound and container count.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

from waxseal.core.atomic_write import remove_partial
from waxseal.core.deliver.encode.encode_film import Encoded, encode
from waxseal.core.deliver.encode.encode_state import HERE, EncodeOptions
from waxseal.core.deliver.encode.segments.segment_pictures import encoder_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.job.model import ConstantQuality, Grade, Graded, Quality
from waxseal.core.plan.recipe_range import Recipes
from waxseal.core.progress import CancelToken, Report
from waxseal.core.text_format import bytes_words

__all__ = ["FITTING", "FittedFile", "encode_fitted", "fitting_notes"]

FITTING = "finding the quality"  # what an encode is called that only tries
ROUNDS = 8
WORTHLESS = 0.85  # of the way to the codec's coarsest figure
AIM, LEAST = 0.985, 0.97  # of the limit


@dataclass(frozen=True, slots=True)
class FittedFile:
    """form: with the quality that was found. before: the figure that was asked for, or None.

    segments_made, segments_kept: in all tries; found before the first.
    size: of the file, where it had to be fitted: over its limit where nothing fits.
    """

    form: ResolvedFormat
    encoded: Encoded
    before: float | None = None
    size: int = 0
    segments_made: int = 0
    segments_kept: int = 0

    @property
    def is_fine_enough(self) -> bool:
        """Whether it is not coarser than anybody would choose."""
        if self.before is None:
            return True
        codec = self.form.codec
        figure = codec.figure_for(self.form.quality) or 0.0
        coarsest = max(WORTHLESS, codec.coarseness(self.before))
        return codec.coarseness(figure) <= coarsest

    @property
    def fits(self) -> bool:
        return self.before is None or self.size <= self.form.most_bytes


@dataclass(frozen=True, slots=True)
class Attempt:
    """A figure, and how large the file gets with it."""

    figure: float
    size: int


def encode_fitted(
    film: Recipes,
    form: ResolvedFormat,
    partial: Path,
    report: Report,
    token: CancelToken,
    who: EncodeOptions = HERE,
) -> FittedFile:
    """As `encode`, in the form's quality, or in the best that keeps the file under its limit."""

    segments_made = kept = 0

    def made(
        one: ResolvedFormat, stage: str = "encoding", qualities: Mapping[int, Quality] | None = None
    ) -> Encoded:
        nonlocal segments_made
        remove_partial(partial)
        encoded = encode(
            film, one, partial, report, token, stage=stage, who=who, qualities=qualities
        )
        segments_made += len(encoded.sizes) - encoded.segments_kept
        return encoded

    def fitted(
        one: ResolvedFormat, encoded: Encoded, before: float | None = None, size: int = 0
    ) -> FittedFile:
        return FittedFile(one, encoded, before, size, segments_made, kept)

    encoded = made(form)
    kept = encoded.segments_kept
    if encoded.unreadable or not form.most_bytes or not form.codec.grades or partial.is_dir():
        return fitted(form, encoded)
    size = partial.stat().st_size
    if size <= form.most_bytes:
        return fitted(form, encoded)
    before = form.codec.figure_for(form.quality)
    if before is None:  # a bitrate that does not fit
        form = replace(form, quality=Graded(grade=Grade.HIGH))
        before = form.codec.figure_for(form.quality) or 0.0
        encoded = made(form, FITTING)
        size = partial.stat().st_size
    search = Search(form, Attempt(before, size), lambda one: made(one, FITTING), partial)
    found, encoded = search.run(encoded)
    if encoded.unreadable:
        return fitted(found, encoded)
    if encoder_of(form).is_whole:
        mixed = dict(finer_segments(search))
        if mixed:
            encoded = made(found, FITTING, mixed)
            if not encoded.unreadable and partial.stat().st_size > form.most_bytes:
                encoded = made(found, FITTING)
    return fitted(found, encoded, before, partial.stat().st_size)


class Search:
    """Looks for the figure at which the file fits. sizes: of its segments, by figures tried."""

    def __init__(
        self,
        form: ResolvedFormat,
        first: Attempt,
        made: Callable[[ResolvedFormat], Encoded],
        partial: Path,
    ) -> None:
        self._form, self._made, self._partial = form, made, partial
        self._codec = form.codec
        self.limit = form.most_bytes
        self.beside = 0  # bytes that are no pictures: sound and container
        self.tries = [first]
        self.sizes: dict[float, Mapping[int, int]] = {}

    def run(self, encoded: Encoded) -> tuple[ResolvedFormat, Encoded]:
        """The form that fits, and its file as it was encoded, which lies in its place."""
        self.sizes[self.tries[0].figure] = encoded.sizes
        self.beside = max(0, self.tries[0].size - sum(encoded.sizes.values()))
        for _ in range(ROUNDS):
            figure = self._next()
            if figure is None:
                break
            encoded = self._encode(figure)
            if encoded.unreadable or self._is_near(self.tries[-1]):
                return self._at(figure), encoded
        best = self.fits()
        if best is None:
            return self._at(self.tries[-1].figure), encoded  # not even the coarsest fits
        if self.tries[-1] != best:
            encoded = self._encode(best.figure)
        return self._at(best.figure), encoded

    def fits(self) -> Attempt | None:
        """The largest that fits so far."""
        good = [one for one in self.tries if one.size <= self.limit]
        return max(good, key=lambda one: one.size, default=None)

    def too_large(self) -> Attempt | None:
        """The smallest that does not."""
        bad = [one for one in self.tries if one.size > self.limit]
        return min(bad, key=lambda one: one.size, default=None)

    def _is_near(self, one: Attempt) -> bool:
        return LEAST * self.limit <= one.size <= self.limit

    def _encode(self, figure: float) -> Encoded:
        encoded = self._made(self._at(figure))
        if not encoded.unreadable:
            self.tries.append(Attempt(figure, self._partial.stat().st_size))
            self.sizes[figure] = encoded.sizes
        return encoded

    def _at(self, figure: float) -> ResolvedFormat:
        return replace(self._form, quality=ConstantQuality(figure=figure))

    def _next(self) -> float | None:
        """The figure to try next; None where there is none between what was tried."""
        room = max(1.0, AIM * self.limit - self.beside)
        wanted = math.log(room)
        low, high = self.too_large(), self.fits()
        figure = (
            between(self._picture(low), self._picture(high), wanted)
            if low and high
            else self._guess(wanted)
        )
        step = 1.0 if encoder_of(self._form).is_whole else 0.01
        figure = round(figure / step) * step
        bounds = sorted((self._codec.best, self._codec.coarsest))
        figure = min(max(figure, bounds[0]), bounds[1])
        if low is not None and high is not None and abs(low.figure - high.figure) <= step * 1.01:
            return None
        tried = {round(one.figure, 4) for one in self.tries}
        if round(figure, 4) in tried:
            if high is None or low is None:
                return None
            figure = round((low.figure + high.figure) / 2 / step) * step
            return None if round(figure, 4) in tried else figure
        return figure

    def _picture(self, one: Attempt) -> Attempt:
        """The same without its sound and container: they do not depend on the figure."""
        return Attempt(one.figure, max(1, one.size - self.beside))

    def _guess(self, wanted: float) -> float:
        """A figure outside those that were tried, by the last two or by the codec's usual bits."""
        last = self._picture(self.tries[-1])
        if len(self.tries) > 1:
            one = self._picture(self.tries[-2])
            slope = (math.log(last.size) - math.log(one.size)) / (last.figure - one.figure)
            if slope:
                return last.figure + (wanted - math.log(last.size)) / slope
        coarser = math.copysign(1.0, self._codec.coarsest - self._codec.best)
        figure, bits = last.figure, self._codec.bits_a_pixel
        target = bits(figure) * math.exp(wanted - math.log(last.size))
        step = coarser * abs(self._codec.coarsest - self._codec.best) / 200
        if bits(figure) < target:
            step = -step
        while 0 <= self._codec.coarseness(figure) <= 1:
            if (bits(figure) - target) * (bits(figure + step) - target) <= 0:
                break
            figure += step
        return figure


def between(low: Attempt, high: Attempt, wanted: float) -> float:
    """Where the line through two tries comes to ln(bytes), and a little inside of both."""
    below, above = math.log(low.size), math.log(high.size)
    part = (wanted - below) / (above - below) if above != below else 0.5
    return low.figure + min(max(part, 0.02), 0.98) * (high.figure - low.figure)


def finer_segments(search: Search) -> Iterator[tuple[int, Quality]]:
    """Segments that can have the next better figure, of a codec whose figures are steps.

    The largest gains first, as long as all of them fit.
    """
    fits, over = search.fits(), search.too_large()
    if fits is None or over is None or LEAST * search.limit <= fits.size:
        return
    coarse, fine = search.sizes[fits.figure], search.sizes[over.figure]
    room = int(search.limit * 0.998) - fits.size
    gains = sorted(((fine[place] - size, place) for place, size in coarse.items()), reverse=True)
    better = ConstantQuality(figure=over.figure)
    for gain, place in gains:
        if 0 < gain <= room:
            room -= gain
            yield place, better


def fitting_notes(fitted: FittedFile) -> Iterator[str]:
    """What was done to stay under the limit, in a sentence."""
    form = fitted.form
    figure = form.codec.figure_for(form.quality)
    if fitted.before is None or figure is None:
        return
    yield (
        f"The quality is {figure:g} in place of {fitted.before:g}, so that the file stays under "
        f"{bytes_words(form.most_bytes)}: it uses {fitted.size / form.most_bytes:.1%} of it."
    )
