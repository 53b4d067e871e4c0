"""One delivery from its checks to its seal, in the process that it runs in."""

from __future__ import annotations

import errno
import os
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack, suppress
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
from av.error import FFmpegError

from waxseal.core.alive import process_name
from waxseal.core.deliver.containers import CONTAINERS
from waxseal.core.deliver.containers.movies import levels_in
from waxseal.core.deliver.encode import Encoded
from waxseal.core.deliver.expecting import expected_of
from waxseal.core.deliver.fitting import Fitted, encode_fitted, fitting_notes
from waxseal.core.deliver.form import Form
from waxseal.core.deliver.levelling import level_notes, levelled
from waxseal.core.deliver.match import match, notes_in
from waxseal.core.deliver.naming import aside_of, path_of
from waxseal.core.deliver.notes import light_notes, peak_notes, replaced_notes, stand_in_notes
from waxseal.core.deliver.overwrite_check import is_own_work, owner_of
from waxseal.core.deliver.preflight import preflight
from waxseal.core.deliver.publish import clear_up, publish, publish_without_seal
from waxseal.core.deliver.segments.store import SegmentStore
from waxseal.core.deliver.settings import film_of, form_of, frames_of
from waxseal.core.deliver.smaller import coarse_words
from waxseal.core.deliver.sound_check import SoundVerdict, sound_faults
from waxseal.core.deliver.supply import Unreadable
from waxseal.core.deliver.target_record import Made, TargetRecord
from waxseal.core.deliver.together import encode_together
from waxseal.core.deliver.work import HERE, Who
from waxseal.core.errors import Cancelled, DeliveryRefused, WaxSealError
from waxseal.core.job.model import Delivery, DeliveryState, Job, Outcome, change
from waxseal.core.picture.arrays import Plane, Planes
from waxseal.core.picture.kernels.choice import KernelChoice
from waxseal.core.picture.make import make
from waxseal.core.picture.target import Layout
from waxseal.core.plan.film import Film, replaced_in
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.recipe import FileState
from waxseal.core.progress import CancelToken, Report
from waxseal.core.safely import flush_to_disk, partial_name, remove_partial
from waxseal.core.seal.flashes import Coding, FlashMeter, Passage
from waxseal.core.seal.judge import judge
from waxseal.core.seal.likeness import Likeness, fine_detail, psnr, ssim
from waxseal.core.seal.measure.facts import Measured
from waxseal.core.seal.record import loudness_facts, seal_text
from waxseal.core.seal.signing import load_signer
from waxseal.core.seal.sketches import Sketch, sketch, sketch_of_rgb
from waxseal.core.timing.ranges import write_frames
from waxseal.core.words import names_words, plain

__all__ = ["make_delivery"]

MOST_TRIES = 4  # films whose files were replaced while they were encoded
FLAT_MARGIN_DB = 2.2  # another picture of as much contrast is 3 dB below a flat one
LOOKED_AT_WHOLE = 12  # frames compared pixel by pixel, from the first to the last


def make_delivery(
    job: Job,
    delivery: Delivery,
    report: Report,
    token: CancelToken,
    *,
    overwrite: bool = False,
    who: Who = HERE,
    beside: Sequence[Delivery] = (),
    origin: str = "",
) -> Outcome:
    """Encode, open again, check, seal. Never raises for what can go wrong outside: says it.

    overwrite: whether another file that has its name may go. who: encodes it.
    beside: of the job, made after it: their pictures are made with its own, see `together`.
    origin: of the job, see `overwrite_check`.
    """
    path = path_of(delivery)
    with ExitStack() as stack:
        try:
            record = TargetRecord(path)
            stack.enter_context(record.locked())
            clear_up(path)
            record.begin_writing(process_name())
            stack.callback(forget_writer, record)
        except DeliveryRefused as error:
            return refuse(*error.reasons)
        except OSError:
            pass  # the folder is not there, or cannot be written to: preflight says so
        owner = owner_of(delivery, origin)
        return make_held(
            *(job, delivery, report, token),
            overwrite=overwrite,
            who=who,
            beside=beside,
            owner=owner,
        )


def forget_writer(record: TargetRecord) -> None:
    with suppress(OSError):
        record.end_writing(process_name())


