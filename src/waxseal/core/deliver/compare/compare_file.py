"""Any file against a job's reel: which frames differ, where, by how much, and what it says."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from waxseal.core.deliver.compare.codec_reference import Reference
from waxseal.core.deliver.compare.sound_check import sound_faults
from waxseal.core.deliver.encode.loudness_target import levelled
from waxseal.core.deliver.format.delivery_settings import film_of, form_of, target_of
from waxseal.core.deliver.format.expected_file import expected_of
from waxseal.core.deliver.format.output_path import container_of, path_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.deliver.match.picture_rows import flash_trouble
from waxseal.core.deliver.preview.delivery_pixels import (
    Codes,
    codes_made,
    frames_in,
    in_size,
    read_codes,
)
from waxseal.core.deliver.preview.file_view import code_target
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
    Space,
    change,
)
from waxseal.core.picture.light.light_store import MOST_RECURRING_BYTES, LightStore
from waxseal.core.picture.target import Target
from waxseal.core.plan.programme import programme
from waxseal.core.plan.recipe import Recipe
from waxseal.core.plan.recipe_range import Film
from waxseal.core.progress import CancelToken, Progress, Report, silent
from waxseal.core.seal.film_character import (
    NO_LOSS,
    Detail,
    character_faults,
    character_of,
    detail_of,
    made_detail,
)
from waxseal.core.seal.flashes import FlashMeter, SketchCoding
from waxseal.core.seal.frame_sketches import (
    Coarseness,
    Sketch,
    Verdict,
    compare_films,
    distance,
    sketch_of_rgb,
)
from waxseal.core.seal.likeness import Likeness
from waxseal.core.seal.measure.file_facts import Measured
from waxseal.core.seal.measure.measure_file import measure_anything
from waxseal.core.seal.record import DIGEST, read_seal, record_digest
from waxseal.core.seal.verdict import judge
from waxseal.core.text_format import counted, plain
from waxseal.core.timing.ranges import write_frames

__all__ = [
    "Against",
    "FrameDifference",
    "against_words",
    "check_against",
    "compared",
    "delivery_like",
]

BLOCK = 16  # pixels, over which codecs keep the mean
# Codes of 8 bits: further is another picture, not the codec's loss; so many times as much more
# by the square of the coarseness (measured on boards and noise in small frames), and where the
# quality is among the coarsest. A bitrate, which may be any, is taken for the middle.
FAR, COARSER, COARSE_FAR, MIDDLE = 8.0, 2.5, 40.0, 0.5
SAME = 3.0  # codes, rms: a frame that is so near to another shows it
NEAR = 24  # frames around one, among which another is looked for that is shown in its place
LEAST_AWAY, ROUNDED = 0.1, 0.6  # codes of 8 bits, of what is lossless; steps of its own codes
STRETCH = 48  # frames that are judged together
MOST_ODD = 24  # frames that differ, and are compared with the codec's
ORDER_NOT_JUDGED = (
    "At so low a quality a frame cannot be told from its neighbours: the order was not judged."
)
FITTED = 0.9  # of its limit, from which on a file may have another quality than it says


@dataclass(frozen=True, slots=True)
class FrameDifference:
    """A frame of a file that is not as the reel's. frame: of the file, from 1.

    by: the largest distance of a block, in codes of 8 bits.
    """

    frame: int
    what: str
    by: float
    is_part: bool = False  # a part of it differs, and not all of it


@dataclass(frozen=True, slots=True)
class Against:
    """reasons: what the file is otherwise than the delivery orders, in sentences.

    not_compared: what could not be told, in sentences.
    """

    measured: Measured
    delivery: Delivery
    compared: int
    reasons: tuple[str, ...]
    differs: tuple[FrameDifference, ...]
    not_compared: tuple[str, ...] = ()

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
    ordered = levelled(form, token)
    form = as_it_was_made(ordered, file, measured)
    size = Size(width=measured.width, height=measured.height)
    target = target_of(planned.timeline.size, delivery)
    if (size.width, size.height) != target.stored_size:
        target = target_of(planned.timeline.size, change(delivery, size=size))
    comparing = FileComparison(file, film, form, measured, code_target(target))
    differs = tuple(comparing.run(report, token))
    with Reference(film, ordered, token) as reference:
        if not form.codec.is_lossless:  # how coarse a quality is depends on the pictures
            differs = comparing.beyond_the_codec(differs, reference)
        faults = comparing.film_faults(reference)
    alike = Likeness(measured.frames, 0.0, 1, ())
    expected = expected_of(form, measured.stream)
    sound = sound_faults(file, form, measured, token)
    reasons = judge(measured, expected, alike, float("inf"), comparing.flashes, sound.faults)
    trouble = flash_trouble(delivery)
    return Against(
        measured,
        delivery,
        comparing.count,
        (*reasons, *faults, *((trouble,) if trouble else ())),
        differs,
        (*comparing.not_compared, *sound.not_compared),
    )


Stretch = tuple[list[Sketch], list[Sketch], list[Detail]]  # what was made, what is there


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
        yield "Every frame matches the reel."
    yield from found.not_compared


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


class FileComparison:
    """A file and a film, frame by frame, and then as a whole, by the tests that a seal rests on."""

    def __init__(
        self, file: Path, film: Film, form: ResolvedFormat, measured: Measured, target: Target
    ) -> None:
        self._film, self._form, self._target = film, form, target
        self._rate = measured.rate or form.rate
        self._seen: list[Sketch] = []
        self._made: list[Sketch] = []
        self._details: list[Detail] = []
        whole = film.frames.count / form.rate
        there = len(frames_in(file)) or measured.frames
        self.count = min(there, round(whole * self._rate))
        self._file = file
        self._far = COARSE_FAR if form.is_coarse else FAR * (1 + COARSER * coarseness_of(form) ** 2)
        self._lights = LightStore(MOST_RECURRING_BYTES, only_recurring=True)
        self._meter = FlashMeter(self._rate, SketchCoding(form.space, is_rgb=True))
        self._odd: set[int] = set()  # places of frames that differ by themselves

    def run(self, report: Report, token: CancelToken) -> Iterator[FrameDifference]:
        found: dict[int, FrameDifference] = {}
        for number in range(1, self.count + 1):
            token.check()
            differs = self._compare(number)
            if differs is not None:
                found[number] = differs
            report(Progress("comparing", number, self.count))
        verdict = self._judge(range(self.count))
        for place in (*verdict.unlike, *verdict.doubts):
            other = self._nearest(place)
            away = distance(self._seen[place], self._made[place])
            if other != place and distance(self._seen[place], self._made[other]) < SAME:
                found[place + 1] = FrameDifference(
                    place + 1, f"shows frame {other + 1}", round(away, 1)
                )
            else:
                found.setdefault(
                    place + 1, FrameDifference(place + 1, "differs everywhere", round(away, 1))
                )
        self._odd = {number - 1 for number in found}
        yield from (found[number] for number in sorted(found))

    def beyond_the_codec(
        self, differs: tuple[FrameDifference, ...], reference: Reference
    ) -> tuple[FrameDifference, ...]:
        """The frames that are farther from their pictures than the codec's own are."""
        parts = [one.frame - 1 for one in differs if one.is_part][:MOST_ODD]
        pairs = self._pairs(parts, reference)
        usual = max((shown(block_distances(*one)) for one in pairs), default=0.0)
        left = tuple(one for one in differs if not one.is_part or one.by > usual)
        self._odd = {one.frame - 1 for one in left}
        return left

    def _judge(self, places: Iterable[int]) -> Verdict:
        """By sketches, as a seal is."""
        return self._compare_films(self._made, {place: self._seen[place] for place in places})

    def _judge_stretch(self, stretch: Stretch) -> Verdict:
        made, seen, _ = stretch
        return self._compare_films(made, dict(enumerate(seen)))

    def _compare_films(self, made: Sequence[Sketch], seen: Mapping[int, Sketch]) -> Verdict:
        return compare_films(
            made,
            seen,
            (self._target.width, self._target.height),
            coarse=Coarseness(self._form.coarseness),
            least_step=least_away_of(self._form),
            detail=max((made_detail(one) for one in self._details), default=0.0),
        )

    @property
    def _usual(self) -> list[int]:
        """The places of the frames that say something of the whole film: all, where most differ."""
        usual = [place for place in range(self.count) if place not in self._odd]
        return usual if 2 * len(usual) > self.count else list(range(self.count))

    def _nearest(self, place: int) -> int:
        around = range(max(0, place - NEAR), min(self.count, place + NEAR + 1))
        return min(around, key=lambda one: distance(self._seen[place], self._made[one]))

    def film_faults(self, reference: Reference) -> tuple[str, ...]:
        """What is wrong with the film as a whole, in sentences; ask after `run`.

        reference: asked where a stretch is not plainly as it should be. Raises as `encode` does.
        """
        usual = self._usual
        if self._form.space is Space.LINEAR:
            return self._judge(usual).faults
        for start in range(0, len(usual), STRETCH):
            part = usual[max(0, min(start, len(usual) - STRETCH)) :][:STRETCH]
            found = self._faults_of(self._stretch(part))
            if found and not self._form.codec.is_lossless:
                found = self._faults_of(self._stretch(part), self._referred(part, reference))
            if found:
                return found  # the first stretch names them
        return ()

    def _faults_of(self, stretch: Stretch, reference: Stretch | None = None) -> tuple[str, ...]:
        """What is wrong with a stretch, but not with what the codec makes of the same frames."""
        found = dict(self._judge_stretch(stretch).found)
        allowed = NO_LOSS
        if reference is not None:
            allowed = character_of(*reference)
            for test in self._judge_stretch(reference).found:
                found.pop(test, None)
        by_character = character_faults(character_of(*stretch), allowed)
        return (*(words for sentences in found.values() for words in sentences), *by_character)

    def _stretch(self, places: Sequence[int]) -> Stretch:
        return (
            [self._made[at] for at in places],
            [self._seen[at] for at in places],
            [self._details[at] for at in places],
        )

    def _pairs(self, places: Iterable[int], reference: Reference) -> Iterator[tuple[Codes, Codes]]:
        """What was to be shown at some places of the file, and what the codec makes of it."""
        for place in places:
            frame = self._film_frame(place + 1)
            codes = reference.codes(frame)
            if codes is not None:
                yield self._side_by_side(self._film.recipe(frame), codes)

    def _referred(self, part: Sequence[int], reference: Reference) -> Stretch | None:
        """The codec's own of the same frames."""
        made: list[Sketch] = []
        seen: list[Sketch] = []
        details: list[Detail] = []
        for one, other in self._pairs(part, reference):  # large: one at a time
            made.append(sketch_of_codes(one))
            seen.append(sketch_of_codes(other))
            details.append(detail_of(one, other))
        return (made, seen, details) if made else None

    @property
    def not_compared(self) -> Iterator[str]:
        if self._form.is_coarse:
            yield ORDER_NOT_JUDGED

    @property
    def flashes(self) -> tuple[str, ...]:
        return tuple(one.words for one in self._meter.passages)

    def _film_frame(self, number: int) -> int:
        """The film's own frame at the time of a frame of the file."""
        place = (number - 1) * self._form.rate // self._rate
        return self._film.frames.first + min(int(place), self._film.frames.count - 1)

    def _compare(self, number: int) -> FrameDifference | None:
        recipe = self._film.recipe(self._film_frame(number))
        there = read_codes(self._file, number, untagged=self._form.tags[2])
        made, there = self._side_by_side(recipe, there)
        self._seen.append(sketch_of_codes(there))
        self._made.append(sketch_of_codes(made))
        self._details.append(detail_of(made, there))
        self._meter.look(self._seen[-1])
        away = block_distances(made, there)
        if float(away.max()) <= self._far:
            return None
        where = where_words(away > self._far, there.shape)
        return FrameDifference(number, where, shown(away), is_part=True)

    def _side_by_side(self, recipe: Recipe, there: Codes) -> tuple[Codes, Codes]:
        """What was to be shown, and what is: in one size, with alpha where both have it."""
        made = codes_made(recipe, self._target, self._lights)
        there = in_size(there, self._target.width, self._target.height)
        if there.shape[2] < made.shape[2] or self._target.alpha is Alpha.NONE:
            return made[..., :3], there[..., :3]
        if self._target.alpha is Alpha.STRAIGHT and not self._form.codec.is_lossless:
            return as_seen(made), as_seen(there)
        return made, there


