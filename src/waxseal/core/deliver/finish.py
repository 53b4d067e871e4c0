"""One delivery from its checks to its seal, in the process that it runs in."""

from __future__ import annotations

import errno
from pathlib import Path
from typing import Any

from av.error import FFmpegError

from waxseal.core.deliver.encode import Encoded, encode, target_of
from waxseal.core.deliver.forms import FORMS
from waxseal.core.deliver.frames import held_against, put_folder_in_place, write_all
from waxseal.core.deliver.preflight import notes_on, preflight, stand_in_notes
from waxseal.core.errors import Cancelled, DeliveryRefused, WaxSealError
from waxseal.core.job.model import Codec, Delivery, DeliveryState, Job, Outcome
from waxseal.core.picture.make import make
from waxseal.core.plan.programme import Programme
from waxseal.core.progress import CancelToken, Report
from waxseal.core.safely import flush_to_disk, partial_name, put_in_place, remove_partial
from waxseal.core.seal.judge import Expected, ExpectedSound, judge
from waxseal.core.seal.likeness import Plane, Sketch, compare, psnr, sketch, ssim
from waxseal.core.seal.measure import Measured, measure
from waxseal.core.seal.record import seal_path, write_seal
from waxseal.core.sound.mix import sound_plan
from waxseal.core.timing.ranges import write_frames
from waxseal.core.words import plain

__all__ = ["make_delivery"]

LOOKED_AT_WHOLE = 12  # frames compared pixel by pixel, from the first to the last


def make_delivery(job: Job, delivery: Delivery, report: Report, token: CancelToken) -> Outcome:
    """Encode, open again, check, seal. Never raises for what can go wrong outside: says it."""
    partial = partial_name(delivery.path)
    try:
        reel = preflight(job, delivery)
        if delivery.codec is Codec.EXR:
            return frames_delivered(reel, delivery, partial, report, token)
        encoded = encode(reel, delivery, partial, report, token)
        flush_to_disk(partial)
        return seal_or_refuse(encoded, delivery, partial, report, token)
    except Cancelled:
        return Outcome(state=DeliveryState.STOPPED)
    except DeliveryRefused as error:
        return refused(*error.reasons)
    except WaxSealError as error:
        return refused(str(error))
    except (FFmpegError, OSError) as error:
        return refused(writing_sentence(error, delivery.path))
    finally:
        remove_partial(partial)


def frames_delivered(
    reel: Programme, delivery: Delivery, partial: Path, report: Report, token: CancelToken
) -> Outcome:
    written = write_all(reel, delivery, partial, report, token)
    reel = written.reel or reel
    measured, reasons = held_against(written, reel, partial, report, token)
    notes = (*notes_on(reel, delivery), *stand_in_notes(reel, reel.frames))
    if reasons:
        put_folder_in_place(partial, delivery.aside, delivery, overwrite=True)
        return put_aside(delivery, reasons, notes)
    put_folder_in_place(partial, delivery.path, delivery, overwrite=delivery.overwrite)
    write_seal(
        delivery.path,
        measured,
        likeness={"farthest_codes": 0.0, "compared_whole": measured.frames},
        sources=sources_of(reel),
        notes=list(notes),
    )
    return sealed(delivery, reel, written.contents_key, measured, notes)


def refused(*reasons: str) -> Outcome:
    return Outcome(state=DeliveryState.REFUSED, reasons=reasons)


def put_aside(delivery: Delivery, reasons: tuple[str, ...], notes: tuple[str, ...]) -> Outcome:
    where = f"It was put aside as {plain(delivery.aside.name)}."
    return Outcome(state=DeliveryState.REFUSED, reasons=(*reasons, where), notes=notes)


def writing_sentence(error: Exception, path: Path) -> str:
    number = getattr(error, "errno", None)
    if number in (errno.ENOSPC, errno.EDQUOT):
        return (
            f"The disk is full: nothing was left in {plain(path.parent)}. "
            "Make room, or choose another folder."
        )
    if number == errno.EFBIG:
        return "The file grew larger than the disk takes: choose another folder or less quality."
    if isinstance(error, FileExistsError):
        return f"{plain(path.name)} has come meanwhile: choose another name, or overwrite it."
    return f"{plain(path)} cannot be written: {getattr(error, 'strerror', None) or error}."