def make_held(
    job: Job,
    delivery: Delivery,
    report: Report,
    token: CancelToken,
    *,
    overwrite: bool,
    who: Who,
    beside: Sequence[Delivery],
    owner: str,
) -> Outcome:
    path = path_of(delivery)
    partial = partial_name(path)
    try:
        replaces = overwrite or is_own_work(path, owner, token)
        programme = preflight(job, delivery, may_replace=replaces)
        signer = load_signer()  # once: it may go away while the film is made
        form = levelled(form_of(programme.timeline, delivery), token)
        kernels = KernelChoice()
        own = (
            encode_together(job, programme, delivery, beside, kernels, report, token, who=who)
            if not who.cluster
            else 0
        )
        programme, film, fitted = encode_whole(
            programme, delivery, form, partial, kernels, report, token, who
        )
        form, encoded = fitted.form, fitted.encoded
        if partial.is_file():
            flush_to_disk(partial)
        checked = Check(film, form, encoded, kernels)
        measured = checked.run(partial, report, token)
        light = levels_in(encoded.marks) if form.says_light_levels else None
        expected = expected_of(form, encoded.stream, light)
        flashes = tuple(one.words for one in checked.flashes)
        likeness = checked.likeness
        sound = sound_faults(partial, form, measured, token)
        if sound.not_compared:  # what cannot be checked is refused
            sound = SoundVerdict((*sound.faults, *sound.not_compared))
        reasons = judge(measured, expected, likeness, checked.judged_psnr, flashes, sound.faults)
        notes = (
            *notes_in(match(programme, delivery)),
            *level_notes(form),
            *fitting_notes(fitted),
            *encoded.remarks,
            *peak_notes(measured),
            *light_notes(form.mastering, light),
            *(() if form.no_flashes else flashes),
            *stand_in_notes(programme, frames_of(programme.timeline, delivery)),
            *replaced_notes(programme, film.replaced()),
        )
        if reasons:
            if not likeness.is_alike:  # the next try does not take the same pictures again
                SegmentStore().forget(encoded.keys)
                reasons = (*reasons, *quality_hint(fitted))
            refused = Outcome(state=DeliveryState.REFUSED, reasons=reasons, notes=notes)
            return put_aside(partial, delivery, form, refused, Made(measured.sha256, owner))
        # Asked again: another file may have come meanwhile.
        replaces = overwrite or is_own_work(path, owner, token)
        record = seal_text(
            form.path.name,
            measured,
            signer=signer,
            likeness=checked.facts(),
            **loudness_facts(measured),
            flashes=flash_facts(checked.flashes),
            sources=sources_of(programme),
            notes=list(notes),
        )
        sealed = Outcome(
            state=DeliveryState.SEALED,
            notes=notes,
            file=plain(form.path.name),
            size_bytes=measured.size_bytes,
            segments_made=fitted.segments_made + own,
            # (The store may have been emptied since.)
            segments_kept=max(0, fitted.segments_kept - own),
            seconds=round(measured.seconds, 6),
            sha256=measured.sha256,
            signed_by=signer.public if signer else "",
            made_from=programme.key,
            made_of=film.key(),
            made_as=delivery.key,
        )
        return place(partial, record, form, sealed, replaces=replaces, owner=owner)
    except Cancelled:
        return Outcome(state=DeliveryState.STOPPED)
    except DeliveryRefused as error:
        return refuse(*error.reasons)
    except WaxSealError as error:
        return refuse(str(error))
    except (FFmpegError, OSError) as error:
        return refuse(writing_sentence(error, path))
    finally:
        remove_partial(partial)


# ---- encoding --------------------------------------------------------------------------------


def encode_whole(
    programme: Programme,
    delivery: Delivery,
    form: Form,
    partial: Path,
    kernels: KernelChoice,
    report: Report,
    token: CancelToken,
    who: Who,
) -> tuple[Programme, Film, Fitted]:
    """Encode, again with stand-ins where frames turned out unreadable on the way.

    What was replaced meanwhile is encoded again, too: what is sealed was on the disk as one state.
    Raises DeliveryRefused with every frame that nothing may stand in for.
    """
    tries = 0
    while True:
        film = film_of(programme, delivery)
        fitted = encode_fitted(film, form, partial, kernels, report, token, who)
        encoded = fitted.encoded
        if not encoded.unreadable:
            changed = film.changed()
            if changed:
                tries += 1
                if tries == MOST_TRIES:
                    raise DeliveryRefused(changing_sentence(changed))
                remove_partial(partial)
                continue
            if not (fitted.fits and fitted.is_fine_enough):
                trouble = coarse_words(film, delivery, fitted, kernels, token)
                if trouble:
                    raise DeliveryRefused(trouble)
            return programme, film, fitted
        remove_partial(partial)
        before = programme.stand_ins.gone
        programme = programme.without((one.source, one.frame) for one in encoded.unreadable)
        reasons = tuple(unreadable_sentences(programme, encoded.unreadable))
        if reasons:
            raise DeliveryRefused(*reasons)
        if programme.stand_ins.gone == before:
            raise DeliveryRefused(encoded.unreadable[0].why)


def changing_sentence(changed: Sequence[FileState]) -> str:
    names = names_words([Path(one.path).name for one in changed])
    return (
        f"Files were replaced again and again while the delivery was made ({names}): "
        "deliver when they are complete."
    )


