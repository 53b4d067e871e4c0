"""Any file against a job's reel: which frames differ, where, by how much, and what it says."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import groupby
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from waxseal.core.deliver.beside import code_target
from waxseal.core.deliver.codes import Codes, codes_made, frames_in, in_size, read_codes
from waxseal.core.deliver.expecting import expected_of
from waxseal.core.deliver.form import Form
from waxseal.core.deliver.match.picture import flash_trouble
from waxseal.core.deliver.naming import container_of, path_of
from waxseal.core.deliver.settings import film_of, form_of, target_of
from waxseal.core.errors import Cancelled, JobError, WaxSealError
from waxseal.core.job.deliveries import LEAST_BITS, MOST_BITS
from waxseal.core.job.model import (
    Alpha,
    Bitrate,
    ConstantQuality,
    Delivery,
    DeliveryState,
    Job,
    Outcome,
    Size,
    change,
)
from waxseal.core.picture.kernels.choice import KernelChoice
from waxseal.core.picture.light.store import MOST_RECURRING_BYTES, LightStore
from waxseal.core.picture.target import Target
from waxseal.core.picture.work import work_of_film
from waxseal.core.plan.film import Film
from waxseal.core.plan.programme import programme
from waxseal.core.progress import CancelToken, Progress, Report, silent
from waxseal.core.seal.flashes import Coding, FlashMeter
from waxseal.core.seal.judge import judge
from waxseal.core.seal.likeness import Likeness
from waxseal.core.seal.measure.anything import measure_anything
from waxseal.core.seal.measure.facts import Measured
from waxseal.core.seal.record import DIGEST, read_seal, record_digest
from waxseal.core.seal.sketches import sketch_of_rgb
from waxseal.core.timing.ranges import write_frames
from waxseal.core.words import counted, plain

__all__ = ["Against", "Differs", "against_words", "check_against", "compared", "delivery_like"]

BLOCK = 16  # pixels, over which codecs keep the mean
# Codes of 8 bits: further is another picture, not the codec's loss; so many times as much more
# by the square of the coarseness (measured on boards and noise in small frames), and where the
# quality is among the coarsest. A bitrate, which may be any, is taken for the middle.
FAR, COARSER, COARSE_FAR, MIDDLE = 8.0, 2.5, 40.0, 0.5
SMALL = (64, 36)  # pixels, to find the frame that is shown in place of another
NEAR = 24  # frames around it
MUCH_NEARER, LEAST_AWAY = 0.5, 0.5  # of the distance to its own; codes, rms, of what is lossless
ORDER_NOT_JUDGED = (
    "At so low a quality a frame cannot be told from its neighbours: the order was not judged."
)
FITTED = 0.9  # of its limit, from which on a file may have another quality than it says
SAME = 3.0  # codes, rms: a frame that is nearer to another than that shows it


@dataclass(frozen=True, slots=True)
class Differs:
    """A frame of a file that is not as the reel's. frame: of the file, from 1.

    by: the largest distance of a block, in codes of 8 bits.
    """

    frame: int
    what: str
    by: float


@dataclass(frozen=True, slots=True)
class Against:
    """reasons: what the file is otherwise than the delivery orders, in sentences.

    is_order_judged: whether a frame that shows its neighbour would be found.
    """

    measured: Measured
    delivery: Delivery
    compared: int
    reasons: tuple[str, ...]
    differs: tuple[Differs, ...]
    is_order_judged: bool = True

    @property
    def is_alike(self) -> bool:
        return not self.reasons and not self.differs


def delivery_like(job: Job, file: Path) -> Delivery:
    """The delivery that a file is most likely to be: of its path, its name, or its kind.

    Raises JobError for a job without any.
    """
    if not job.deliveries:
        raise JobError("The outbox is empty: there is nothing to compare the file with.")

    def likeness(delivery: Delivery) -> tuple[bool, bool, bool]:
        path = path_of(delivery)
        try:
            suffix = container_of(delivery).suffix
        except JobError:
            suffix = "?"
        return path == file.absolute(), path.name == file.name, suffix == file.suffix.lower()

    return max(job.deliveries, key=likeness)


def check_against(
    file: Path,
    job: Job,
    delivery: Delivery,
    *,
    report: Report = silent,
    token: CancelToken | None = None,
) -> Against:
    """Compare every frame of a file with the reel as a delivery shows it.

    Raises UnreadableInput where the file cannot be measured, JobError, FrameError where a
    frame of a source cannot be read, Cancelled.
    """
    token = token or CancelToken()
    planned = programme(job)
    form, film = form_of(planned.timeline, delivery), film_of(planned, delivery)
    if not form.codec.takes_codes:
        raise JobError(f"{form.codec.name} frames hold light: check them by their seal.")
    measured = measure_anything(file, report=report, token=token)
    form = as_it_was_made(form, file, measured)
    size = Size(width=measured.width, height=measured.height)
    target = target_of(planned.timeline.size, delivery)
    if (size.width, size.height) != target.stored_size:
        target = target_of(planned.timeline.size, change(delivery, size=size))
    comparing = Comparing(file, film, form, measured, code_target(target))
    differs = tuple(comparing.run(report, token))
    alike = Likeness(measured.frames, 0.0, 1, ())
    expected = expected_of(form, measured.stream)
    reasons = judge(measured, expected, alike, float("inf"), comparing.flashes)
    trouble = flash_trouble(delivery)
    if trouble:
        reasons = (*reasons, trouble)
    return Against(measured, delivery, comparing.count, reasons, differs, not form.is_coarse)


def against_words(found: Against) -> Iterator[str]:
    """What was found, in sentences; frames that differ alike, one after the other, have one."""
    yield from found.reasons
    for what, group in groupby(found.differs, lambda one: one.what.split(" frame ")[0]):
        same = list(group)
        numbers = write_frames(one.frame for one in same)
        by = max(one.by for one in same)
        words = same[0].what
        if len(same) > 1 and what == "shows":
            words = "shows frames near it"
        elif len(same) > 1:
            words = "differs"
        yield f"{numbers}: {words} (up to {by:g} codes)"
    if found.is_alike:
        yield "It is as the reel."
    if not found.is_order_judged:
        yield ORDER_NOT_JUDGED


def compared(
    job: Job, delivery: Delivery, report: Report, token: CancelToken, *, file: str
) -> Outcome:
    """The same as an outcome of nothing that was made. Never raises for what can go wrong."""
    try:
        found = check_against(Path(file), job, delivery, report=report, token=token)
    except Cancelled:
        return Outcome(state=DeliveryState.STOPPED)
    except WaxSealError as error:
        return Outcome(state=DeliveryState.REFUSED, reasons=(str(error),))
    words = (f"{counted(found.compared, 'frame')} compared.", *against_words(found))
    state = DeliveryState.UNSEALED if found.is_alike else DeliveryState.REFUSED
    return Outcome(state=state, notes=words, file=plain(Path(file).name))


class Comparing:
    """A file and a film, frame by frame."""

    def __init__(
        self, file: Path, film: Film, form: Form, measured: Measured, target: Target
    ) -> None:
        self._film, self._form, self._target = film, form, target
        self._rate = measured.rate or form.rate
        self._kernels = KernelChoice()
        self._files_small: dict[int, Codes] = {}
        self._reels_small: dict[int, Codes] = {}
        whole = film.frames.count / form.rate
        there = len(frames_in(file)) or measured.frames
        self.count = min(there, round(whole * self._rate))
        self._file = file
        self._far = COARSE_FAR if form.is_coarse else FAR * (1 + COARSER * coarseness_of(form) ** 2)
        self._least_away = least_away_of(form)
        self._lights = LightStore(MOST_RECURRING_BYTES, only_recurring=True)
        self._meter = FlashMeter(self._rate, Coding(form.space, is_rgb=True))

    def run(self, report: Report, token: CancelToken) -> Iterator[Differs]:
        self._kernels.warm_for(work_of_film(self._film, self._target))
        found: dict[int, Differs] = {}
        for number in range(1, self.count + 1):
            token.check()
            differs = self._compare(number)
            if differs is not None:
                found[number] = differs
            report(Progress("comparing", number, self.count))
        # Where little moves, a frame is late that differs from its own by hardly anything.
        for number in range(1, self.count + 1):
            other, by = self._shown_instead(number)
            if other:
                yield Differs(number, f"shows frame {other}", by)
            elif number in found:
                yield found[number]

    @property
    def flashes(self) -> tuple[str, ...]:
        return tuple(one.words for one in self._meter.passages)

    def _reel_frame(self, number: int) -> int:
        """The film's frame at the time of a frame of the file."""
        place = (number - 1) * self._form.rate // self._rate
        return self._film.frames.first + min(int(place), self._film.frames.count - 1)

    def _compare(self, number: int) -> Differs | None:
        reel_frame = self._reel_frame(number)
        recipe, kernels = self._film.recipe(reel_frame), self._kernels.current
        made = codes_made(recipe, self._target, kernels, self._lights)
        there = read_codes(self._file, number, untagged=self._form.tags[2])
        there = in_size(there, self._target.width, self._target.height)
        rgb = np.rint(np.clip(there[..., :3], 0, 255)).astype(np.uint8)
        self._meter.look(sketch_of_rgb([rgb[..., at] for at in range(3)]))
        if there.shape[2] < made.shape[2] or self._target.alpha is Alpha.NONE:
            made, there = made[..., :3], there[..., :3]
        elif self._target.alpha is Alpha.STRAIGHT and not self._form.codec.is_lossless:
            made, there = as_seen(made), as_seen(there)
        self._files_small[number], self._reels_small[reel_frame] = small(there), small(made)
        away = block_distances(made, there)
        by = float(away.max())
        if by <= self._far:
            return None
        return Differs(number, where_words(away > self._far, there.shape), round(by, 1))

    def _shown_instead(self, number: int) -> tuple[int, float]:
        """The frame of the file's own count whose picture this one is, and how far it is from
        its own; 0 for none nearby."""
        seen = self._files_small[number]
        own = distance(seen, self._reels_small[self._reel_frame(number)])
        if own < self._least_away:
            return 0, own
        around = range(max(1, number - NEAR), min(self.count, number + NEAR) + 1)
        near = min(around, key=lambda one: distance(seen, self._reels_small[self._reel_frame(one)]))
        away = distance(seen, self._reels_small[self._reel_frame(near)])
        is_other = near != number and away < min(MUCH_NEARER * own, SAME)
        return (near if is_other else 0), round(own, 1)