def expected_of(reel: Programme, delivery: Delivery) -> Expected:
    width, height = target_of(reel, delivery).stored_size
    plan = sound_plan(reel.job, reel.frames, reel.rate)
    form = FORMS[delivery.codec]
    return Expected(
        width=width,
        height=height,
        frames=reel.frames.count,
        rate=reel.rate,
        codec=form.codec,
        profile=form.profile,
        pixel_format=form.pixel_format,
        colour=form.colours[delivery.space],
        sound=ExpectedSound(plan.sample_rate, plan.sound.channels, plan.count) if plan else None,
    )


def seal_or_refuse(
    encoded: Encoded, delivery: Delivery, partial: Path, report: Report, token: CancelToken
) -> Outcome:
    reel = encoded.reel
    seen: list[Sketch] = []
    poorest = PoorestFrame(reel, delivery)

    def look(index: int, planes: tuple[Plane, ...]) -> None:
        if planes and index < len(encoded.sketches):
            seen.append(sketch(planes))
            poorest.look(index, planes)

    measured = measure(
        partial, look=look, expected_frames=reel.frames.count, report=report, token=token
    )
    likeness = compare(encoded.sketches, seen)
    reasons = judge(measured, expected_of(reel, delivery), likeness, poorest.psnr)
    notes = (*notes_on(reel, delivery), *stand_in_notes(reel, reel.frames))
    if reasons:
        partial.replace(delivery.aside)
        return put_aside(delivery, reasons, notes)
    seal_path(delivery.path).unlink(missing_ok=True)
    put_in_place(partial, delivery.path, overwrite=delivery.overwrite)
    write_seal(
        delivery.path,
        measured,
        likeness={
            "farthest_codes": round(likeness.farthest, 3),
            "farthest_frame": likeness.farthest_frame,
            "poorest_psnr_db": None if poorest.psnr == float("inf") else round(poorest.psnr, 2),
            "poorest_ssim": round(poorest.ssim, 4),
            "compared_whole": poorest.count,
        },
        sources=sources_of(reel),
        notes=list(notes),
    )
    return sealed(delivery, reel, encoded.contents_key, measured, notes)


def sealed(
    delivery: Delivery,
    reel: Programme,
    contents_key: str,
    measured: Measured,
    notes: tuple[str, ...],
) -> Outcome:
    return Outcome(
        state=DeliveryState.SEALED,
        notes=notes,
        file=plain(delivery.path.name),
        size_bytes=measured.size_bytes,
        sha256=measured.sha256,
        made_from=reel.key,
        made_of=contents_key,
        made_as=delivery.key,
    )


class PoorestFrame:
    """Compares some frames pixel by pixel with their recipe, made once more."""

    def __init__(self, reel: Programme, delivery: Delivery) -> None:
        self._reel, self._target = reel, target_of(reel, delivery)
        count = reel.frames.count
        steps = min(LOOKED_AT_WHOLE, count)
        self._wanted = {round(step * (count - 1) / max(1, steps - 1)) for step in range(steps)}
        self.psnr, self.ssim = float("inf"), 1.0
        self.count = 0

    def look(self, index: int, planes: tuple[Plane, ...]) -> None:
        if index not in self._wanted:
            return
        picture = make(self._reel.recipe(self._reel.frames.first + index), self._target)
        self.psnr = min(self.psnr, psnr(picture.planes[0], planes[0]))
        self.ssim = min(self.ssim, ssim(picture.planes[0], planes[0]))
        self.count += 1


def sources_of(reel: Programme) -> list[dict[str, Any]]:
    """What the reel was made of, for the seal: names and numbers, no machine's paths."""
    listed: list[dict[str, Any]] = []
    for number, shot in enumerate(reel.job.reel.shots):
        source = reel.job.sequence(shot.source)
        span = reel.span(number)
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
                "reel_frames": str(span),
            }
        )
    for laid in reel.job.reel.sounds:
        listed.append({"name": reel.job.sound(laid.source).name, "sound": True})
    return listed