def quality_hint(fitted: Fitted) -> Iterator[str]:
    """What to do where the codec itself may have left out what is missing."""
    codec, is_coarse = fitted.form.codec, fitted.form.is_coarse
    if not codec.grades:
        return
    more = "a better quality" if fitted.before is None else "a higher limit or a smaller size"
    if is_coarse:
        yield f"This quality is among the coarsest of {codec.name}: choose {more}."
    else:
        yield f"If the pictures are little but noise, {codec.name} leaves much out: try {more}."


def unreadable_sentences(programme: Programme, unreadable: Iterable[Unreadable]) -> Iterator[str]:
    """A sentence for each source whose unreadable frames nothing may stand in for."""
    by_source: dict[str, dict[int, str]] = defaultdict(dict)
    for one in unreadable:
        by_source[one.source][one.frame] = one.why
    for source, frames in by_source.items():
        sequence = programme.timeline.sources[source]
        if programme.stand_ins.can_stand_in(sequence):
            continue
        first = next(iter(frames))
        is_one = len(frames) == 1
        yield (
            f"{sequence.name}: {'frame' if is_one else 'frames'} {write_frames(frames)} could not "
            f"be read ({'' if is_one else f'{first}: '}{frames[first]}): "
            f"render {'it' if is_one else 'them'} again, or choose a stand-in."
        )


# ---- checking --------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class WholeFrame:
    """A decoded frame beside its picture.

    flat: the PSNR that one even grey would have. detail: how much fine detail the picture has.
    """

    psnr: float
    ssim: float
    flat: float
    detail: float


class Check:
    """What was written, opened again and compared with what was made.

    A few frames are made again and compared whole, beside the decoding.
    """

    def __init__(self, film: Film, form: Form, encoded: Encoded, kernels: KernelChoice) -> None:
        self.film, self.form = film, form
        self._made, self._kernels = encoded.marks, kernels
        self._comparison = form.comparison
        self._decoded: dict[int, Any] = {}
        self._flashes = meter_for(form)
        self._wanted = set() if form.codec.is_lossless else evenly(film.frames.count)
        self._pool = ThreadPoolExecutor(2, "whole")
        self._comparing: list[Future[WholeFrame | None]] = []
        self.psnr, self.ssim, self.whole = float("inf"), 1.0, 0
        self.judged_psnr, self._detail = float("inf"), 0.0

    def run(self, partial: Path, report: Report, token: CancelToken) -> Measured:
        """Decode all of it. Raises UnreadableInput, FrameError, Cancelled."""
        try:
            measured = CONTAINERS[self.form.container].measure(
                partial,
                look=self._look,
                expected_frames=self.film.frames.count,
                report=report,
                token=token,
            )
            compared = [one for one in (ask.result() for ask in self._comparing) if one]
        finally:
            self._pool.shutdown(cancel_futures=True)
        self.whole = len(compared)
        self.psnr = min((one.psnr for one in compared), default=self.psnr)
        self.ssim = min((one.ssim for one in compared), default=self.ssim)
        self._detail = max((one.detail for one in compared), default=0.0)
        # What is hardly nearer than a flat picture may be fine noise that the codec left out.
        self.judged_psnr = min(
            (one.psnr for one in compared if one.psnr < one.flat - FLAT_MARGIN_DB),
            default=float("inf"),
        )
        return measured

    def _look(self, index: int, planes: Planes) -> None:
        if not planes or index >= len(self._made):
            return
        mark = self._decoded[index] = self._comparison.mark(planes)
        if self._flashes is not None:
            is_sketch = not self.form.codec.is_lossless
            self._flashes.look(
                mark if is_sketch else coarse_sketch(planes, self.form.target.layout)
            )
        if index in self._wanted:
            # A copy: the decoder uses its planes again.
            asked = self._pool.submit(self._compare_whole, index, planes[0].copy())
            self._comparing.append(asked)

    def _compare_whole(self, index: int, luma: Plane) -> WholeFrame | None:
        """None where what the frame was made from is not there any more."""
        recipe = self.film.recipe(self.film.frames.first + index)
        if replaced_in(recipe):
            return None
        made = make(recipe, self.form.target, kernels=self._kernels.current).planes[0]
        flat = np.full_like(made, round(float(made.mean())))
        return WholeFrame(psnr(made, luma), ssim(made, luma), psnr(made, flat), fine_detail(made))

    @property
    def flashes(self) -> tuple[Passage, ...]:
        return self._flashes.passages if self._flashes is not None else ()

    @cached_property
    def likeness(self) -> Likeness:
        """How like the decoded frames are to those that were made; ask once all are decoded."""
        return self._comparison.compare(self._made, self._decoded, self._detail)

    def facts(self) -> dict[str, object]:
        """How like it is, for the seal."""
        if self.form.codec.is_lossless:
            return {"farthest_codes": 0.0, "compared_whole": self.likeness.compared}
        likeness = self.likeness
        return {
            "farthest_codes": round(likeness.farthest, 3),
            "farthest_frame": likeness.farthest_frame,
            "poorest_psnr_db": None if self.psnr == float("inf") else round(self.psnr, 2),
            "poorest_ssim": round(self.ssim, 4),
            "compared_whole": self.whole,
            "figure": self.form.codec.figure_for(self.form.quality),
        }