def sketch_of_codes(codes: Codes) -> Sketch:
    values = np.rint(np.clip(codes[..., :3], 0, 255) * 257).astype(np.uint16)
    return sketch_of_rgb([values[..., at] for at in range(3)])


def as_it_was_made(form: ResolvedFormat, file: Path, measured: Measured) -> ResolvedFormat:
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


def coarseness_of(form: ResolvedFormat) -> float:
    """Of a delivery's quality, 0 to 1: of a file that it did not make it is the best guess."""
    codec, figure = form.codec, form.codec.figure_for(form.quality)
    if codec.is_lossless:
        return 0.0
    return MIDDLE if figure is None else codec.coarseness(figure)


def least_away_of(form: ResolvedFormat) -> float:
    """What a frame has to be from its own picture, so that it may be said to show another."""
    codec = form.codec
    if form.is_coarse:
        return float("inf")  # single frames stay as the ones before them
    if not codec.is_lossless:
        return codec.step_at(codec.figure_for(form.quality))
    # A plain area is rounded alike everywhere, and may get the code of the frame beside it.
    return max(LEAST_AWAY, ROUNDED * 2.0 ** (8 - form.target.layout.depth))


def as_seen(codes: Codes) -> Codes:
    """Colour by its alpha: what a codec makes of colour that is clear is not seen."""
    return np.concatenate([codes[..., :3] * (codes[..., 3:] / 255), codes[..., 3:]], axis=2)


def block_distances(one: Codes, other: Codes) -> NDArray[np.float32]:
    """How far the mean of each block is from the other's, in the channel where it is farthest."""
    height, width = one.shape[:2]
    blocks = (max(1, width // BLOCK), max(1, height // BLOCK))
    away = cv2.resize(one - other, blocks, interpolation=cv2.INTER_AREA)
    return np.asarray(np.abs(away).reshape(blocks[1], blocks[0], -1).max(axis=2), np.float32)


def shown(away: NDArray[np.float32]) -> float:
    """How far the farthest block is, in codes, rounded as it is shown."""
    return round(float(away.max()), 1)


def where_words(far: NDArray[np.bool_], shape: tuple[int, ...]) -> str:
    """The part of the frame that differs, in pixels."""
    rows, columns = np.nonzero(far.any(axis=1))[0], np.nonzero(far.any(axis=0))[0]
    tall, wide = shape[0] / far.shape[0], shape[1] / far.shape[1]
    left, top = round(columns[0] * wide), round(rows[0] * tall)
    right, below = round((columns[-1] + 1) * wide), round((rows[-1] + 1) * tall)
    if far.mean() > 0.9:
        return "differs everywhere"
    return f"differs in {right - left} × {below - top} pixels at {left}, {top}"