def as_it_was_made(form: Form, file: Path, measured: Measured) -> Form:
    """A form in the quality that a file was fitted to its limit with.

    Its seal says that; without one the file's own bitrate is all that is known.
    """
    if not form.codec.grades or not form.most_bytes:
        return form
    figure = sealed_figure(file, measured)
    least, most = sorted((form.codec.best, form.codec.coarsest))
    if figure is not None and least <= figure <= most:
        return replace(form, quality=ConstantQuality(figure=figure))
    if measured.size_bytes < FITTED * form.most_bytes:
        return form
    bits = round(measured.size_bytes * 8 * form.rate / form.frames.count)
    return replace(form, quality=Bitrate(bits_per_second=min(max(bits, LEAST_BITS), MOST_BITS)))


def sealed_figure(file: Path, measured: Measured) -> float | None:
    """What the seal of just this file says of its quality."""
    record = read_seal(file) or {}
    if record.get(DIGEST) != record_digest(record) or record.get("sha256") != measured.sha256:
        return None
    likeness = record.get("likeness")
    figure = likeness.get("figure") if isinstance(likeness, dict) else None
    return float(figure) if isinstance(figure, int | float) else None


def coarseness_of(form: Form) -> float:
    """Of a delivery's quality, 0 to 1: of a file that it did not make it is the best guess."""
    codec, figure = form.codec, form.codec.figure_for(form.quality)
    if codec.is_lossless:
        return 0.0
    return MIDDLE if figure is None else codec.coarseness(figure)