BT601 = 5  # by its number in ITU-T H.273


def meter_for(form: Form) -> FlashMeter | None:
    """What looks for flashes; None where the limits are not for what the file holds."""
    _, _, matrix, is_full = form.tags
    layout = form.target.layout
    if layout is Layout.FULL_422:
        matrix, is_full = BT601, True
    coding = Coding(form.space, layout.is_rgb, matrix, is_full)
    return FlashMeter(form.rate, coding) if form.space.is_standard_range else None


def coarse_sketch(planes: Planes, layout: Layout) -> Sketch:
    """Of planes that lose nothing, whatever their depth."""
    return sketch_of_rgb(planes) if layout.is_rgb else sketch(planes)


def flash_facts(flashes: tuple[Passage, ...]) -> list[dict[str, object]]:
    return [
        {
            "frames": f"{one.first}-{one.last}",
            "red": one.is_red,
            "in_a_second": one.flashes,
            "area": round(one.area, 2),
        }
        for one in flashes
    ]


def evenly(count: int) -> set[int]:
    """A few frames of a film, counted from 0, from the first to the last."""
    steps = min(LOOKED_AT_WHOLE, count)
    return {round(step * (count - 1) / max(1, steps - 1)) for step in range(steps)}


# ---- the end ---------------------------------------------------------------------------------


def place(
    partial: Path, record: bytes, form: Form, sealed: Outcome, *, replaces: bool, owner: str
) -> Outcome:
    """Give a good file its name, and write its record beside it."""
    trouble = CONTAINERS[form.container].path_trouble(form.path, form, overwrite=replaces)
    if trouble:
        return refuse(f"{trouble} It came there meanwhile.")
    content = Made(sealed.sha256, owner)
    publish(partial, record, form.path, may_replace=replaces, content=content)
    return sealed


def put_aside(
    partial: Path, delivery: Delivery, form: Form, refused: Outcome, content: Made
) -> Outcome:
    """Keep a file that is not good enough under another name; nothing else is lost by it."""
    aside = aside_of(delivery)
    container = CONTAINERS[form.container]
    is_free = not os.path.lexists(aside) or is_own_work(aside, None, CancelToken())
    if is_free and not container.path_trouble(aside, form, overwrite=True):
        publish_without_seal(partial, aside, content=content)
        where = f"It was put aside as {plain(aside.name)}."
    else:
        where = f"It was not kept: {plain(aside.name)} is there already, and holds something else."
    return change(refused, reasons=(*refused.reasons, where))


def refuse(*reasons: str) -> Outcome:
    return Outcome(state=DeliveryState.REFUSED, reasons=reasons)


def writing_sentence(error: Exception, path: Path) -> str:
    number = getattr(error, "errno", None)
    if number in (errno.ENOSPC, errno.EDQUOT):
        return (
            f"The disk is full: nothing was left in {plain(path.parent)}. "
            "Make room, or choose another folder: what was encoded is kept."
        )
    if number == errno.EFBIG:
        return (
            "The file grew larger than the disk allows: choose another folder or a lower quality."
        )
    if isinstance(error, FileExistsError):
        return f"{plain(path.name)} has appeared meanwhile: choose another name, or overwrite it."
    return f"{plain(path)} cannot be written: {getattr(error, 'strerror', None) or error}."


def sources_of(programme: Programme) -> list[dict[str, Any]]:
    """What the reel was made of, for the seal: names and numbers, no machine's paths."""
    timeline = programme.timeline
    listed: list[dict[str, Any]] = []
    for part in timeline.shots:
        source, shot = part.sequence, part.laid
        listed.append(
            {
                "name": source.name,
                "pattern": plain(source.files.pattern),
                "frames": write_frames(range(shot.first, shot.last + 1)),
                "rate": str(source.reading.rate.value),
                "rate_origin": source.reading.rate.origin,
                "order": source.reading.order.value,
                "alpha": source.reading.alpha.value,
                "colour": source.reading.colour.value,
                "reel_frames": str(part.span),
            }
        )
    job = timeline.job
    for laid in job.reel.sounds:
        listed.append({"name": job.sound(laid.source).name, "sound": True})
    return listed
