"""One delivery from its checks to its seal, in the process that it runs in."""

from __future__ import annotations

import errno
import os
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from contextlib import ExitStack, suppress
from dataclasses import replace
from pathlib import Path
from typing import Any

from av.error import FFmpegError

from waxseal.core.atomic_write import flush_to_disk, partial_name, remove_partial
from waxseal.core.deliver.compare.sound_check import sound_faults
from waxseal.core.deliver.compare.written_check import CheckOfWritten, flash_facts
from waxseal.core.deliver.encode.encode_state import HERE, EncodeOptions
from waxseal.core.deliver.encode.loudness_target import level_notes, levelled
from waxseal.core.deliver.encode.prefetch import Unreadable
from waxseal.core.deliver.encode.segments.segment_store import SegmentStore
from waxseal.core.deliver.format.delivered_names import name_taken
from waxseal.core.deliver.format.delivery_settings import (
    film_of,
    form_of,
    frames_of,
    made_of,
    reel_key_of,
)
from waxseal.core.deliver.format.expected_file import expected_of
from waxseal.core.deliver.format.output_path import aside_of, path_of
from waxseal.core.deliver.format.resolved_format import ResolvedFormat
from waxseal.core.deliver.limits.size_limit import FittedFile, encode_fitted, fitting_notes
from waxseal.core.deliver.limits.size_suggestions import coarse_words
from waxseal.core.deliver.match import match, notes_in
from waxseal.core.deliver.publish.overwrite_check import is_own_work, owner_of
from waxseal.core.deliver.publish.publish_file import clear_up, publish, publish_without_seal
from waxseal.core.deliver.publish.target_record import MadeFile, TargetRecord
from waxseal.core.deliver.run.made_with import made_with
from waxseal.core.deliver.run.preflight import preflight
from waxseal.core.deliver.run.seal_notes import (
    beyond_notes,
    light_notes,
    peak_notes,
    replaced_notes,
    stand_in_notes,
)
from waxseal.core.deliver.run.shared_encode import encode_together
from waxseal.core.errors import Cancelled, DeliveryRefused, FrameError, WaxSealError
from waxseal.core.job.model import Delivery, DeliveryState, Job, Outcome, change
from waxseal.core.plan.filestates import FileState
from waxseal.core.plan.programme import Programme
from waxseal.core.plan.recipe_range import Film
from waxseal.core.process_identity import process_name
from waxseal.core.progress import CancelToken, Report
from waxseal.core.seal.lightlevels import light_levels_of
from waxseal.core.seal.record import loudness_facts, seal_text
from waxseal.core.seal.signing import load_signer
from waxseal.core.seal.verdict import judge
from waxseal.core.text_format import names_words, plain
from waxseal.core.timing.ranges import write_frames

__all__ = ["make_delivery"]

MOST_TRIES = 4  # films whose files were replaced while they were encoded