def least_away_of(form: Form) -> float:
    """What a frame has to be from its own picture, so that it may be said to show another."""
    codec = form.codec
    if form.is_coarse:
        return float("inf")  # single frames stay as the ones before them
    return LEAST_AWAY if codec.is_lossless else codec.step_at(codec.figure_for(form.quality))


def as_seen(codes: Codes) -> Codes:
    """Colour by its alpha: what a codec makes of colour that is clear is not seen."""
    return np.concatenate([codes[..., :3] * (codes[..., 3:] / 255), codes[..., 3:]], axis=2)


def block_distances(one: Codes, other: Codes) -> NDArray[np.float32]:
    """How far the mean of each block is from the other's, in the channel where it is farthest."""
    height, width = one.shape[:2]
    blocks = (max(1, width // BLOCK), max(1, height // BLOCK))
    away = cv2.resize(one - other, blocks, interpolation=cv2.INTER_AREA)
    return np.asarray(np.abs(away).reshape(blocks[1], blocks[0], -1).max(axis=2), np.float32)


def small(codes: Codes) -> Codes:
    return np.asarray(cv2.resize(codes[..., :3], SMALL, interpolation=cv2.INTER_AREA), np.float32)


def distance(one: Codes, other: Codes) -> float:
    return float(np.sqrt(np.mean((one - other) ** 2)))


def where_words(far: NDArray[np.bool_], shape: tuple[int, ...]) -> str:
    """The part of the frame that differs, in pixels."""
    rows, columns = np.nonzero(far.any(axis=1))[0], np.nonzero(far.any(axis=0))[0]
    tall, wide = shape[0] / far.shape[0], shape[1] / far.shape[1]
    left, top = round(columns[0] * wide), round(rows[0] * tall)
    right, below = round((columns[-1] + 1) * wide), round((rows[-1] + 1) * tall)
    if far.mean() > 0.9:
        return "differs everywhere"
    return f"differs in {right - left} × {below - top} pixels at {left}, {top}"