def make_delivery(
    job: Job,
    delivery: Delivery,
    report: Report,
    token: CancelToken,
    *,
    overwrite: bool = False,
    who: EncodeOptions = HERE,
    beside: Sequence[Delivery] = (),
    origin: str = "",
) -> Outcome:
    """Encode, open again, check, seal. Never raises for what can go wrong outside: says it.

    overwrite: whether another file that has its name may go. who: encodes it.
    beside: of the job, made after it: their pictures are made with its own, see `shared_encode`.
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
    who: EncodeOptions,
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
        own = (
            encode_together(job, programme, delivery, beside, report, token, who=who)
            if not who.cluster
            else 0
        )
        programme, film, fitted = encode_whole(
            programme, delivery, form, partial, report, token, who
        )
        form, encoded = fitted.form, fitted.encoded
        if partial.is_file():
            flush_to_disk(partial)
        checked = CheckOfWritten(film, form, encoded)
        measured = checked.run(partial, report, token)
        light = light_levels_of(encoded.marks) if form.says_light_levels else None
        expected = expected_of(form, encoded.stream, light)
        flashes = tuple(one.words for one in checked.flashes)
        likeness = checked.likeness
        sound = sound_faults(partial, form, measured, token)
        if sound.not_compared:  # what cannot be checked is refused
            sound = replace(sound, faults=(*sound.faults, *sound.not_compared))
        reasons = judge(measured, expected, likeness, checked.judged_psnr, flashes, sound.faults)
        notes = (
            *notes_in(match(programme, delivery)),
            *level_notes(form),
            *fitting_notes(fitted),
            *encoded.remarks,
            *sound.notes,
            *peak_notes(measured),
            *light_notes(form.mastering, light),
            *beyond_notes(film, form),
            *(() if form.no_flashes else flashes),
            *stand_in_notes(programme, frames_of(programme.timeline, delivery)),
            *replaced_notes(programme, film.replaced()),
        )
        if reasons:
            if not likeness.is_alike:  # the next try does not take the same pictures again
                SegmentStore().forget(encoded.keys)
                reasons = (*reasons, *quality_hint(fitted))
            refused = Outcome(state=DeliveryState.REFUSED, reasons=reasons, notes=notes)
            return put_aside(partial, delivery, form, refused, MadeFile(measured.sha256, owner))
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
            made_with=made_with(film, form.target),
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
            made_from=reel_key_of(programme, delivery),
            made_of=made_of(film),
            made_as=delivery.key,
        )
        return publish_sealed(partial, record, form, sealed, replaces=replaces, owner=owner)
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
    form: ResolvedFormat,
    partial: Path,
    report: Report,
    token: CancelToken,
    who: EncodeOptions,
) -> tuple[Programme, Film, FittedFile]:
    """Encode, again with stand-ins where frames turned out unreadable on the way.

    What was replaced meanwhile is encoded again, too: what is sealed was on the disk as one state.
    Raises DeliveryRefused with every frame that nothing may stand in for.
    """
    tries = 0
    while True:
        film = film_of(programme, delivery)
        try:
            fitted = encode_fitted(film, form, partial, report, token, who)
        except FrameError:
            fitted = None  # a frame could not be read, and can by now
            if not film.changed():
                raise
        changed = film.changed()
        if fitted is None or changed:  # a file that cannot be read may only be half written
            tries += 1
            if tries == MOST_TRIES:
                raise DeliveryRefused(changing_sentence(changed))
            remove_partial(partial)
            continue
        encoded = fitted.encoded
        if not encoded.unreadable:
            if not (fitted.fits and fitted.is_fine_enough):
                trouble = coarse_words(film, delivery, fitted, token)
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


def quality_hint(fitted: FittedFile) -> Iterator[str]:
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
            f"{sequence.full_name}: {'frame' if is_one else 'frames'} {write_frames(frames)} "
            f"could not be read ({'' if is_one else f'{first}: '}{frames[first]}): "
            f"render {'it' if is_one else 'them'} again, or choose a stand-in."
        )


# ---- the end ---------------------------------------------------------------------------------


def publish_sealed(
    partial: Path,
    record: bytes,
    form: ResolvedFormat,
    sealed: Outcome,
    *,
    replaces: bool,
    owner: str,
) -> Outcome:
    """Give a good file its name, and write its record beside it."""
    trouble = name_taken(form.path, form, overwrite=replaces)
    if trouble:
        return refuse(f"{trouble} It came there meanwhile.")
    content = MadeFile(sealed.sha256, owner)
    publish(partial, record, form.path, may_replace=replaces, content=content)
    return sealed


def put_aside(
    partial: Path, delivery: Delivery, form: ResolvedFormat, refused: Outcome, content: MadeFile
) -> Outcome:
    """Keep a file that is not good enough under another name; nothing else is lost by it."""
    aside = aside_of(delivery)
    is_free = not os.path.lexists(aside) or is_own_work(aside, None, CancelToken())
    if is_free and not name_taken(aside, form, overwrite=True):
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
    for laid in dict.fromkeys(one.source for one in job.reel.sounds):
        listed.append({"name": job.sound(laid).name, "sound": True})
    return listed
